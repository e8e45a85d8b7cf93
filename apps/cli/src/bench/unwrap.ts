import { surfaceOf } from '@wembrel/core/mesh/surface';
import { chartsOf } from '@wembrel/core/unwrap/charts';
import { boxCharts } from '@wembrel/core/unwrap/projections';
import { type BenchRow, round } from './turns.ts';

/** A closed surface around the origin as a grid of 4n² triangles. */
function ball(n: number, radius: (x: number, y: number, z: number) => number): [Float32Array, Uint32Array] {
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
  return [Float32Array.from(points), Uint32Array.from(indices)];
}

function torus(n: number, m: number): [Float32Array, Uint32Array] {
  const points: number[] = [];
  const indices: number[] = [];
  for (let i = 0; i < n; i++)
    for (let j = 0; j < m; j++) {
      const [a, b] = [(i / n) * 2 * Math.PI, (j / m) * 2 * Math.PI];
      const r = 1 + 0.4 * Math.cos(b);
      points.push(r * Math.cos(a), 0.4 * Math.sin(b), r * Math.sin(a));
      const [p, q] = [i * m + ((j + 1) % m), ((i + 1) % n) * m];
      indices.push(i * m + j, p, q + j, p, q + ((j + 1) % m), q + j);
    }
  return [Float32Array.from(points), Uint32Array.from(indices)];
}

/** Charts of closed surfaces against those of a box projection, with their stretch, spread of density, and time. */
export function unwrapBenches(): BenchRow[] {
  const shapes: [string, [Float32Array, Uint32Array]][] = [
    ['blob', ball(36, (x, y, z) => 1 + 0.15 * Math.sin(3 * x + 1) * Math.cos(2 * y) + 0.1 * Math.sin(4 * z))],
    ['rounded box', ball(81, (x, y, z) => (x ** 8 + y ** 8 + z ** 8) ** (-1 / 8))],
    ['torus', torus(100, 45)],
    [
      'rough hull',
      ball(
        81,
        (x, y, z) => 1 + 0.3 * Math.sin(5 * x + 1) * Math.cos(5 * y) + 0.1 * Math.sin(14 * z) * Math.cos(11 * x),
      ),
    ],
  ];
  return shapes.map(([name, [positions, indices]]) => {
    const begun = performance.now();
    const surface = surfaceOf(positions, indices);
    const charts = chartsOf(surface, { stretch: 1.05, spread: 1.25, cutAngle: 180 });
    const seconds = (performance.now() - begun) / 1000;
    const area = charts.reduce((sum, chart) => sum + chart.stretch.area, 0);
    const l2 = Math.sqrt(charts.reduce((sum, chart) => sum + chart.stretch.l2 ** 2 * chart.stretch.area, 0) / area);
    const spread =
      Math.max(...charts.map((chart) => chart.stretch.high)) / Math.min(...charts.map((chart) => chart.stretch.low));
    const boxes = boxCharts(surface).length;
    return {
      name: `unwrap ${name}, ${indices.length / 3} triangles, charts`,
      unit: 'count',
      ours: charts.length,
      reference: boxes,
      against: 'box projection',
      ratio: round(charts.length / boxes),
      note: `L2 ${l2.toFixed(4)}, spread ${spread.toFixed(2)}, ${seconds.toFixed(1)} s`,
    };
  });
}
