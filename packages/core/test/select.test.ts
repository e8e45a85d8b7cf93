import fc from 'fast-check';
import { describe, expect, test } from 'vitest';
import { surfaceOf } from '../src/mesh/surface.ts';
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
  shrunk,
} from '../src/select/faces.ts';
import { facesInOutline, type OutlineChoice, type ProjectedPart } from '../src/select/outline.ts';
import { quadPartners, randomShare, wholeQuads } from '../src/select/quads.ts';
import { faceTopology, withoutFaces } from '../src/select/topology.ts';
import { numbers } from './build.ts';
import { runs } from './sampling.ts';

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

const listed = (faceSet: FaceSet) => [...faceSet.keys()].filter((key) => faceSet[key]);

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
    { numRuns: runs(150) },
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
          listed(value ? on : inverted(on)).some((o) => corners(o).some((corner) => corners(f).includes(corner)));
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
      { numRuns: runs(20) },
    );
  });

  test('a loop runs along one row of quads to both ends, and around a ring', () => {
    const [p, i] = grid(5, 4);
    const topology = faceTopology(p, i);
    const partner = quadPartners(topology, p, i);
    // Side 1 of an even face runs along z: across it the loop goes along x.
    const row = loopFaces(topology, partner, 14, 1);
    expect(listed(row)).toEqual(Array.from({ length: 10 }, (_, f) => f + 10));
    const column = loopFaces(topology, partner, 14, 0);
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

describe('quads', () => {
  /** A grid whose quads are halved one way or the other by chance, and sheared. */
  function halved(w: number, h: number, seed: number, shear: number): [Float32Array, Uint32Array] {
    const [points, indices] = grid(w, h);
    for (let v = 0; v < points.length; v += 3) points[v] += shear * points[v + 2];
    const random = numbers(seed);
    for (let f = 0; f < indices.length; f += 6) {
      const [a, b, c, , , d] = indices.subarray(f, f + 6);
      if (random() < 0.5) indices.set([a, b, d, b, c, d], f);
    }
    return [points, indices];
  }

  test('are found whichever way they were halved; a share of them is dealt out whole', () => {
    fc.assert(
      fc.property(fc.integer({ min: 1, max: 1e6 }), fc.double({ min: -0.4, max: 0.4, noNaN: true }), (seed, shear) => {
        const [points, indices] = halved(7, 5, seed, shear);
        const partner = quadPartners(faceTopology(points, indices), points, indices);
        expect([...partner]).toEqual(Array.from(partner, (_, f) => f ^ 1));
        const some = randomShare(new Uint8Array(70).fill(1), 0.2, seed, partner);
        expect(listed(some)).toHaveLength(14);
        expect(listed(some).every((f) => some[f ^ 1] === 1)).toBe(true);
      }),
    );
  });

  test('a face is taken with its other half, a lone triangle alone', () => {
    const [points, indices] = grid(3, 1);
    // The last triangle is left out.
    const list = indices.slice(0, -3);
    const partner = quadPartners(faceTopology(points, list), points, list);
    const set = Uint8Array.from([1, 0, 0, 0, 1]);
    expect(listed(wholeQuads(set, partner))).toEqual([0, 1, 4]);
  });
});

test('what hidden faces enclose is a piece of its own, and its quads end there', () => {
  const [points, indices] = grid(7, 7);
  const topology = faceTopology(points, indices);
  const at = (f: number) => [Math.floor(f / 2) % 7, Math.floor(f / 14)];
  const ring = Uint8Array.from({ length: 98 }, (_, f) => {
    const [x, y] = at(f);
    return Number(Math.max(Math.abs(x - 3), Math.abs(y - 3)) === 2);
  });
  const shown = withoutFaces(topology, ring);
  const inner = listed(connectedFaces(shown, [48]));
  expect(inner).toHaveLength(18);
  expect(inner.every((f) => at(f).every((v) => Math.abs(v - 3) < 2))).toBe(true);
  expect(listed(connectedFaces(shown, [0]))).toHaveLength(48);
  const partner = quadPartners(shown, points, indices);
  expect(listed(ring).every((f) => partner[f] < 0)).toBe(true);
  expect(inner.every((f) => partner[f] === (f ^ 1))).toBe(true);
});

describe('faces within an outline', () => {
  /** A grid as seen straight on, each quad 10 px. */
  function seen(w: number, h: number, depth: number, first = 0, front: -1 | 0 | 1 = 0): ProjectedPart {
    const [points, indices] = grid(w, h);
    const projected = new Float32Array(points.length);
    for (let v = 0; v < points.length; v += 3) projected.set([points[v] * 10, points[v + 2] * 10, depth], v);
    return { points: projected, indices, faces: Uint32Array.from({ length: w * h * 2 }, (_, f) => f + first), front };
  }
  const box = (x0: number, y0: number, x1: number, y1: number): OutlineChoice['outline'] => [
    [x0, y0],
    [x1, y0],
    [x1, y1],
    [x0, y1],
  ];

  test('a box takes what it touches, a line what lies in it', () => {
    const parts = [seen(6, 6, 0.5)];
    const outline = box(12, 12, 38, 28);
    const touched = listed(facesInOutline(parts, 72, { outline, take: 'touched', through: true }));
    const quads = new Set(touched.map((f) => f >> 1));
    expect([...quads].sort((a, b) => a - b)).toEqual([7, 8, 9, 13, 14, 15]);
    expect(touched).toHaveLength(12);
    const inside = listed(facesInOutline(parts, 72, { outline, take: 'inside', through: true }));
    expect(new Set(inside.map((f) => f >> 1))).toEqual(new Set([]));
    const more = listed(facesInOutline(parts, 72, { outline: box(9, 9, 41, 31), take: 'inside', through: true }));
    expect(more.map((f) => f >> 1).filter((q, i) => i % 2 === 0 && q >= 0)).toEqual([7, 8, 9, 13, 14, 15]);
  });

  test('what lies behind is taken only when it is asked for, and so is what turns away', () => {
    const parts = [seen(4, 4, 0.7), seen(2, 4, 0.3, 32)];
    const whole = box(-5, -5, 45, 45);
    for (const take of ['touched', 'inside'] as const) {
      const front = listed(facesInOutline(parts, 48, { outline: whole, take, through: false }));
      // The left half of the farther grid is covered.
      expect(front).toHaveLength(16 + 16);
      expect(front.filter((f) => f < 32).every((f) => (f >> 1) % 4 >= 2)).toBe(true);
      expect(listed(facesInOutline(parts, 48, { outline: whole, take, through: true }))).toHaveLength(48);
    }
    // The grid runs clockwise in the picture: its front shows where clockwise is front.
    const away = [seen(2, 2, 0.5, 0, 1)];
    const there = [seen(2, 2, 0.5, 0, -1)];
    const choice = { outline: whole, take: 'touched', through: false } as const;
    expect(listed(facesInOutline(away, 8, choice))).toEqual([]);
    expect(listed(facesInOutline(there, 8, choice))).toHaveLength(8);
  });

  test('faces smaller than a pixel are taken where nothing lies before them; what is behind the camera never is', () => {
    const fine = seen(40, 40, 0.5);
    for (let i = 0; i < fine.points.length; i++) if (i % 3 < 2) fine.points[i] /= 25;
    const choice = { outline: box(-1, -1, 20, 20), take: 'inside', through: false } as const;
    expect(listed(facesInOutline([fine], 3200, choice))).toHaveLength(3200);
    const cover = seen(3, 3, 0.2, 3200);
    expect(listed(facesInOutline([fine, cover], 3218, choice)).every((f) => f >= 3200)).toBe(true);
    fine.points.fill(Number.NaN, 0, 3);
    expect(listed(facesInOutline([fine], 3200, choice))).toHaveLength(3198);
  });
});
