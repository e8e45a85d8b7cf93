import { expect, test } from 'vitest';
import { MergeDecisions } from '../src/decisions/decisions.ts';
import { heldTooNear } from '../src/layout/held-gaps.ts';
import { packSheet } from '../src/layout/pack-sheet.ts';
import { placePoint } from '../src/layout/place.ts';
import { gapBetween, placedBorder } from '../src/pack/gaps.ts';
import { numbers } from './build.ts';
import { shapeDistance } from './gap.ts';
import { plot } from './plot.ts';

const box = (w: number, h: number) => Float64Array.of(0, 0, w, 0, w, h, 0, 0, w, h, 0, h);

const pin = (key: string, x: number, y: number, width: number, height: number, more: object = {}) => ({
  key,
  x,
  y,
  width,
  height,
  turns: 0 as const,
  scale: 1,
  ...more,
});

function laid(shapes: Float64Array[], pinned: object[], margin = 4) {
  const decisions = MergeDecisions.parse({
    sheets: [{ id: '1', name: 'sheet', size: 128, margin, pinned }],
    rotate: 'free',
    effort: 1,
  });
  const plots = shapes.map((shape, i) => plot(i, shape));
  const sharp = plots.map(() => ({ factor: 1, most: 1 }));
  const packed = packSheet(plots, { factors: sharp, sheet: decisions.sheets[0], index: 0, decisions });
  return { packed, sheet: decisions.sheets[0] };
}

test('what a hand put somewhere stays there, turned as it was, and all others keep their distance', () => {
  const c = Math.SQRT1_2;
  const side = 40 * Math.SQRT2;
  const held = pin('k0', 30.25, 40.5, side, side, { direction: [c, c] });
  const random = numbers(3);
  const shapes = [box(40, 40), ...Array.from({ length: 14 }, () => box(8 + random() * 30, 6 + random() * 20))];
  const { packed, sheet } = laid(shapes, [held]);
  const [first, ...rest] = packed.plots;
  expect([first.x, first.y, first.direction, first.scale]).toEqual([30.25, 40.5, [c, c], 1]);
  expect(packed.scale).toBeLessThanOrEqual(1);
  const at = (p: (typeof packed.plots)[number]) => {
    const [dc, ds] =
      p.direction ??
      (
        [
          [1, 0],
          [0, 1],
          [-1, 0],
          [0, -1],
        ] as const
      )[p.turns];
    const w = Math.abs(dc) * p.boxWidth + Math.abs(ds) * p.boxHeight;
    const h = Math.abs(ds) * p.boxWidth + Math.abs(dc) * p.boxHeight;
    const turned = (v: number, k: number, a: Float64Array) => {
      const x = (k % 2 === 0 ? v : a[k - 1]) * p.scale - p.boxWidth / 2;
      const y = (k % 2 === 0 ? a[k + 1] : v) * p.scale - p.boxHeight / 2;
      return k % 2 === 0 ? p.x + w / 2 + dc * x - ds * y : p.y + h / 2 + ds * x + dc * y;
    };
    return Float64Array.from(p.shape, (v, k) => turned(v, k, p.shape));
  };
  for (const p of rest) expect(shapeDistance(at(first), at(p))).toBeGreaterThanOrEqual(4 - 1e-6);
  expect(heldTooNear(packed.plots, sheet)).toEqual([]);
});

test('a flipped bay lies mirrored: what is packed, what is said of it and where its points go agree', () => {
  // An L whose notch is on the right: flipped, a box that would lie in the notch on the right lies in the one on the left.
  const l = Float64Array.of(0, 0, 40, 0, 40, 10, 0, 0, 40, 10, 0, 10, 0, 10, 10, 10, 10, 40, 0, 10, 10, 40, 0, 40);
  const decisions = MergeDecisions.parse({
    sheets: [{ id: '1', name: 'sheet', size: 64, margin: 2, flipped: ['k0', 'gone'] }],
    rotate: 'none',
    effort: 2,
  });
  const [sheet] = decisions.sheets;
  const plots = [plot(0, l), plot(1, box(24, 24)), plot(2, box(40, 8))];
  const sharp = plots.map(() => ({ factor: 1, most: 1 }));
  const turned = (shape: Float64Array) => {
    const [ax, ay, bx, by, cx, cy] = shape;
    return Math.sign((bx - ax) * (cy - ay) - (cx - ax) * (by - ay));
  };
  const placedOf = (flipped: string[]) => {
    const packed = packSheet(plots, { factors: sharp, sheet: { ...sheet, flipped }, index: 0, decisions });
    const shapes = packed.plots.map((plot) => {
      const out = new Float64Array(plot.shape.length);
      for (let k = 0; k < out.length; k += 2) out.set(placePoint(plot, plot.shape[k], plot.shape[k + 1]), k);
      return out;
    });
    return { packed, shapes };
  };
  const { packed, shapes } = placedOf(sheet.flipped);
  expect(packed.plots.map((plot) => plot.flip)).toEqual([40, undefined, undefined]);
  expect(turned(shapes[0])).toBe(-turned(l));
  expect(turned(placedOf([]).shapes[0])).toBe(turned(l));
  for (const [a, b] of [
    [0, 1],
    [0, 2],
    [1, 2],
  ])
    expect(shapeDistance(shapes[a], shapes[b])).toBeGreaterThanOrEqual(2 - 1e-6);
  // The leg of the L is on its right now.
  const right = Math.max(...shapes[0].filter((_, k) => k % 2 === 0));
  const foot = shapes[0].filter(
    (_, k) => k % 2 === 0 && shapes[0][k + 1] > Math.max(...shapes[0].filter((_, m) => m % 2 === 1)) - 1,
  );
  expect(Math.min(...foot)).toBeCloseTo(right - 10 * packed.scale, 6);
  expect(heldTooNear(packed.plots, sheet)).toEqual([]);
});

test('held bays that are too near, inside each other or at the border are named; those that just keep it are not', () => {
  const near = (x: number, size = 20) => {
    const pins = [pin('k0', 10, 10, 40, 40), pin('k1', x, 20, size, size)];
    const { packed, sheet } = laid([box(40, 40), box(size, size)], pins);
    return heldTooNear(packed.plots, sheet);
  };
  expect(near(54)).toEqual([]);
  expect(near(53.9)).toEqual([0, 1]);
  expect(near(20, 10)).toEqual([0, 1]);
  const { packed, sheet } = laid([box(20, 20)], [pin('k0', 1, 50, 20, 20)]);
  expect(heldTooNear(packed.plots, sheet)).toEqual([0]);
});

test('the gap of borders is that of an independent check, at any turn', () => {
  const random = numbers(11);
  for (let k = 0; k < 200; k++) {
    const edges = Float64Array.of(-10, -5, 10, -5, 10, -5, 10, 5, 10, 5, -10, 5, -10, 5, -10, -5);
    const shape = Float64Array.of(-10, -5, 10, -5, 10, 5, -10, -5, 10, 5, -10, 5);
    const a = random() * 7;
    const pose = [random() * 60, random() * 30, Math.cos(a), Math.sin(a)] as const;
    const put = (x: number, y: number, c: number, s: number) =>
      Float64Array.from(shape, (_, i) =>
        i % 2 === 0 ? x + c * shape[i] - s * shape[i + 1] : y + s * shape[i - 1] + c * shape[i],
      );
    const gap = gapBetween(placedBorder(edges, 1, 20, 15, 1, 0), placedBorder(edges, 1, ...pose), 25);
    expect(gap).toBeCloseTo(Math.min(25, shapeDistance(put(20, 15, 1, 0), put(...pose))), 9);
  }
});

test('a disc that is turned may be held where its box reaches over the side but it does not', () => {
  const c = Math.SQRT1_2;
  const shape = Float64Array.from(
    Array.from({ length: 48 }, (_, k) => {
      const at = (i: number) => [20 + 20 * Math.cos((Math.PI * i) / 24), 20 + 20 * Math.sin((Math.PI * i) / 24)];
      return [20, 20, ...at(k), ...at(k + 1)];
    }).flat(),
  );
  const side = 40 * Math.SQRT2;
  // Its middle is 22 px from both sides: half the margin of 4 px is kept.
  const corner = 22 - side / 2;
  expect(corner).toBeLessThan(-6);
  for (const [snap, away] of [
    [false, 0],
    [true, 0],
    [false, 1.5],
  ] as const) {
    const held = pin('k0', corner - away, corner, side, side, { direction: [c, c] });
    const decisions = MergeDecisions.parse({
      sheets: [{ id: '1', name: 'sheet', size: 128, margin: 4, pinned: [held] }],
      rotate: 'free',
      effort: 1,
      snap,
    });
    const plots = [shape, box(30, 20), box(12, 50)].map((s, i) => plot(i, s));
    const packed = packSheet(plots, {
      factors: plots.map(() => ({ factor: 1, most: 1 })),
      sheet: decisions.sheets[0],
      index: 0,
      decisions,
    });
    expect([packed.plots[0].x, packed.plots[0].y]).toEqual([corner - away, corner]);
    const points = packed.plots.map((plot) => {
      const out = new Float64Array(plot.shape.length);
      for (let k = 0; k < out.length; k += 2) out.set(placePoint(plot, plot.shape[k], plot.shape[k + 1]), k);
      return out;
    });
    for (const other of [1, 2]) expect(shapeDistance(points[0], points[other])).toBeGreaterThanOrEqual(4 - 1e-6);
    expect(heldTooNear(packed.plots, decisions.sheets[0])).toEqual(away > 0 ? [0] : []);
  }
});
