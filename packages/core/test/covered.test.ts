import { expect, test } from 'vitest';
import { covered } from '../src/pack/covered.ts';
import { isCrowded } from '../src/pack/crowded.ts';
import { pack } from '../src/pack/pack.ts';
import { shapeArea } from '../src/pack/rasterise.ts';
import { roundsFor } from '../src/pack/rounds.ts';

const rectangle = (w: number, h: number, x = 0, y = 0) =>
  Float64Array.of(x, y, x + w, y, x + w, y + h, x, y, x + w, y + h, x, y + h);

/** A disc of wedges, each laid over its neighbours. */
function disc(radius: number, wedges: number, over: number): Float64Array {
  const out: number[] = [];
  const at = (k: number) => [
    radius + radius * Math.cos((2 * Math.PI * k) / wedges),
    radius + radius * Math.sin((2 * Math.PI * k) / wedges),
  ];
  for (let k = 0; k < wedges; k++) for (let i = 0; i < over; i++) out.push(radius, radius, ...at(k), ...at(k + 1));
  return Float64Array.from(out);
}

test('what does not overlap covers its triangles, exactly; what lies on itself counts once', () => {
  const shape = disc(50, 64, 1);
  expect(covered(shape)).toEqual({ area: shapeArea(shape), outline: null });
  const thrice = covered(disc(50, 64, 3));
  expect(thrice.area / shapeArea(shape)).toBeCloseTo(1, 1.5);
  // By two directions alone (Crofton), of a circle π / 4 · 4 · 2 r.
  expect((thrice.outline ?? 0) / (2 * Math.PI * 50)).toBeCloseTo(1, 1);
  const cross = covered(Float64Array.of(...rectangle(90, 30, 0, 30), ...rectangle(30, 90, 30, 0)));
  expect(cross.area / (90 * 30 + 60 * 30)).toBeCloseTo(1, 1.5);
});

test('shapes that certainly have no room are told from those that fit to the texel', () => {
  const options = { width: 128, height: 128, margin: 0, rotate: 'none', maxScale: 1, effort: 0, seed: 1 } as const;
  const squares = (count: number) =>
    Array.from({ length: count }, () => ({ shape: rectangle(32, 32), factor: 1, mayTurn: false }));
  const crowded = (count: number, margin = 0) => {
    const items = squares(count);
    return isCrowded(
      items,
      items.map((item) => covered(item.shape)),
      { ...options, margin },
    );
  };
  expect([crowded(16), crowded(17), crowded(9, 10), crowded(16, 10)]).toEqual([false, true, false, true]);
  expect(pack(squares(16), options).scale).toBe(1);
});

test('islands of layers that lie on each other are packed as large as those of one layer', () => {
  const options = { width: 512, height: 512, margin: 4, rotate: 'quarter', maxScale: 1e4, effort: 0, seed: 1 } as const;
  const scaleOf = (layers: number) =>
    pack(
      Array.from({ length: 30 }, (_, i) => ({ shape: disc(20 + (i % 5) * 6, 24, layers), factor: 1, mayTurn: true })),
      options,
    ).scale;
  // Before, five layers were taken for five times the area: 0.44 of the scale.
  expect(scaleOf(5) / scaleOf(1)).toBeGreaterThan(0.97);
});

test('a plan has as many rounds as its effort for few, fewer for more', () => {
  expect([1, 60, 100, 150, 289, 400].map((count) => roundsFor(6, count))).toEqual([6, 6, 6, 1, 0, 0]);
  expect(roundsFor(100, 400)).toBe(1);
});
