import { readdir, readFile } from 'node:fs/promises';
import { join } from 'node:path';
import { sign } from '@wembrel/demo/broken';
import { buildPlatform } from '@wembrel/demo/platform';
import { buildSigns } from '@wembrel/demo/signs';
import sharp from 'sharp';
import { describe, expect, test } from 'vitest';
import { put, temporary, wembrel } from './here.ts';

const VERBS = [
  'survey',
  'merge',
  'bake',
  'light',
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
    expect(await wembrel(['hull'])).toMatchObject({ code: 2, err: expect.stringMatching(/not in this build yet/) });
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
    const files = ['a', 'b', 'c'].map((name) => join(at, `${name}.png`));
    const run = await wembrel([
      'tile-sheet',
      ...files,
      '--out',
      out,
      '--size',
      '128',
      '--cell',
      '64',
      '--mip=-1',
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
    const at = await put(Object.fromEntries(Object.entries(buildSigns()).slice(0, 4)));
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
    const source = buildPlatform();
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
    const at = await put(Object.fromEntries(Object.entries(buildSigns()).slice(0, 3)));
    const out = join(temporary(), 'out');
    const run = await wembrel(['repair', at, '--out', out, '--share-twins', '--json']);
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
