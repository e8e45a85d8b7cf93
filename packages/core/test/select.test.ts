import fc from 'fast-check';
import { describe, expect, test } from 'vitest';
import { facesOfColour } from '../src/select/colour.ts';
import {
  connectedFaces,
  type FaceSet,
  flatFaces,
  grown,
  inverted,
  labelledFaces,
  loopFaces,
  noFaces,
  randomShare,
  shrunk,
} from '../src/select/faces.ts';
import { faceTopology } from '../src/select/topology.ts';
import { surfaceOf } from '../src/unwrap/surface.ts';
import { numbers } from './build.ts';

/** A grid of w × h quads, two triangles each, bent by a height. */
function grid(w: number, h: number, height = (_x: number, _y: number) => 0): [Float32Array, Uint32Array] {
  const points: number[] = [];
  const indices: number[] = [];
  for (let y = 0; y <= h; y++) for (let x = 0; x <= w; x++) points.push(x, height(x, y), y);
  for (let y = 0; y < h; y++)
    for (let x = 0; x < w; x++) {
      const i = y * (w + 1) + x;
      indices.push(i, i + 1, i + w + 2, i, i + w + 2, i + w + 1);
    }
  return [Float32Array.from(points), Uint32Array.from(indices)];
}

const listed = (faceSet: FaceSet) => [...faceSet.keys()].filter((f) => faceSet[f]);

test('what lies beyond a side is what an independent table says, on any heap of triangles', () => {
  fc.assert(
    fc.property(fc.integer({ min: 1, max: 1e9 }), fc.integer({ min: 1, max: 60 }), (seed, count) => {
      const random = numbers(seed);
      const points = Float32Array.from({ length: 30 }, () => Math.floor(random() * 3));
      const indices = Uint32Array.from({ length: count * 3 }, () => Math.floor(random() * 10));
      const topology = faceTopology(points, indices);
      const sides = new Map<string, number[]>();
      for (let s = 0; s < indices.length; s++) {
        const [a, b] = [topology.places[s], topology.places[s % 3 === 2 ? s - 2 : s + 1]];
        if (a === b) continue;
        const key = [a, b].sort((p, q) => p - q).join();
        sides.set(key, [...(sides.get(key) ?? []), s]);
      }
      const expected = new Int32Array(indices.length).fill(-1);
      for (const list of sides.values())
        if (list.length === 2) {
          expected[list[0]] = Math.floor(list[1] / 3);
          expected[list[1]] = Math.floor(list[0] / 3);
        }
      expect([...topology.neighbour]).toEqual([...expected]);
    }),
    { numRuns: 150 },
  );
});

describe('selecting faces', () => {
  test('a piece, and no other one', () => {
    const [p, i] = grid(3, 2);
    const [q, j] = grid(2, 2);
    const points = Float32Array.from([...p, ...q.map((v, k) => (k % 3 === 0 ? v + 50 : v))]);
    const topology = faceTopology(points, Uint32Array.from([...i, ...j.map((v) => v + p.length / 3)]));
    expect(listed(connectedFaces(topology, [2]))).toEqual(Array.from({ length: 12 }, (_, f) => f));
    expect(listed(connectedFaces(topology, [13]))).toEqual(Array.from({ length: 8 }, (_, f) => f + 12));
  });

  test('the flat neighbourhood ends at the bend', () => {
    // Flat up to x = 3, then rising by 45°.
    const topology = faceTopology(...grid(6, 2, (x) => Math.max(0, x - 3)));
    const left = flatFaces(topology, [0], 30);
    expect(listed(left)).toHaveLength(12);
    expect(listed(left).every((f) => Math.floor(f / 2) % 6 < 3)).toBe(true);
    expect(listed(flatFaces(topology, [0], 46))).toHaveLength(24);
  });

  test('a ring more, a ring less: shrinking undoes growing inside a sheet, and both are what a look at all corners says', () => {
    const topology = faceTopology(...grid(12, 12));
    fc.assert(
      fc.property(fc.array(fc.nat(287), { minLength: 1, maxLength: 20 }), (faces) => {
        const set = noFaces(topology);
        for (const face of faces) set[face] = 1;
        const corners = (f: number) => [0, 1, 2].map((k) => topology.places[f * 3 + k]);
        const touches = (f: number, on: FaceSet, value: number) =>
          listed(value ? on : inverted(on)).some((o) => corners(o).some((c) => corners(f).includes(c)));
        const more = grown(topology, set);
        const less = shrunk(topology, set);
        for (let f = 0; f < topology.faces; f += 7) {
          expect(more[f] === 1).toBe(touches(f, set, 1));
          expect(less[f] === 1).toBe(set[f] === 1 && !touches(f, set, 0));
        }
        // Closing never loses a face.
        listed(set).forEach((f) => {
          expect(shrunk(topology, more)[f]).toBe(1);
        });
      }),
      { numRuns: 20 },
    );
  });

  test('a loop runs along one row of quads to both ends, and around a ring', () => {
    const [p, i] = grid(5, 4);
    const topology = faceTopology(p, i);
    const lengths = Float32Array.from({ length: i.length }, (_, s) => {
      const [a, b] = [i[s] * 3, i[s % 3 === 2 ? s - 2 : s + 1] * 3];
      return Math.hypot(p[a] - p[b], p[a + 1] - p[b + 1], p[a + 2] - p[b + 2]);
    });
    // Side 1 of an even face runs along z: across it the loop goes along x.
    const row = loopFaces(topology, lengths, 14, 1);
    expect(listed(row)).toEqual(Array.from({ length: 10 }, (_, f) => f + 10));
    const column = loopFaces(topology, lengths, 14, 0);
    expect(listed(column)).toHaveLength(8);
    expect(listed(column).every((f) => Math.floor(f / 2) % 5 === 2)).toBe(true);
  });

  test('labels, the rest, and a share by a seed', () => {
    const topology = faceTopology(...grid(5, 5));
    const labels = Uint8Array.from({ length: 50 }, (_, f) => f % 3);
    expect(listed(labelledFaces([4], labels)).every((f) => f % 3 === 1)).toBe(true);
    const all = connectedFaces(topology, [0]);
    expect(listed(inverted(all))).toEqual([]);
    const some = randomShare(all, 0.3, 9);
    expect(listed(some)).toHaveLength(15);
    expect(randomShare(all, 0.3, 9)).toEqual(some);
    expect(randomShare(all, 0.3, 10)).not.toEqual(some);
  });

  test('the surface that is unwrapped knows the same neighbours, but for faces turned against each other', () => {
    const [p, i] = grid(4, 4, (x, y) => Math.sin(x * y));
    const [topology, surface] = [faceTopology(p, i), surfaceOf(p, i)];
    expect([...topology.neighbour]).toEqual(Array.from(surface.twin, (v) => (v < 0 ? -1 : Math.floor(v / 3))));
  });
});

test('faces of one colour: of the same slot alone, nearly alike ones by range, textures repeat', () => {
  // Four texels: red, nearly red, blue, blue.
  const data = [255, 0, 0, 255, 250, 4, 0, 255, 0, 0, 255, 255, 0, 0, 250, 255];
  const picture = { width: 4, height: 1, data };
  const at = (u: number) => [u, 0.5, u, 0.5, u, 0.5];
  const uv = Float32Array.from([0.1, 0.35, 0.6, 0.9, 1.1, -0.9, 0.1].flatMap(at));
  const slots = [0, 0, 0, 0, 0, 0, 1];
  expect([...facesOfColour(uv, slots, 0, picture, 0)]).toEqual([1, 0, 0, 0, 1, 1, 0]);
  expect([...facesOfColour(uv, slots, 0, picture, 5)]).toEqual([1, 1, 0, 0, 1, 1, 0]);
  expect([...facesOfColour(uv, slots, 2, picture, 5)]).toEqual([0, 0, 1, 1, 0, 0, 0]);
});

test('faces of different meshes do not touch, though they meet in every point', () => {
  const positions = Float32Array.from([0, 0, 0, 1, 0, 0, 0, 1, 0, 0, 0, 0, 1, 0, 0, 1, 1, 0]);
  const indices = Uint32Array.from([0, 1, 2, 4, 3, 5]);
  const joined = faceTopology(positions, indices);
  expect([...connectedFaces(joined, [0])]).toEqual([1, 1]);
  const apart = faceTopology(positions, indices, Uint32Array.from([0, 0, 0, 1, 1, 1]));
  expect([...connectedFaces(apart, [0])]).toEqual([1, 0]);
});
