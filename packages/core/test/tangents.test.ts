import { generateTangents } from 'mikktspace';
import { beforeAll, expect, test } from 'vitest';
import { perpendicular } from '../src/math/perpendicular.ts';
import { cornerTangents, flatNormals, tangentsReady } from '../src/mesh/tangents.ts';
import { numbers } from './build.ts';

beforeAll(() => tangentsReady);

/** An unindexed bumpy patch with smooth normals and skewed UVs, one half mirrored. */
function patch(n: number) {
  const random = numbers(11);
  const height = Array.from({ length: (n + 1) * (n + 1) }, () => random() * 0.4);
  const positions: number[] = [];
  const normals: number[] = [];
  const uvs: number[] = [];
  const at = (i: number, j: number) => [i, j, height[j * (n + 1) + i]];
  const normal = (i: number, j: number) => {
    const h = (a: number, b: number) => height[Math.min(n, Math.max(0, b)) * (n + 1) + Math.min(n, Math.max(0, a))];
    const v = [h(i - 1, j) - h(i + 1, j), h(i, j - 1) - h(i, j + 1), 2];
    const length = Math.hypot(...v);
    return v.map((c) => c / length);
  };
  for (let j = 0; j < n; j++)
    for (let i = 0; i < n; i++)
      for (const [a, b] of [
        [0, 0],
        [1, 0],
        [1, 1],
        [0, 0],
        [1, 1],
        [0, 1],
      ]) {
        positions.push(...at(i + a, j + b));
        normals.push(...normal(i + a, j + b));
        const u = i + a < n / 2 || (i + a === n / 2 && i < n / 2) ? i + a : n - i - a;
        uvs.push(u / n + (j + b) * 0.02, 1 - (j + b) / n);
      }
  return { p: Float32Array.from(positions), n: Float32Array.from(normals), t: Float32Array.from(uvs) };
}

test('tangents agree with the reference implementation of MikkTSpace, in the sense that glTF gives them', () => {
  const { p, n, t } = patch(10);
  const ours = cornerTangents(p, n, t);
  const flipped = t.map((v, i) => (i % 2 ? 1 - v : v));
  const oracle = generateTangents(p, n, flipped);
  let worst = 0;
  for (let i = 0; i < ours.length; i += 4) {
    const dot = ours[i] * oracle[i] + ours[i + 1] * oracle[i + 1] + ours[i + 2] * oracle[i + 2];
    worst = Math.max(worst, (Math.acos(Math.min(1, dot)) * 180) / Math.PI);
    expect(ours[i + 3]).toBe(oracle[i + 3] < 0 ? -1 : 1);
  }
  expect(worst).toBeLessThan(0.1);
});

test('on a plain quad the bitangent points up the picture', () => {
  const t = cornerTangents(
    Float32Array.from([0, 0, 0, 1, 0, 0, 1, 1, 0]),
    Float32Array.from([0, 0, 1, 0, 0, 1, 0, 0, 1]),
    Float32Array.from([0, 1, 1, 1, 1, 0]),
  );
  expect([...t.subarray(0, 4)]).toEqual([1, 0, 0, 1]);
});

test('where UVs give no direction there is still a unit vector square to the normal', () => {
  const normals = Float32Array.from([0, 0.6, 0.8, 0, 0.6, 0.8, 0, 0.6, 0.8]);
  const t = cornerTangents(Float32Array.from([0, 0, 0, 1, 0, 0, 0, 1, 0]), normals, new Float32Array(6));
  for (let i = 0; i < 3; i++) {
    expect(Math.hypot(t[i * 4], t[i * 4 + 1], t[i * 4 + 2])).toBeCloseTo(1, 6);
    expect(t[i * 4 + 1] * 0.6 + t[i * 4 + 2] * 0.8).toBeCloseTo(0, 6);
  }
  const random = numbers(2);
  for (let i = 0; i < 50; i++) {
    const v = [random() - 0.5, random() - 0.5, random() - 0.5];
    const q = perpendicular(v[0], v[1], v[2]);
    expect(q[0] * v[0] + q[1] * v[1] + q[2] * v[2]).toBeCloseTo(0, 9);
  }
});

test('flat normals follow the winding', () => {
  expect([...flatNormals(Float32Array.from([0, 0, 0, 1, 0, 0, 0, 1, 0]))].slice(0, 3)).toEqual([0, 0, 1]);
  expect([...flatNormals(new Float32Array(9))].slice(0, 3)).toEqual([0, 1, 0]);
});
