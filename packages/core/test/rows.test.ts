import fc from 'fast-check';
import { expect, test } from 'vitest';
import { packInRows } from '../src/pack/rows.ts';

const rectangle = (w: number, h: number) => Float64Array.of(0, 0, w, 0, w, h, 0, 0, w, h, 0, h);
const sheet = { width: 256, height: 128, rotate: 'none', maxScale: 1, effort: 0, seed: 1 } as const;

test('any rectangles stand in rows on the sheet, apart by the margin', () => {
  const side = fc.double({ min: 0.5, max: 200, noNaN: true });
  fc.assert(
    fc.property(
      fc.array(fc.tuple(side, side), { minLength: 1, maxLength: 60 }),
      fc.constantFrom(0, 2, 5),
      (sides, margin) => {
        const items = sides.map(([w, h]) => ({ shape: rectangle(w, h), factor: 1, mayTurn: true }));
        const result = packInRows(items, { ...sheet, margin });
        if (!result) return;
        const { scale, placements } = result;
        placements.forEach(({ x, y }, i) => {
          const [right, bottom] = [x + sides[i][0] * scale, y + sides[i][1] * scale];
          expect(Math.min(x, y)).toBeGreaterThanOrEqual(margin / 2);
          expect(right).toBeLessThanOrEqual(256 - margin / 2 + 1e-9);
          expect(bottom).toBeLessThanOrEqual(128 - margin / 2 + 1e-9);
          placements.slice(0, i).forEach((other, j) => {
            const [w, h] = [sides[j][0] * scale, sides[j][1] * scale];
            const beside = x >= other.x + w + margin - 1e-9 || other.x >= right + margin - 1e-9;
            const below = y >= other.y + h + margin - 1e-9 || other.y >= bottom + margin - 1e-9;
            expect(beside || below).toBe(true);
          });
        });
      },
    ),
  );
});

test('with room for all they have their full size; swatches keep theirs at any scale', () => {
  const items = [
    { shape: rectangle(100, 100), factor: 1, mayTurn: true },
    { shape: rectangle(4, 4), factor: 1, mayTurn: true, fixedSide: 8 },
  ];
  expect(packInRows(items, { ...sheet, margin: 4 })?.scale).toBe(1);
  const small = packInRows(items, { ...sheet, width: 64, height: 64, margin: 4 });
  expect(small?.scale).toBeLessThan(0.6);
  expect(small?.scale).toBeGreaterThan(0.4);
});

test('what is there already, or has no room at any scale, has no rows', () => {
  const items = [{ shape: rectangle(10, 10), factor: 1, mayTurn: true }];
  const reserves = [{ x: 0, y: 0, width: 9, height: 9 }];
  expect(packInRows(items, { ...sheet, margin: 4, reserves })).toBeNull();
  expect(packInRows(items, { ...sheet, width: 16, height: 16, margin: 30 })).toBeNull();
});
