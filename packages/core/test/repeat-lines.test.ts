import fc from 'fast-check';
import { expect, test } from 'vitest';
import type { CutAxes } from '../src/cut/cut-repeats.ts';
import { repeatLines } from '../src/cut/repeat-lines.ts';

/** A rectangle w × h whose texture repeats at every metre, as two triangles. */
const wall = (w: number, h: number) => {
  const corners = [0, 0, w, 0, w, h, 0, h];
  const indices = Uint32Array.from([0, 1, 2, 0, 2, 3]);
  return {
    positions: Float32Array.from([0, 1, 2, 3].flatMap((i) => [corners[2 * i], corners[2 * i + 1], 0])),
    indices,
    uv: Float32Array.from([...indices].flatMap((i) => [corners[2 * i], corners[2 * i + 1]])),
  };
};

test('a wall has a line at every whole metre inside it, over its whole length', () => {
  fc.assert(
    fc.property(fc.double({ min: 0.3, max: 9, noNaN: true }), fc.double({ min: 0.3, max: 9, noNaN: true }), (w, h) => {
      const { positions, indices, uv } = wall(w, h);
      const lines = repeatLines(positions, indices, uv, { faces: [0, 1] });
      let [across, up] = [0, 0];
      for (let i = 0; i < lines.length; i += 6) {
        const [x, y, , p, q] = lines.subarray(i, i + 5);
        const upright = Math.abs(x - p) < 1e-4 && Math.abs(x - Math.round(x)) < 1e-4;
        const level = Math.abs(y - q) < 1e-4 && Math.abs(y - Math.round(y)) < 1e-4;
        expect(upright || level).toBe(true);
        if (upright) up += Math.abs(y - q);
        else across += Math.abs(x - p);
      }
      const inside = (v: number) => Math.max(0, Math.ceil(v - 1e-4) - 1);
      expect(up).toBeCloseTo(inside(w) * h, 2);
      expect(across).toBeCloseTo(inside(h) * w, 2);
    }),
  );
});

test('along one axis the lines are those of both that run across it', () => {
  const { positions, indices, uv } = wall(3.5, 2.5);
  const ends = (axes: CutAxes) => {
    const lines = repeatLines(positions, indices, uv, { faces: [0, 1], axes });
    return Array.from({ length: lines.length / 6 }, (_, i) => [...lines.subarray(i * 6, i * 6 + 6)]);
  };
  expect(ends('u').length).toBeGreaterThan(0);
  expect(ends('v').length).toBeGreaterThan(0);
  for (const [x, , , p] of ends('u')) expect([x, x]).toEqual([p, Math.round(p)]);
  for (const [, y, , , q] of ends('v')) expect([y, y]).toEqual([q, Math.round(q)]);
  const sorted = (list: number[][]) => list.map(String).sort();
  expect(sorted([...ends('u'), ...ends('v')])).toEqual(sorted(ends('both')));
});

test('borders of the texture that are edges of faces are no lines', () => {
  const { positions, indices, uv } = wall(1, 1);
  expect(repeatLines(positions, indices, uv, { faces: [0, 1] })).toHaveLength(0);
});
