import { describe, expect, test } from 'vitest';
import { repackModel } from '../src/layout/repack.ts';
import { tilesApart, uvTilesOf } from '../src/mesh/uv-tiles.ts';
import { readModel } from '../src/scene/model.ts';
import { buildModel, imageKeyOfName } from './build.ts';

/** A square of some side in metres whose UVs fill a share of a tile from its upper left. */
const square = (x: number, side: number, [u, v]: [number, number], share: number, slot = 'Body') => ({
  positions: [x, 0, 0, x + side, 0, 0, x + side, side, 0, x, side, 0],
  uvs: [u, v + share, u + share, v + share, u + share, v, u, v],
  indices: [0, 1, 2, 0, 2, 3],
  slot,
});

const tram = () =>
  buildModel(
    [{ name: 'Body' }, { name: 'Glass' }],
    [square(0, 2, [0, 0], 1), square(10, 2, [1, 0], 0.5), square(20, 1, [0, -1], 1), square(30, 1, [3, 2], 1, 'Glass')],
  );

describe('UV tiles', () => {
  test('each has its density, and the slot how unlike they are; a slot on one tile is not listed', () => {
    const [body, ...more] = uvTilesOf(tram(), 1024);
    expect(more).toEqual([]);
    expect(body.tiles.map((tile) => [tile.number, tile.u, tile.v, tile.triangles, tile.density])).toEqual([
      [1001, 0, 0, 2, 512],
      [1002, 1, 0, 2, 256],
      [1011, 0, -1, 2, 1024],
    ]);
    expect(body.unevenness).toBe(4);
  });

  test('apart: a slot for each tile, called after it, its UVs in 0–1 to the bit', () => {
    const model = tram();
    expect(tilesApart(model)).toBe(2);
    const read = readModel('x', model.document, imageKeyOfName);
    const byName = new Map(read.parts.map((part) => [read.slots[part.slot].name, part]));
    expect([...byName.keys()].sort()).toEqual(['Body_1001', 'Body_1002', 'Body_1011', 'Glass']);
    for (const part of read.parts)
      for (const v of part.uvs[0] as Float32Array) {
        expect(v).toBeGreaterThanOrEqual(0);
        expect(v).toBeLessThanOrEqual(1);
      }
    expect(Array.from(byName.get('Body_1002')?.uvs[0] ?? [])).toEqual([0, 0.5, 0.5, 0.5, 0.5, 0, 0, 0]);
    expect(byName.get('Body_1011')?.positions).toHaveLength(12);
    expect(uvTilesOf(read, 1024)).toEqual([]);
  });

  test('on one sheet at even density they are alike', () => {
    const model = tram();
    const lay = { set: 0, together: false, margin: 4, effort: 0, seed: 1, slots: ['Body'] } as const;
    repackModel(model, { ...lay, width: 512, height: 512, rotate: 'quarter', even: true, snap: false });
    const read = readModel('x', model.document, imageKeyOfName);
    const density = read.parts.slice(0, 3).map((part) => {
      const uv = part.uvs[0] as Float32Array;
      const side = Math.max(...uv.filter((_, i) => i % 2 === 0)) - Math.min(...uv.filter((_, i) => i % 2 === 0));
      return side / (part.positions[3] - part.positions[0]);
    });
    for (const d of density) expect(d / density[0]).toBeCloseTo(1, 3);
  });
});
