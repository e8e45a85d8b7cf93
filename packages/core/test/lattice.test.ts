import fc from 'fast-check';
import { expect, test } from 'vitest';
import { levelSetBytes, toLevels } from '../src/image/levels.ts';
import type { Raster } from '../src/image/raster.ts';
import { layOut } from '../src/layout/layout.ts';
import { placePoint } from '../src/layout/place.ts';
import { LATTICE } from '../src/pack/lattice.ts';
import { pack } from '../src/pack/pack.ts';
import { mapInBox, mapPoints } from '../src/pack/placed-map.ts';
import { scaledBox } from '../src/pack/rasterise.ts';
import { route } from '../src/plan/route.ts';
import { bakeHere, raster } from './bake-here.ts';
import { buildModel, decide, numbers, type PartSpec, PICTURES, quad, sizesOf } from './build.ts';
import { runs } from './sampling.ts';

const triangle = (w: number, h: number) => Float64Array.of(0, 0, w, 0, 0, h);

test('shapes on the lattice of their sources keep it at every turn, do not overlap, and lie within the sheet', () => {
  const item = fc.record({
    w: fc.integer({ min: 3, max: 60 }),
    h: fc.integer({ min: 3, max: 60 }),
    left: fc.nat(3),
    top: fc.nat(3),
    mayTurn: fc.boolean(),
  });
  fc.assert(
    fc.property(fc.array(item, { minLength: 1, maxLength: 12 }), (specs) => {
      const items = specs.map(({ w, h, left, top, mayTurn }) => ({
        shape: triangle(w, h),
        factor: 1,
        mayTurn,
        lattice: [left, top] as const,
      }));
      const result = pack(items, {
        width: 256,
        height: 256,
        margin: 2,
        rotate: 'quarter',
        maxScale: 1,
        effort: 0,
        seed: 1,
      });
      if (result.scale < 1) return;
      const taken = new Uint8Array(256 * 256);
      result.placements.forEach((place, i) => {
        const { left, top } = specs[i];
        const [w, h] = scaledBox(items[i].shape, 1);
        // The corner of the block of the source that holds the shape's upper left, on the sheet.
        const corner = [
          [-left, -top],
          [h + top, -left],
          [w + left, h + top],
          [-top, w + left],
        ][place.turns];
        for (const [k, v] of [place.x + corner[0], place.y + corner[1]].entries())
          expect(v % LATTICE, `${i} ${place.turns} ${k}`).toBe(0);
        const points = mapPoints(mapInBox(scaledBox(items[i].shape, 1), place), items[i].shape);
        for (let k = 0; k < points.length; k += 2) {
          expect(place.x + points[k]).toBeGreaterThanOrEqual(0);
          expect(place.x + points[k]).toBeLessThanOrEqual(256);
          expect(place.y + points[k + 1]).toBeLessThanOrEqual(256);
        }
        const [bw, bh] = place.turns % 2 === 0 ? [w, h] : [h, w];
        for (let y = 0; y < bh; y++)
          for (let x = 0; x < bw; x++) {
            // Middles of texels inside the turned triangle.
            const [px, py] = [x + 0.5, y + 0.5];
            const [sx, sy] = [
              [px, py],
              [py, h - px],
              [w - px, h - py],
              [w - py, px],
            ][place.turns];
            if (sx / w + sy / h >= 1) continue;
            const at = (place.y + y) * 256 + place.x + x;
            expect(taken[at]).toBe(0);
            taken[at] = 1;
          }
      });
    }),
    { numRuns: runs(60) },
  );
});

/** Islands at odd places of one picture. */
const parts: PartSpec[] = [
  [1 / 64, 2 / 64, 21 / 64, 30 / 64],
  [33 / 64, 7 / 64, 25 / 64, 19 / 64],
  [5 / 64, 39 / 64, 50 / 64, 22 / 64],
].map(([u, v, w, h], i) => ({ ...quad(i * 2, 0, w, h, u, v, w, h), slot: 'A' }));

test('a layout at full size keeps every island on the lattice of its picture', () => {
  const models = [buildModel([{ name: 'A', baseColor: 'p' }], parts)];
  const decisions = decide({ size: 256, margin: 6 });
  const { layout } = layOut(models, route(models, decisions, PICTURES), decisions, sizesOf(64));
  expect(layout.sheets[0].scale).toBe(1);
  for (const plot of layout.sheets[0].plots)
    for (const v of placePoint(plot, 0, 0)) expect(((v % LATTICE) + LATTICE) % LATTICE).toBe(0);
});

const levelsOf = (r: Raster) =>
  toLevels(r, 'srgb', false, true, new ArrayBuffer(levelSetBytes(r.width, r.height, true)));

test('inside an island mips 0 to 2 of the sheet are those of its picture', async () => {
  const random = numbers(3);
  const noise = raster(64, () => [random() * 255, random() * 255, random() * 255].map(Math.floor));
  const models = [buildModel([{ name: 'A', baseColor: 'p' }], parts)];
  const { maps, layout } = await bakeHere(models, { p: noise }, decide({ size: 256, margin: 6, rotate: 'none' }));
  const sheet = levelsOf({ width: 256, height: 256, bits: 8, data: new Uint8Array(maps.baseColor) });
  const picture = levelsOf(noise);
  let compared = 0;
  for (const plot of layout.sheets[0].plots) {
    const [ox, oy] = placePoint(plot, 0, 0);
    for (let level = 0; level <= 2; level++) {
      const step = 2 ** level;
      const x0 = Math.ceil(plot.originX / step);
      const y0 = Math.ceil(plot.originY / step);
      const x1 = Math.floor((plot.originX + plot.boxWidth) / step);
      const y1 = Math.floor((plot.originY + plot.boxHeight) / step);
      for (let y = y0; y < y1; y++)
        for (let x = x0; x < x1; x++) {
          compared++;
          for (let c = 0; c < 3; c++) {
            const there = sheet.data[sheet.offsets[level] + ((y + oy / step) * (256 / step) + x + ox / step) * 4 + c];
            expect(there).toBeCloseTo(picture.data[picture.offsets[level] + (y * (64 / step) + x) * 4 + c], 5);
          }
        }
    }
  }
  expect(compared).toBeGreaterThan(2000);
});
