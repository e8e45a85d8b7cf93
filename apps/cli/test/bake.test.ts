import { readdir, readFile } from 'node:fs/promises';
import { join } from 'node:path';
import { parseGlb } from '@wembrel/core/formats/gltf/glb';
import { buildPostHigh, buildPostLow } from '@wembrel/demo/posts';
import { expect, test } from 'vitest';
import { kept } from '../../../packages/demo/test/kept.ts';
import { put, temporary, wembrel } from './here.ts';

const at = await put({
  'post_high.glb': kept(buildPostHigh, 8),
  'post_low.glb': kept(buildPostLow),
  'cut.glb': kept(buildPostLow).slice(0, 900),
});
const [high, low] = ['post_high.glb', 'post_low.glb'].map((file) => join(at, file));

test('a bake by the contract: maps, pairings with their counts, faults with their places', async () => {
  const out = temporary();
  const ran = await wembrel([
    'bake',
    '--high',
    high,
    '--low',
    low,
    '--out',
    out,
    '--maps',
    'normal,ao,id',
    '--size',
    '64',
    '--json',
  ]);
  expect([ran.code, ran.err]).toEqual([0, '']);
  const r = JSON.parse(ran.out);
  expect(r.pairings).toHaveLength(1);
  for (const key of ['high', 'low', 'texels', 'missed', 'stray', 'skewed']) expect(r.pairings[0]).toHaveProperty(key);
  expect(r.maps.map((map: { kind: string; path: string; bits: number }) => [map.kind, map.path, map.bits])).toEqual([
    ['normal', 'post_low_normal.png', 8],
    ['ao', 'post_low_ao.png', 8],
    ['id', 'post_low_id.png', 8],
  ]);
  expect(await readdir(out)).toEqual(r.written);
  expect(r.rays).toBeGreaterThan(0);
  expect(r.raysPerSecond).toBeGreaterThan(0);
  for (const fault of r.faults) {
    expect(fault.sheet).toHaveLength(2);
    expect(fault.place).toHaveLength(3);
  }
  expect(r.errors).toEqual([]);
  // The human report: a line a pairing and a line a map.
  const told = await wembrel([
    'bake',
    '--high',
    high,
    '--low',
    low,
    '--out',
    out,
    '--size',
    '32',
    '--name',
    'post',
    '--quiet',
  ]);
  expect(told.code).toBe(0);
  expect(told.out).toMatch(/^pairing +texels +missed/);
  expect(told.out).toContain('post_normal.png  8 bit');
});

test('wrong usage ends with 2 and says what is taken', async () => {
  const cases: [string[], string][] = [
    [['--maps', 'gloss'], '--maps knows no "gloss"'],
    [['--samples', '9'], '--samples takes 1, 4, 16, 64'],
    [['--outward', 'far'], '--outward takes a number'],
  ];
  for (const [more, says] of cases) {
    // A list of files ends at the next option.
    const ran = await wembrel(['bake', '--low', low, '--out', temporary(), ...more, '--high', high]);
    expect([ran.code, ran.err]).toEqual([2, expect.stringContaining(says)]);
  }
});

test('bad input is named in a line and ends with 1', async () => {
  const out = temporary();
  const none = await wembrel(['bake', '--high', join(at, 'none.glb'), '--low', low, '--out', out, '--json']);
  expect(none.code).toBe(1);
  expect(none.err).toContain('there is no such file or folder');
  expect(JSON.parse(none.out).errors[0].path).toContain('none.glb');
  const cut = await wembrel(['bake', '--high', join(at, 'cut.glb'), '--low', low, '--out', out]);
  expect(cut.code).toBe(1);
  expect(cut.err).toContain('cut.glb');
  // The high-poly has no UVs to bake onto.
  const turned = await wembrel(['bake', '--high', low, '--low', high, '--pair', 'all', '--out', out]);
  expect([turned.code, turned.err]).toEqual([
    1,
    expect.stringContaining('has no UV set 0 to bake onto; unwrap it first'),
  ]);
  expect(await readdir(out)).toEqual([]);
});

test('light goes into vertex colours; without any it is refused', async () => {
  const out = temporary();
  const ran = await wembrel([
    'light',
    low,
    '--out',
    out,
    '--sun',
    '1,2,1',
    '--tint',
    '#ffd080',
    '--rays',
    '8',
    '--json',
  ]);
  expect([ran.code, ran.err]).toEqual([0, '']);
  const r = JSON.parse(ran.out);
  expect(r.models).toEqual([{ path: 'post_low.glb', vertices: 60, severalPlaces: 0 }]);
  const { json } = parseGlb('post_low.glb', new Uint8Array(await readFile(join(out, 'post_low.glb'))));
  const { meshes } = json as { meshes: { primitives: { attributes: Record<string, number> }[] }[] };
  expect(meshes[0].primitives[0].attributes).toHaveProperty('COLOR_0');
  const none = await wembrel(['light', low, '--out', out, '--ao', '0']);
  expect([none.code, none.err]).toEqual([2, expect.stringContaining('--ao above 0, or --sun')]);
});
