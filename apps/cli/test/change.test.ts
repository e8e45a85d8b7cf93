import { readdir, readFile } from 'node:fs/promises';
import { join } from 'node:path';
import { brokenFiles, sign } from '@wembrel/demo/broken';
import { buildFurniture } from '@wembrel/demo/furniture';
import { buildLamps } from '@wembrel/demo/posts';
import { buildRails } from '@wembrel/demo/rails';
import sharp from 'sharp';
import { describe, expect, test } from 'vitest';
import { kept } from '../../../packages/demo/test/kept.ts';
import { put, temporary, wembrel } from './here.ts';

const STACK = /\n\s+at |Error:|\.m?js:\d/;

describe('verbs that hand models over again', () => {
  test.each([['unwrap', '--effort', '0'], ['pack', '--effort', '0'], ['cut-repeats'], ['collide', '--as', 'hull']])(
    '%s: bad files are told in a sentence each, good ones beside them go on',
    async (verb, ...more) => {
      const at = await put({ ...brokenFiles(), 'sign.glb': sign().glb(), 'rails.glb': kept(buildRails) });
      const out = join(temporary(), 'out');
      const run = await wembrel([verb, at, '--out', out, '--json', ...more]);
      expect(run.code).toBe(1);
      expect(run.err).not.toMatch(STACK);
      const report = JSON.parse(run.out);
      expect(report.errors.length).toBeGreaterThan(3);
      for (const error of report.errors) expect(error.message).not.toMatch(/\n|undefined|is not a function/);
      expect(report.models.map((model: { path: string }) => model.path)).toContain('sign.glb');
      expect((await readdir(out)).filter((file) => file.startsWith('.'))).toEqual([]);
    },
  );

  test('faces: parts are listed with their groups; changed models are handed over; a change that cannot be done ends with 1', async () => {
    const at = await put({ 'rails.glb': kept(buildRails) });
    const group = { id: 'a', name: 'Rails', hue: 0, parts: ['HandrailSteel'] };
    const edit = { id: 's', kind: 'strip', groups: ['a'], slot: 'BattenWood' };
    const files = await put({
      'good.json': new TextEncoder().encode(JSON.stringify({ groups: [group], edits: [edit] })),
      'bad.json': new TextEncoder().encode(
        JSON.stringify({ groups: [group], edits: [{ id: 'r', kind: 'relax', groups: ['a'], set: 3 }] }),
      ),
      'wrong.json': new TextEncoder().encode(JSON.stringify({ groups: [group], edits: [{ ...edit, groups: ['b'] }] })),
    });
    const listed = await wembrel(['faces', at, '--faces', join(files, 'good.json'), '--json']);
    expect(JSON.parse(listed.out).models[0].parts[0]).toEqual({
      number: 0,
      name: 'HandrailSteel',
      slot: 'HandrailSteel',
      faces: 24,
      groups: { Rails: 24 },
      inNone: 0,
    });
    const out = join(temporary(), 'out');
    const run = await wembrel(['faces', at, '--faces', join(files, 'good.json'), '--out', out, '--json']);
    expect(run.code).toBe(0);
    expect(JSON.parse(run.out).edited[0].edits[0]).toMatchObject({ faces: 24, failed: false });
    expect(await readdir(out)).toContain('rails.glb');
    const bad = await wembrel(['faces', at, '--faces', join(files, 'bad.json'), '--out', join(temporary(), 'out')]);
    expect([bad.code, bad.out]).toEqual([1, expect.stringMatching(/no UV set 3/)]);
    const wrong = await wembrel(['faces', at, '--faces', join(files, 'wrong.json')]);
    expect([wrong.code, wrong.err]).toEqual([2, expect.stringMatching(/edits.0.groups: .*"b", which does not exist/)]);
    expect(wrong.err).not.toMatch(STACK);
  });

  test('palette: where no face has one colour that is said, in one document too', async () => {
    const at = await put({ 'sign.glb': sign().glb() });
    const run = await wembrel(['palette', at, '--out', join(temporary(), 'out'), '--json']);
    expect(run.code).toBe(1);
    expect(JSON.parse(run.out)).toEqual({
      errors: [{ path: 'palette', message: 'no face shows one colour alone; nothing can go to a palette' }],
    });
    expect(run.err).not.toMatch(STACK);
  });

  test('the same input gives the same bytes, and only broken input writes nothing', async () => {
    const at = await put({ 'rails.glb': kept(buildRails) });
    const runs = await Promise.all(
      [0, 1].map(async () => {
        const out = temporary();
        const { code } = await wembrel([
          'unwrap',
          at,
          '--out',
          out,
          '--size',
          '256',
          '--margin',
          '2',
          '--effort',
          '2',
          '--embed',
        ]);
        expect(code).toBe(0);
        return readFile(join(out, 'rails.glb'));
      }),
    );
    expect(runs[0].equals(runs[1])).toBe(true);
    const out = join(temporary(), 'out');
    const bad = await wembrel(['pack', await put({ 'torn.glb': kept(buildRails).slice(0, 300) }), '--out', out]);
    expect(bad.code).toBe(1);
    expect(await readdir(out).catch(() => [])).toEqual([]);
  });

  test('repair: a total of triangles is shared out, the heaviest meshes give most; one that cannot be reached is refused', async () => {
    const at = await put({ 'heads.glb': buildLamps(), 'sign.glb': sign().glb() });
    const out = temporary();
    const ran = await wembrel(['repair', at, '--out', out, '--reduce', '5000', '--json']);
    expect(ran.code, ran.err).toBe(0);
    const { before, after } = JSON.parse(ran.out);
    expect(before.triangles).toBeGreaterThan(20_000);
    expect(after.triangles).toBeLessThanOrEqual(5000);
    expect(after.triangles).toBeGreaterThan(4500);
    const files = await wembrel(['survey', out, '--json']);
    const signs = JSON.parse(files.out).files.find((file: { path: string }) => file.path.endsWith('sign.glb'));
    expect(signs.triangles).toBe(2);
    const few = await wembrel(['repair', at, '--out', temporary(), '--reduce', '1']);
    expect([few.code, few.err.trim()]).toEqual([2, expect.stringContaining('cannot be reached')]);
  });

  test('tile-sheet: a table in both forms, a mix that names no tile, and names that come twice', async () => {
    const red = await sharp({ create: { width: 8, height: 8, channels: 3, background: '#a00' } })
      .png()
      .toBuffer();
    const at = await put({ 'slab.png': red, 'cracked.png': red, 'other/slab.png': red });
    const images = ['slab.png', 'cracked.png'].map((name) => join(at, name));
    const out = temporary();
    const good = await wembrel([
      'tile-sheet',
      ...images,
      '--out',
      out,
      '--size',
      '64',
      '--cell',
      '26',
      '--mip',
      '1',
      '--json',
    ]);
    expect(good.code).toBe(0);
    const report = JSON.parse(good.out);
    expect(report.tiles.map((tile: { px: number[] }) => tile.px)).toEqual([
      [3, 3, 26, 26],
      [35, 3, 26, 26],
    ]);
    expect((await readdir(out)).sort()).toEqual(['tiles.csv', 'tiles.json', 'tiles.png']);
    expect(JSON.parse(await readFile(join(out, 'tiles.json'), 'utf8')).tiles).toEqual(report.tiles);
    const mix = await wembrel(['tile-sheet', ...images, '--out', out, '--mix', 'A=gone:1']);
    expect([mix.code, mix.err.trim()]).toEqual([1, expect.stringContaining('names "gone", which is no tile')]);
    const twice = await wembrel(['tile-sheet', images[0], join(at, 'other/slab.png'), '--out', out]);
    expect([twice.code, twice.err.trim()]).toEqual([1, expect.stringContaining('two tiles have this name')]);
  });

  test('collide adds shapes to models, or writes them alone; a trial loads what was written and counts no shape', async () => {
    const at = await put({ 'stop.glb': kept(buildFurniture, 0.25) });
    const [out, alone] = [join(temporary(), 'out'), join(temporary(), 'alone')];
    const run = await wembrel(['collide', at, '--as', 'capsule', '--by', 'object', '--out', out, '--json']);
    const [made] = JSON.parse(run.out).models;
    expect(made).toMatchObject({ path: 'stop.glb', error: null });
    expect(made.shapes).toBeGreaterThan(1);
    expect(made.outside).toBeLessThan(1e-3);
    const before = JSON.parse((await wembrel(['trial', at, '--json'])).out);
    const after = JSON.parse((await wembrel(['trial', out, '--json'])).out);
    expect([after.drawCalls, after.triangles]).toEqual([before.drawCalls, before.triangles]);
    await wembrel(['collide', at, '--as', 'pieces', '--pieces', '4', '--alone', '--out', alone]);
    const shapes = JSON.parse((await wembrel(['trial', alone, '--json'])).out);
    expect(shapes).toMatchObject({ models: [], drawCalls: 0, problems: [] });
  });

  test('a trial of a delivery that is not whole ends with 1 and says what is wrong', async () => {
    const at = await put({ 'sign.glb': sign().glb(), 'cut.glb': sign().glb().subarray(0, 200) });
    const run = await wembrel(['trial', at]);
    expect(run.code).toBe(1);
    expect(run.err).toMatch(/^cut\.glb: cannot be loaded: it ends in the middle$/m);
    expect(run.err).not.toMatch(STACK);
    expect((await wembrel(['trial'])).code).toBe(2);
    expect((await wembrel(['collide', at, '--out', 'o'])).code).toBe(2);
  });
});
