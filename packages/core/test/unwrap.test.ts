import fc from 'fast-check';
import { describe, expect, test } from 'vitest';
import { type Surface, surfaceOf } from '../src/mesh/surface.ts';
import { chartsOf } from '../src/unwrap/charts.ts';
import { type Flat, l2Of, relaxFlat, stretchOf } from '../src/unwrap/flatten.ts';
import { boxCharts, cylindricalCharts, planarCharts } from '../src/unwrap/projections.ts';
import { stripCharts } from '../src/unwrap/quads.ts';
import { flattenSurface } from '../src/unwrap/unwrap.ts';
import { numbers } from './build.ts';
import { runs } from './sampling.ts';

const LIMITS = { stretch: 1.05, spread: 1.25, cutAngle: 180 };

/** A closed surface around the origin: how far it is in a direction. */
function ball(n: number, radius: (x: number, y: number, z: number) => number): Surface {
  const points: number[] = [];
  const indices: number[] = [];
  for (let y = 0; y <= n; y++)
    for (let x = 0; x < 2 * n; x++) {
      const [a, b] = [(x / n) * Math.PI, (y / n) * Math.PI];
      const s = y === 0 || y === n ? 0 : Math.sin(b);
      const d = [s * Math.cos(a), Math.cos(b), s * Math.sin(a)] as const;
      const r = radius(...d);
      points.push(d[0] * r, d[1] * r, d[2] * r);
    }
  for (let y = 0; y < n; y++)
    for (let x = 0; x < 2 * n; x++) {
      const [i, j] = [y * 2 * n + x, y * 2 * n + ((x + 1) % (2 * n))];
      if (y > 0) indices.push(i, j, i + 2 * n);
      if (y < n - 1) indices.push(j, j + 2 * n, i + 2 * n);
    }
  return surfaceOf(Float32Array.from(points), Uint32Array.from(indices));
}

/** A grid over (u, v) in whole numbers. */
function sheet(w: number, h: number, at: (u: number, v: number) => [number, number, number]): Surface {
  const points: number[] = [];
  const indices: number[] = [];
  for (let v = 0; v <= h; v++) for (let u = 0; u <= w; u++) points.push(...at(u, v));
  for (let v = 0; v < h; v++)
    for (let u = 0; u < w; u++) {
      const i = v * (w + 1) + u;
      indices.push(i, i + 1, i + w + 2, i, i + w + 2, i + w + 1);
    }
  return surfaceOf(Float32Array.from(points), Uint32Array.from(indices));
}

const cube = () => {
  const corner = (i: number) => [i & 1, (i >> 1) & 1, (i >> 2) & 1];
  const quads = [
    [0, 4, 6, 2],
    [1, 3, 7, 5],
    [0, 1, 5, 4],
    [2, 6, 7, 3],
    [0, 2, 3, 1],
    [4, 5, 7, 6],
  ];
  const indices = quads.flatMap(([a, b, c, d]) => [a, b, c, a, c, d]);
  return surfaceOf(Float32Array.from(Array.from({ length: 8 }, (_, i) => corner(i)).flat()), Uint32Array.from(indices));
};

const corners = (flat: Flat, i: number) =>
  [0, 1, 2].map((k) => {
    const v = flat.local[i * 3 + k];
    return [flat.uv[2 * v], flat.uv[2 * v + 1]] as const;
  });

const turn = (a: readonly number[], b: readonly number[], c: readonly number[]) =>
  (b[0] - a[0]) * (c[1] - a[1]) - (c[0] - a[0]) * (b[1] - a[1]);

/** Independent of the code: every face once, none turned over, and no point that lies deep in two faces of a chart. */
function check(surface: Surface, flats: Flat[], random: () => number): void {
  const faces = flats.flatMap((flat) => [...flat.triangles]).sort((a, b) => a - b);
  expect(faces).toEqual(Array.from({ length: surface.areas.length }, (_, i) => i));
  for (const flat of flats) {
    const list = Array.from(flat.triangles, (_, i) => corners(flat, i));
    list.forEach((t, i) => {
      if (surface.areas[flat.triangles[i]] > 1e-12) expect(turn(t[0], t[1], t[2])).toBeGreaterThan(0);
    });
    for (let n = 0; n < 200; n++) {
      const i = Math.floor(random() * list.length);
      // What has no area lies over nothing.
      if (!(surface.areas[flat.triangles[i]] > 1e-12)) continue;
      const t = list[i];
      const p = [0, 1].map((k) => (t[0][k] + t[1][k] + t[2][k]) / 3);
      const inside = list.filter(
        (o, j) => j !== i && turn(o[0], o[1], p) > 1e-9 && turn(o[1], o[2], p) > 1e-9 && turn(o[2], o[0], p) > 1e-9,
      );
      expect(inside).toEqual([]);
    }
  }
}

describe('charts', () => {
  const cases: [string, () => Surface, number][] = [
    ['a ball', () => ball(16, () => 1), 8],
    [
      'a blob',
      () => ball(20, (x, y, z) => 1 + 0.15 * Math.sin(3 * x + 1) * Math.cos(2 * y) + 0.1 * Math.sin(4 * z)),
      8,
    ],
    ['a rounded box', () => ball(20, (x, y, z) => (x ** 8 + y ** 8 + z ** 8) ** (-1 / 8)), 16],
    ['a cube', cube, 3],
  ];
  for (const [name, make, most] of cases)
    test(`${name}: few, within the limits, nothing turned over or overlapping`, () => {
      const surface = make();
      const charts = chartsOf(surface, LIMITS);
      expect(charts.length).toBeLessThanOrEqual(most);
      check(
        surface,
        charts.map((chart) => chart.flat),
        numbers(7),
      );
      for (const chart of charts) {
        expect(chart.stretch.l2).toBeLessThanOrEqual(LIMITS.stretch);
        expect(chart.stretch.high / chart.stretch.low).toBeLessThanOrEqual(LIMITS.spread);
        // All charts have the surface's own density.
        const flat = chart.flat.triangles.reduce(
          (sum, _, i) => sum + turn(...(corners(chart.flat, i) as [never, never, never])) / 2,
          0,
        );
        expect(flat / chart.stretch.area).toBeCloseTo(1, 6);
      }
    });

  test('what is flat or rolled comes out as it is: one chart, no stretch', () => {
    const rolled = sheet(30, 6, (u, v) => [Math.cos(u / 10), v / 10, Math.sin(u / 10)]);
    for (const surface of [sheet(8, 5, (u, v) => [u, 0.3 * u, v]), rolled]) {
      const charts = chartsOf(surface, LIMITS);
      expect(charts).toHaveLength(1);
      expect(charts[0].stretch.l2).toBeCloseTo(1, 3);
    }
  });

  test('with a limit on bends, every side that bends by more is a border', () => {
    expect(chartsOf(cube(), { ...LIMITS, cutAngle: 60 })).toHaveLength(6);
    expect(chartsOf(cube(), { ...LIMITS, cutAngle: 100 }).length).toBeLessThan(4);
  });

  test('a face that would lie over another one around a corner of both gets a chart of its own', () => {
    // Three faces on the side 0-1, all in one plane; the third lies on the first.
    const points = Float32Array.from([0, 0, 0, 4, 0, 0, 0, 4, 0, 0, -4, 0, 1, 1, 0]);
    const indices = Uint32Array.from([0, 1, 2, 1, 0, 3, 0, 1, 4, 2, 1, 4]);
    const surface = surfaceOf(points, indices);
    check(
      surface,
      chartsOf(surface, LIMITS).map((chart) => chart.flat),
      numbers(3),
    );
  });

  test('any heap of triangles is laid flat: sides of three faces, twins, faces without area', () => {
    fc.assert(
      fc.property(fc.integer({ min: 1, max: 1e9 }), fc.integer({ min: 1, max: 40 }), (seed, count) => {
        const random = numbers(seed);
        const points = Float32Array.from({ length: 24 }, () => Math.round(random() * 4) / 4);
        const indices = Uint32Array.from({ length: count * 3 }, () => Math.floor(random() * 8));
        const surface = surfaceOf(points, indices);
        check(
          surface,
          chartsOf(surface, LIMITS).map((chart) => chart.flat),
          random,
        );
      }),
      { numRuns: runs(60) },
    );
  });
});

describe('stretch', () => {
  test('is that of the definition: √((a² + b²) / 2) of the singular values, at equal area', () => {
    const surface = sheet(4, 4, (u, v) => [u, v, 0]);
    const flat: Flat = {
      triangles: Uint32Array.from({ length: 32 }, (_, i) => i),
      places: Uint32Array.from({ length: surface.points.length / 3 }, (_, i) => i),
      uv: Float64Array.from(
        { length: (surface.points.length / 3) * 2 },
        (_, i) => surface.points[(i >> 1) * 3 + (i & 1)] * (i & 1 ? 1 : 2),
      ),
      local: surface.corners,
    };
    // Twice as wide: the surface shrinks by 1/2 and 1 per unit flat; scaled to equal area 1/√2 and √2.
    const expected = Math.sqrt((0.5 + 2) / 2);
    expect(stretchOf(surface, flat).l2).toBeCloseTo(expected, 9);
    expect(l2Of(surface, flat)).toBeCloseTo(expected, 9);
    expect(stretchOf(surface, flat).low).toBeCloseTo(Math.SQRT2, 9);
    // Relaxing finds the flat sheet again.
    expect(stretchOf(surface, relaxFlat(surface, flat, 30, 200)).l2).toBeCloseTo(1, 4);
  });
});

describe('strips', () => {
  /** Every chart is a grid of rectangles: each corner lies on one of its columns and rows, and covers its box. */
  const rectangular = (flat: Flat) => {
    const area = flat.triangles.reduce(
      (sum, _, i) => sum + turn(...(corners(flat, i) as [never, never, never])) / 2,
      0,
    );
    const us = flat.uv.filter((_, i) => i % 2 === 0);
    const vs = flat.uv.filter((_, i) => i % 2 === 1);
    const box = (Math.max(...us) - Math.min(...us)) * (Math.max(...vs) - Math.min(...vs));
    expect(area).toBeCloseTo(box, 9);
    return [Math.max(...us) - Math.min(...us), Math.max(...vs) - Math.min(...vs)].sort((a, b) => a - b);
  };

  test('a bent, tapering strip becomes one exact rectangle of its own length', () => {
    const strip = sheet(20, 1, (u, v) => {
      const a = u / 8;
      const r = 2 + (v ? 0.2 + 0.004 * u : 0);
      return [Math.cos(-a) * r, 0.1 * u, Math.sin(-a) * r];
    });
    const { flats, rest } = stripCharts(strip);
    expect(rest).toHaveLength(0);
    expect(flats).toHaveLength(1);
    check(strip, flats, numbers(2));
    const [short, long] = rectangular(flats[0]);
    expect(short).toBeCloseTo(0.24, 2);
    // A helix of 20 steps, its length the mean of both rims.
    const rim = (r: number) => 20 * Math.hypot(2 * r * Math.sin(1 / 16), 0.1);
    expect(long).toBeGreaterThan(rim(2));
    expect(long).toBeLessThan(rim(2.28));
  });

  test('a closed tube is cut along one line and is one rectangle, vertices of the seam at both ends', () => {
    const n = 16;
    const points: number[] = [];
    const indices: number[] = [];
    for (let y = 0; y <= 3; y++)
      for (let x = 0; x < n; x++) points.push(Math.cos((x / n) * 2 * Math.PI), y, -Math.sin((x / n) * 2 * Math.PI));
    for (let y = 0; y < 3; y++)
      for (let x = 0; x < n; x++) {
        const [a, b] = [y * n + x, y * n + ((x + 1) % n)];
        indices.push(a, b, b + n, a, b + n, a + n);
      }
    const tube = surfaceOf(Float32Array.from(points), Uint32Array.from(indices));
    const { flats } = stripCharts(tube);
    expect(flats).toHaveLength(1);
    check(tube, flats, numbers(3));
    const [short, long] = rectangular(flats[0]);
    expect(short).toBeCloseTo(3, 9);
    expect(long).toBeCloseTo(2 * n * Math.sin(Math.PI / n), 6);
    expect(new Set(flats[0].places).size).toBe(4 * n);
    expect(flats[0].places).toHaveLength(4 * (n + 1));
    expect(stretchOf(tube, flats[0]).l2).toBeCloseTo(1, 6);
  });

  test('a cube is two strips at the most but for its ends; what is no quad is left over', () => {
    const { flats, rest } = stripCharts(cube());
    expect(rest).toHaveLength(0);
    check(cube(), flats, numbers(4));
    for (const flat of flats) expect(stretchOf(cube(), flat).l2).toBeCloseTo(1, 9);
    const fan = surfaceOf(Float32Array.of(0, 0, 0, 1, 0, 0, 0.4, 0, 0.9), Uint32Array.of(0, 2, 1));
    expect(stripCharts(fan)).toEqual({ flats: [], rest: Uint32Array.of(0) });
  });
});

describe('projections', () => {
  test('box: six charts of a cube, each a square at its own size', () => {
    const flats = boxCharts(cube());
    expect(flats).toHaveLength(6);
    check(cube(), flats, numbers(1));
    for (const flat of flats) expect(stretchOf(cube(), flat).l2).toBeCloseTo(1, 9);
  });

  test('planar: what faces the axis and what faces away, apart', () => {
    const flats = planarCharts(
      ball(12, () => 1),
      'y',
    );
    expect(flats).toHaveLength(2);
  });

  test('cylindrical: the mantle in two halves without stretch, the ends flat', () => {
    const tube = sheet(48, 4, (u, v) => [Math.sin((u / 24) * Math.PI) * 0.5, v, Math.cos((u / 24) * Math.PI) * 0.5]);
    const flats = cylindricalCharts(tube, 'y');
    expect(flats).toHaveLength(2);
    for (const flat of flats) expect(stretchOf(tube, flat).l2).toBeCloseTo(1, 2);
  });
});

test('a turned body unrolls along its lines: a rectangle each, cut along one of them; a ball, which cannot, is cut into charts', () => {
  const turned = (radius: (t: number) => number): Surface => {
    const [around, along] = [24, 6];
    const points: number[] = [];
    const indices: number[] = [];
    for (let j = 0; j <= along; j++)
      for (let i = 0; i < around; i++) {
        const a = (2 * Math.PI * i) / around;
        const r = radius(j / along);
        points.push(r * Math.cos(a), j / along, r * Math.sin(a));
      }
    for (let j = 0; j < along; j++)
      for (let i = 0; i < around; i++) {
        const [a, b] = [j * around + i, j * around + ((i + 1) % around)];
        indices.push(a, a + around, b, b, a + around, b + around);
      }
    return surfaceOf(Float32Array.from(points), Uint32Array.from(indices));
  };
  const options = { method: 'charts', axis: 'y', stretch: 1.05, spread: 1.25, cutAngle: 180 } as const;
  const flats = flattenSurface(
    turned((t) => 0.2 + 0.02 * Math.sin(t * 3)),
    options,
  );
  expect(flats).toHaveLength(1);
  const [u, v] = [0, 1].map(
    (k) =>
      new Set(
        Array.from(
          flats[0].uv.filter((_, i) => i % 2 === k),
          (x) => x.toFixed(9),
        ),
      ),
  );
  // A grid of 7 × 25 lines, whichever way it runs.
  expect([u.size, v.size].sort((a, b) => a - b)).toEqual([7, 25]);
  expect(
    flattenSurface(
      turned((t) => 0.02 + 0.5 * Math.sin(Math.PI * t)),
      options,
    ).length,
  ).toBeGreaterThan(1);
});
