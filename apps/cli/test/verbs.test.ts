import { readdir, readFile, writeFile } from 'node:fs/promises';
import { join } from 'node:path';
import { sign } from '@wembrel/demo/broken';
import { buildPlatform } from '@wembrel/demo/platform';
import { buildSigns } from '@wembrel/demo/signs';
import sharp from 'sharp';
import { describe, expect, test } from 'vitest';
import { kept } from '../../../packages/demo/test/kept.ts';
import { put, temporary, wembrel } from './here.ts';

const VERBS = [
  'survey',
  'merge',
  'bake',
  'light',
  'recipe',
  'plan',
  'repair',
  'faces',
  'unwrap',
  'pack',
  'cut-repeats',
  'tile-sheet',
  'palette',
  'demo-files',
  'bench',
];

describe('every verb', () => {
  test('says what it is for', async () => {
    for (const verb of VERBS) {
      const help = await wembrel([verb, '--help']);
      expect([verb, help.code, help.err]).toEqual([verb, 0, '']);
      expect(help.out).toMatch(new RegExp(`wembrel ${verb}`));
    }
  });

  test('refuses an option that it does not have, and to work without input, in one line', async () => {
    for (const args of [['repair', '--no-such-option'], ['light'], ['tile-sheet', '--out', join(temporary(), 'out')]]) {
      const run = await wembrel(args);
      expect([args[0], run.code, run.out]).toEqual([args[0], 2, '']);
      expect(run.err.trim().split('\n')).toHaveLength(1);
    }
  });

  test('what is no verb is named; what is not there yet is called so', async () => {
    expect(await wembrel(['bakee'])).toMatchObject({ code: 2, err: expect.stringMatching(/no verb "bakee"/) });
    expect(await wembrel(['run'])).toMatchObject({ code: 2, err: expect.stringMatching(/not in this build yet/) });
  });
});

/** A picture of one colour as PNG. */
const plain = (r: number, g: number, b: number) =>
  sharp({ create: { width: 32, height: 32, channels: 3, background: { r, g, b } } })
    .png()
    .toBuffer();

describe('tile-sheet', () => {
  test('pictures stand in the cells of one sheet, row by row, and its table says where', async () => {
    const at = await put({
      'a.png': await plain(200, 0, 0),
      'b.png': await plain(0, 200, 0),
      'c.png': await plain(0, 0, 200),
    });
    const out = join(temporary(), 'out');
    const run = await wembrel([
      'tile-sheet',
      at,
      '--out',
      out,
      '--size',
      '128',
      '--cell',
      '64',
      '--mip',
      '-1',
      '--json',
    ]);
    expect(run.code).toBe(0);
    const report = JSON.parse(run.out);
    expect(
      report.tiles.map((tile: { name: string; column: number; row: number }) => [tile.name, tile.column, tile.row]),
    ).toEqual([
      ['a', 0, 0],
      ['b', 1, 0],
      ['c', 0, 1],
    ]);
    const sheet = (await readdir(out, { recursive: true })).find((file) => String(file).endsWith('.png'));
    const { data, info } = await sharp(join(out, String(sheet)))
      .removeAlpha()
      .raw()
      .toBuffer({ resolveWithObject: true });
    const middle = (column: number, row: number) => {
      const o = ((row * 64 + 32) * info.width + column * 64 + 32) * info.channels;
      return [...data.subarray(o, o + 3)];
    };
    expect([middle(0, 0), middle(1, 0), middle(0, 1)]).toEqual([
      [200, 0, 0],
      [0, 200, 0],
      [0, 0, 200],
    ]);
  });

  test('the sample in the docs builds a textured kerb from the table', async () => {
    const at = await put({
      'kerb_top.png': await plain(200, 0, 0),
      'kerb_side.png': await plain(0, 200, 0),
      'slab.png': await plain(0, 0, 200),
    });
    const out = join(temporary(), 'out');
    const run = await wembrel(['tile-sheet', at, '--out', out, '--flip', 'kerb_side=u', '--json']);
    expect(run.code, run.err).toBe(0);
    const table = JSON.parse(await readFile(join(out, 'tiles.json'), 'utf8'));
    expect(table.blocks).toEqual([{ name: 'kerb', faces: { side: 0, top: 1 } }]);
    expect(table.tiles.map((tile: { flips: string; role: string }) => [tile.flips, tile.role])).toEqual([
      ['u', 'side'],
      ['', 'top'],
      ['', null],
    ]);
    const docs = await readFile(new URL('../../../docs/tiles.md', import.meta.url), 'utf8');
    const code = /```js\n([\s\S]*?)```/.exec(docs)?.[1] as string;
    const file = join(temporary(), 'sample.mjs');
    await writeFile(file, code);
    const { buildBlock } = await import(/* @vite-ignore */ file);
    const { positions, normals, uvs, indices } = buildBlock(table, 'kerb', [1, 0.2, 0.3]);
    expect([positions.length, uvs.length, indices.length]).toEqual([72, 48, 36]);
    const { data, info } = await sharp(join(out, 'tiles.png')).raw().toBuffer({ resolveWithObject: true });
    for (let t = 0; t < indices.length; t += 3) {
      const corners = indices.slice(t, t + 3) as number[];
      const place = (v: number) => positions.slice(v * 3, v * 3 + 3) as number[];
      const [a, b, c] = corners.map(place);
      const [e, f] = [b, c].map((p) => p.map((value, k) => value - a[k]));
      const cross = [e[1] * f[2] - e[2] * f[1], e[2] * f[0] - e[0] * f[2], e[0] * f[1] - e[1] * f[0]];
      const normal = normals.slice(corners[0] * 3, corners[0] * 3 + 3) as number[];
      // Faces look outward, and show the tile of their role.
      expect(cross.reduce((sum, value, k) => sum + value * normal[k], 0)).toBeGreaterThan(0);
      const [u, v] = [0, 1].map((k) => corners.reduce((sum, corner) => sum + uvs[corner * 2 + k] / 3, 0));
      const o = (Math.floor(v * info.height) * info.width + Math.floor(u * info.width)) * info.channels;
      expect([...data.subarray(o, o + 3)]).toEqual(normal[1] > 0 ? [200, 0, 0] : [0, 200, 0]);
    }
    expect(Math.min(...positions.filter((_: number, i: number) => i % 3 === 1))).toBe(0);
  });

  test('more pictures than cells are refused in a sentence', async () => {
    const at = await put({ 'a.png': await plain(1, 1, 1), 'b.png': await plain(2, 2, 2) });
    const args = ['a', 'b'].map((name) => join(at, `${name}.png`));
    const run = await wembrel([
      'tile-sheet',
      ...args,
      '--out',
      join(temporary(), 'out'),
      '--size',
      '64',
      '--cell',
      '64',
    ]);
    expect(run.code).toBeGreaterThan(0);
    expect(run.err.trim().split('\n')).toHaveLength(1);
  });
});

describe('palette', () => {
  test('signs of few colours share one material and one small texture', async () => {
    const at = await put(Object.fromEntries(Object.entries(kept(buildSigns)).slice(0, 4)));
    const out = join(temporary(), 'out');
    const run = await wembrel(['palette', at, '--out', out, '--colours', '64', '--json']);
    expect(run.code).toBe(0);
    const report = JSON.parse(run.out);
    expect(report.errors).toEqual([]);
    const models = (await readdir(out)).filter((file) => file.endsWith('.glb'));
    expect(models).toHaveLength(4);
    const survey = JSON.parse((await wembrel(['survey', out, '--json'])).out);
    expect(survey.totals).toMatchObject({ failed: 0, distinctMaterials: 1 });
  });
});

describe('light', () => {
  test('puts vertex colours into every model, the same at any number of threads; the source stays', async () => {
    const source = kept(buildPlatform);
    const at = await put({ 'platform.glb': source });
    const lit = async (threads: string) => {
      const out = join(temporary(), 'out');
      const run = await wembrel(['light', at, '--out', out, '--rays', '16', '--threads', threads, '--json']);
      expect(run.code).toBe(0);
      expect(JSON.parse(run.out).models[0].vertices).toBeGreaterThan(0);
      return readFile(join(out, 'platform.glb'));
    };
    const [one, two] = [await lit('1'), await lit('2')];
    expect(Buffer.compare(one, two)).toBe(0);
    expect(one.includes('COLOR_0')).toBe(true);
    expect(Buffer.compare(await readFile(join(at, 'platform.glb')), Buffer.from(source))).toBe(0);
  });
});

describe('repair', () => {
  test('copies of one texture become one file that all models name', async () => {
    const at = await put(Object.fromEntries(Object.entries(kept(buildSigns)).slice(0, 3)));
    const out = join(temporary(), 'out');
    const run = await wembrel(['repair', at, '--out', out, '--share-duplicates', '--json']);
    expect(run.code).toBe(0);
    const { before, after } = JSON.parse(run.out);
    expect([before.textures, after.distinctTextures]).toEqual([3, 1]);
    expect(await readdir(join(out, 'textures'))).toHaveLength(1);
  });

  test('faces that a project keeps apart are refused in a faces file', async () => {
    const at = await put({
      'sign.glb': sign().glb(),
      'faces.json': new TextEncoder().encode(
        JSON.stringify({
          groups: [{ id: 'g', name: 'G', hue: 1, faces: { 'sign.glb': { 0: `sha256:${'a'.repeat(64)}` } } }],
        }),
      ),
    });
    const run = await wembrel(['survey', join(at, 'sign.glb'), '--faces', join(at, 'faces.json')]);
    expect([run.code, run.out]).toEqual([2, '']);
    expect(run.err).toMatch(/known in a project only/);
  });
});

test('merge --leave keeps an object as it is; one that is not there is refused', async () => {
  const at = await put({ 'sign.glb': sign({ names: ['Front', 'Back'] }).glb() });
  const out = join(temporary(), 'out');
  const args = ['merge', at, '--out', out, '--all', '--size', '64', '--no-compare', '--json'];
  const before = JSON.parse((await wembrel(args)).out);
  expect(before.keptApart).toEqual([]);
  const kept = JSON.parse((await wembrel([...args, '--leave', 's*'])).out);
  expect(kept.keptApart.map(({ slot, code }: Record<string, string>) => `${slot} ${code}`).sort()).toEqual([
    'Back rule',
    'Front rule',
  ]);
  const refused = await wembrel([...args, '--leave', 'nothing']);
  expect(refused.code).toBe(1);
  expect(refused.out + refused.err).toMatch(/nothing: no object is called so; there are /);
});

test('one table has the options of all verbs, and the page on the command line names each of them', async () => {
  const { code, out } = await wembrel(['options', '--json']);
  expect(code).toBe(0);
  const { options } = JSON.parse(out) as { options: { option: string; verbs: string[]; meaning: string }[] };
  for (const verb of VERBS) expect(options.some(({ verbs }) => verbs.includes(verb))).toBe(true);
  expect(options.find(({ option }) => option === '--json')?.verbs).toEqual(['all']);
  const page = await readFile(new URL('../../../docs/cli.md', import.meta.url), 'utf8');
  const missing = [...new Set(options.map(({ option }) => option))].filter((option) => !page.includes(`${option}`));
  expect(missing).toEqual([]);
  expect((await wembrel(['options'])).out).toMatch(/--margin PX +.*merge/);
});

describe('recipe', () => {
  const recipe = (lines: unknown) => new TextEncoder().encode(JSON.stringify({ recipe: 1, name: 'Slate', lines }));
  const slate = { name: 'slate', what: { look: { from: 'values', color: '#3a4650', roughness: 0.7 } } };

  test('apply lays it on a model and says how far each line reaches; the schema describes it', async () => {
    const [name] = Object.keys(kept(buildSigns));
    const edges = {
      name: 'edges',
      what: { change: 'lighten', by: 0.4 },
      where: { of: 'convex', from: 0.1, soft: 0.1 },
    };
    const at = await put({ [name]: kept(buildSigns)[name], 'slate.json': recipe([slate, edges]) });
    const out = join(temporary(), 'out');
    const args = ['--recipe', join(at, 'slate.json'), '--out', out, '--size', '64', '--samples', '1', '--json'];
    const run = await wembrel(['recipe', 'apply', join(at, name), ...args]);
    expect([run.code, run.err]).toEqual([0, '']);
    const report = JSON.parse(run.out);
    expect(report).toMatchObject({ recipe: 'Slate', errors: [] });
    expect(report.models[0].lines[0]).toMatchObject({ line: 'slate', mean: 1 });
    expect(report.models[0].lines[1].texels).toBeGreaterThan(0);
    expect(report.written).toContain('manifest.json');
    const schema = JSON.parse((await wembrel(['recipe', 'schema'])).out);
    expect(schema.required).toEqual(['recipe', 'name']);
  });

  test('merge --recipe lays it on the sheets, on the models that are named', async () => {
    const names = Object.keys(kept(buildSigns)).slice(0, 2);
    const signs = Object.fromEntries(names.map((name) => [name, kept(buildSigns)[name]]));
    const at = await put({ ...signs, 'recipe/slate.json': recipe([slate]) });
    const out = join(temporary(), 'out');
    const laid = ['--recipe', join(at, 'recipe/slate.json'), '--recipe-for', names[0]];
    const more = ['--out', out, '--size', '128', '--all', '--effort', '1', '--no-compare', '--json'];
    const run = await wembrel(['merge', ...names.map((name) => join(at, name)), ...laid, ...more]);
    expect([run.code, run.err]).toEqual([0, '']);
    const { recipes, faults } = JSON.parse(run.out);
    expect(recipes).toMatchObject([{ sheet: 'sheet', recipe: 'Slate', lines: [{ line: 'slate', mean: 1 }] }]);
    expect(faults.filter(({ code }: { code: string }) => code === 'recipe')).toEqual([]);
  });

  test('apply --cell makes maps of one cell', async () => {
    const at = await put({ 'slate.json': recipe([slate]) });
    const out = join(temporary(), 'out');
    const run = await wembrel([
      'recipe',
      'apply',
      '--cell',
      '16',
      '--recipe',
      join(at, 'slate.json'),
      '--out',
      out,
      '--json',
    ]);
    expect(run.code).toBe(0);
    const [cell] = JSON.parse(run.out).models;
    const { data } = await sharp(join(out, cell.maps.baseColor)).raw().toBuffer({ resolveWithObject: true });
    expect([...data.subarray(0, 3)]).toEqual([0x3a, 0x46, 0x50]);
  });

  test('what is wrong in a recipe is said with its place', async () => {
    const wrong = { ...slate, where: { of: 'noise', size: -3 } };
    const at = await put({
      'a.json': recipe([wrong]),
      'b.json': recipe([slate, slate]),
      'c.json': recipe([{ ...slate, where: { use: 'x' } }]),
    });
    const said = async (file: string) =>
      (await wembrel(['recipe', 'apply', '--cell', '8', '--recipe', join(at, file), '--out', join(at, 'out')])).err;
    expect(await said('a.json')).toMatch(/a\.json: lines\.0\.where\.size: .*>0/);
    expect(await said('b.json')).toMatch(/two lines are called "slate"/);
    expect(await said('c.json')).toMatch(/no condition called "x"/);
    expect(await said('none.json')).toMatch(/there is no such file/);
    const deep = `${'{"not":'.repeat(5000)}{"of":"noise","size":3}${'}'.repeat(5000)}`;
    const text = JSON.stringify({ recipe: 1, name: 'd', lines: [{ ...slate, where: 0 }] });
    await writeFile(join(at, 'd.json'), text.replace('"where":0', `"where":${deep}`));
    expect(await said('d.json')).toMatch(/conditions stand in each other at most 8 deep/);
  });
});
