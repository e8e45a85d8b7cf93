import { expect, test } from 'vitest';
import { textureBytes } from '../src/image/texture-memory.ts';
import { densityOf, sortedDensities } from '../src/survey/density.ts';
import { fileFigures, gpuVertices, type ImageTable, totals } from '../src/survey/figures.ts';
import { buildModel, imageKeyOfName, quad } from './build.ts';

/** A unit cube of 12 unindexed triangles; flat or smooth normals. */
function cube(smooth: boolean) {
  const positions: number[] = [];
  const normals: number[] = [];
  for (let axis = 0; axis < 3; axis++)
    for (const side of [-1, 1]) {
      const at = (a: number, b: number) => {
        const p = [0, 0, 0];
        p[axis] = side;
        p[(axis + 1) % 3] = a;
        p[(axis + 2) % 3] = b;
        return p;
      };
      const n = [0, 0, 0];
      n[axis] = side;
      for (const [a, b] of [
        [-1, -1],
        [1, -1],
        [1, 1],
        [-1, -1],
        [1, 1],
        [-1, 1],
      ]) {
        const p = at(a, b);
        positions.push(...p);
        normals.push(...(smooth ? p.map((v) => v / Math.sqrt(3)) : n));
      }
    }
  return { positions, normals, slot: 'a' };
}

test('a cube is 8 points, 24 vertices on the GPU when flat-shaded and 8 when smooth', () => {
  const flat = buildModel([{ name: 'a' }], [cube(false)]);
  const smooth = buildModel([{ name: 'a' }], [cube(true)]);
  expect(gpuVertices(flat.parts[0])).toBe(24);
  expect(gpuVertices(smooth.parts[0])).toBe(8);
  expect(fileFigures(flat, new Map(), imageKeyOfName).positions).toBe(8);
  expect(fileFigures(flat, new Map(), imageKeyOfName).triangles).toBe(12);
});

test('vertices that no triangle uses are not counted', () => {
  const model = buildModel([{ name: 'a' }], [{ ...quad(0, 0, 1, 1, 0, 0, 1, 1), indices: [0, 1, 2], slot: 'a' }]);
  expect(gpuVertices(model.parts[0])).toBe(3);
});

test('texture memory is that of every mip in whole blocks', () => {
  // 8×8: 4 blocks; 4×4, 2×2, 1×1: one block each.
  expect(textureBytes(8, 8)).toEqual({
    rgba8: (64 + 16 + 4 + 1) * 4,
    bc7: 7 * 16,
    bc1: 7 * 8,
    astc6x6: (4 + 1 + 1 + 1) * 16,
    bc4: 7 * 8,
    bc5: 7 * 16,
    astc4x4: 7 * 16,
    rgba16f: (64 + 16 + 4 + 1) * 8,
  });
  expect(textureBytes(5, 3).bc7).toBe((2 + 1 + 1) * 16);
  // A full chain is a third more than the top level, less what the smallest mips round up.
  expect(textureBytes(2048, 2048).rgba8 / (2048 * 2048 * 4)).toBeCloseTo(4 / 3, 5);
});

test('draw calls count every instance and pass; twins are found by pixels and by parameters', () => {
  const slots = [
    { name: 'a', baseColor: 'one' },
    { name: 'b', baseColor: 'copy of one' },
    { name: 'c', baseColor: 'two' },
  ];
  const model = buildModel(
    slots,
    slots.map((slot, i) => ({ ...quad(i, 0, 1, 1, 0, 0, 1, 1), slot: slot.name })),
  );
  const facts = { width: 64, height: 64, bits: 8 as const };
  const images: ImageTable = new Map([
    ['one', { ...facts, pixelKey: 'P' }],
    ['copy of one', { ...facts, pixelKey: 'P' }],
    ['two', { ...facts, pixelKey: 'Q' }],
  ]);
  const figures = fileFigures(model, images, imageKeyOfName, 2);
  expect(figures.drawCalls).toBe(6);
  const t = totals([{ model, figures }], 1, images, imageKeyOfName);
  expect(t).toMatchObject({
    files: 2,
    failed: 1,
    textures: 3,
    distinctTextures: 2,
    materials: 3,
    distinctMaterials: 2,
    instances: 3,
  });
  expect(t.textureBytes.rgba8 * 2).toBe(t.distinctTextureBytes.rgba8 * 3);
});

test('density is weighted by surface', () => {
  const density = densityOf(sortedDensities([100, 400], [1, 1]));
  expect(density).toEqual({ mean: 15, median: 10, p5: 10, p95: 20 });
  expect(densityOf(sortedDensities([100, 400], [9, 91]))?.median).toBeCloseTo(Math.sqrt(400 / 91), 9);
  expect(densityOf(sortedDensities([], []))).toBeNull();
});
