import fc from 'fast-check';
import { describe, expect, test } from 'vitest';
import type { Raster } from '../src/image/raster.ts';
import { readModel } from '../src/scene/model.ts';
import { mapFaces, quadFaces } from '../src/tiles/map-tiles.ts';
import { mixTiles, mixTurns, parseMix } from '../src/tiles/mix.ts';
import {
  drawTiles,
  gutterForMip,
  parseTileCsv,
  sheetSideFor,
  tileCsv,
  tileGrid,
  tileRows,
} from '../src/tiles/tile-sheet.ts';
import { buildModel, imageKeyOfName } from './build.ts';

/** A picture whose every texel tells where it is. */
function told(side: number, mark: number): Raster {
  const data = new Uint8Array(side * side * 4);
  for (let y = 0; y < side; y++) for (let x = 0; x < side; x++) data.set([x, y, mark, 255], (y * side + x) * 4);
  return { width: side, height: side, bits: 8, data };
}

describe('drawing tiles', () => {
  test('each picture stands in its cell to the byte, and its padding goes on with the repeat or the border', () => {
    const grid = tileGrid(64, 32, 10, 3);
    const tiles = [told(10, 1), told(10, 2), told(10, 3), told(10, 4), told(10, 5)].map((raster, i) => ({
      name: `t${i}`,
      raster,
    }));
    for (const around of ['repeat', 'edge'] as const) {
      const { data } = drawTiles(tiles, grid, around, 'colour');
      tiles.forEach((_, i) => {
        const [cx, cy] = [(i % 4) * 16, Math.floor(i / 4) * 16];
        for (let y = 0; y < 16; y++)
          for (let x = 0; x < 16; x++) {
            const at = (v: number) => (around === 'repeat' ? (v + 10) % 10 : Math.min(9, Math.max(0, v)));
            const o = ((cy + y) * 64 + cx + x) * 4;
            expect([...data.subarray(o, o + 3)]).toEqual([at(x - 3), at(y - 3), i + 1]);
          }
      });
    }
  });

  test('256 pictures of 16 px fill 256 × 256 px without a lost texel', () => {
    const tiles = Array.from({ length: 256 }, (_, i) => ({ name: `${i}`, raster: told(16, i) }));
    expect(sheetSideFor(256, 16, gutterForMip(-1))).toBe(256);
    const { data } = drawTiles(tiles, tileGrid(256, 256, 16, 0), 'repeat', 'colour');
    const wanted = Uint8Array.from({ length: data.length }, (_, i) => {
      const [x, y] = [(i >> 2) & 255, i >> 10];
      return [x & 15, y & 15, (y >> 4) * 16 + (x >> 4), 255][i & 3];
    });
    expect(Buffer.compare(data, wanted)).toBe(0);
  });

  test('the least sheet holds so many cells, and half of it does not', () => {
    fc.assert(
      fc.property(fc.integer({ min: 1, max: 400 }), fc.integer({ min: 1, max: 64 }), fc.nat(12), (n, cell, gutter) => {
        const side = sheetSideFor(n, cell, gutter);
        const { columns, rows } = tileGrid(side, side, cell, gutter);
        expect(columns * rows).toBeGreaterThanOrEqual(n);
        const half = Math.floor(side / 2 / (cell + 2 * gutter));
        expect(half * half).toBeLessThan(n);
      }),
    );
  });

  test('a tile added later moves none', () => {
    const names = ['a', 'b', 'c', 'd', 'e', 'f'];
    const grid = tileGrid(512, 512, 128, gutterForMip(2));
    for (let n = 1; n < names.length; n++)
      expect(tileRows(names, grid).slice(0, n)).toEqual(tileRows(names.slice(0, n), grid));
  });

  test('no room is said', () => {
    expect(() => tileGrid(64, 64, 128, 0)).toThrow('a cell of 128 px + 2 × 0 px does not fit on 64 × 64 px');
    const five = Array.from({ length: 5 }, (_, i) => ({ name: `${i}`, raster: told(32, i) }));
    expect(() => drawTiles(five, tileGrid(64, 64, 32, 0), 'edge', 'colour')).toThrow(
      '5 tiles do not fit into 4 cells of 32 px + 2 × 0 px: take a sheet of 128 px or smaller cells',
    );
  });

  test('gutters reach as far as filtering does at the mip', () => {
    expect([-1, 0, 1, 2, 3].map(gutterForMip)).toEqual([0, 2, 3, 6, 12]);
  });
});

test('tables come back from CSV as they were, whatever tiles are called', () => {
  const name = fc.string({ minLength: 1, maxLength: 12 }).filter((text) => !/[\n\r]/.test(text) && text.trim() !== '');
  fc.assert(
    fc.property(fc.uniqueArray(name, { minLength: 1, maxLength: 16 }), fc.constantFrom(0, 2, 6), (names, gutter) => {
      const rows = tileRows(names, tileGrid(512, 256, 64, gutter));
      expect(parseTileCsv(tileCsv(rows))).toEqual(rows);
      for (const row of rows) {
        expect(row.uv[1] + row.uvUp[3]).toBeCloseTo(1, 12);
        expect(row.uv[3] + row.uvUp[1]).toBeCloseTo(1, 12);
      }
    }),
  );
  expect(() => parseTileCsv('a,b\n1,2')).toThrow(/line 1/);
  const good = tileCsv(tileRows(['a'], tileGrid(64, 64, 64, 0)));
  expect(() => parseTileCsv(`${good}1,b,x`)).toThrow(/line 3/);
});

describe('mixing tiles', () => {
  test('as many of each as its share says, within rounding, the same for a seed', () => {
    fc.assert(
      fc.property(
        fc.array(fc.double({ min: 0, max: 10, noNaN: true }), { minLength: 1, maxLength: 6 }),
        fc.integer({ min: 0, max: 500 }),
        fc.integer({ min: 1, max: 1e6 }),
        (shares, faces, seed) => {
          const total = shares.reduce((sum, share) => sum + share, 0);
          if (total < 1e-3) return;
          const parts = shares.map((share, i) => ({ tile: `${i}`, share }));
          const mixed = mixTiles(parts, faces, seed);
          expect(mixed).toHaveLength(faces);
          shares.forEach((share, i) => {
            const count = mixed.filter((m) => m === i).length;
            expect(Math.abs(count - (faces * share) / total)).toBeLessThan(1);
          });
          expect(mixTiles(parts, faces, seed)).toEqual(mixed);
        },
      ),
    );
    expect(mixTiles(parseMix('a:9,b:1'), 100, 1)).not.toEqual(mixTiles(parseMix('a:9,b:1'), 100, 2));
    expect(new Set(mixTurns(200, 5))).toEqual(new Set([0, 1, 2, 3]));
  });

  test('shares are read as they are written', () => {
    expect(parseMix('Slab:0.92, Cracked:0.08,Edge')).toEqual([
      { tile: 'Slab', share: 0.92 },
      { tile: 'Cracked', share: 0.08 },
      { tile: 'Edge', share: 1 },
    ]);
    expect(() => parseMix('a,')).toThrow(/is not TILE/);
  });
});

test('every face takes the whole picture of its cell, turned as asked, and keeps its place', () => {
  // Two squares that share an edge, their UVs running on from one to the other.
  const model = buildModel(
    [{ name: 'Paving' }],
    [
      {
        positions: [0, 0, 0, 1, 0, 0, 2, 0, 0, 0, 0, 1, 1, 0, 1, 2, 0, 1],
        uvs: [0, 0, 1, 0, 2, 0, 0, 1, 1, 1, 2, 1],
        indices: [0, 4, 1, 0, 3, 4, 1, 5, 2, 1, 4, 5],
        slot: 'Paving',
      },
    ],
  );
  const [part] = model.parts;
  const faces = quadFaces(part);
  expect(faces.map((face) => [...face].sort())).toEqual([
    [0, 1],
    [2, 3],
  ]);
  const rows = tileRows(['a', 'b'], tileGrid(64, 64, 24, 4));
  const material = model.document.createMaterial('tiles');
  mapFaces(model.document, part, { faces, cells: [rows[0], rows[1]], turns: [0, 1], material });
  const [after] = readModel('x', model.document, imageKeyOfName).parts;
  expect(after.positions.length / 3).toBe(8);
  const uv = (t: number, k: number) => {
    const v = after.indices[t * 3 + k];
    return [(after.uvs[0] as Float32Array)[2 * v] * 64, (after.uvs[0] as Float32Array)[2 * v + 1] * 64];
  };
  // The first as it was: its corner (1, 1) at the end of cell a. The second by a quarter: (1, 0) → (1, 0) turned is (1, 1) of the cell.
  expect([uv(0, 0), uv(0, 1), uv(0, 2)]).toEqual([
    [4, 4],
    [28, 28],
    [28, 4],
  ]);
  expect([uv(2, 0), uv(2, 1), uv(2, 2)]).toEqual([
    [60, 4],
    [36, 28],
    [60, 28],
  ]);
});
