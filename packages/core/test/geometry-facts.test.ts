import fc from 'fast-check';
import { describe, expect, test } from 'vitest';
import { triangleIndices } from '../src/scene/attributes.ts';
import type { Part } from '../src/scene/model.ts';
import { densityBin, densityOfBin } from '../src/survey/density.ts';
import {
  duplicateFaces,
  geometryInput,
  needlessSplits,
  partGeometry,
  vertexSplits,
} from '../src/survey/part-geometry.ts';
import { GRID, UvCollector } from '../src/survey/uv-facts.ts';
import { buildModel, numbers, type PartSpec, quad } from './build.ts';
import { runs } from './sampling.ts';

const part = (spec: Omit<PartSpec, 'slot'>): Part => buildModel([{ name: 'a' }], [{ ...spec, slot: 'a' }]).parts[0];

const input = (spec: Omit<PartSpec, 'slot'>) => geometryInput(part(spec));

/** A cube with flat faces: 24 vertices, UVs of each face its own square. */
function cube(uvs = true): Omit<PartSpec, 'slot'> {
  const out = { positions: [] as number[], normals: [] as number[], uvs: [] as number[], indices: [] as number[] };
  let face = 0;
  for (const axis of [0, 1, 2])
    for (const side of [-1, 1]) {
      const base = out.positions.length / 3;
      const [u, v] = [(axis + 1) % 3, (axis + 2) % 3];
      for (const [a, b] of [
        [-1, -1],
        [1, -1],
        [1, 1],
        [-1, 1],
      ]) {
        const p = [0, 0, 0];
        p[axis] = side;
        p[u] = a * side;
        p[v] = b;
        out.positions.push(...p);
        out.normals.push(...[0, 1, 2].map((k) => (k === axis ? side : 0)));
        out.uvs.push((face + (a + 1) / 2) / 6, (b + 1) / 2);
      }
      out.indices.push(base, base + 1, base + 2, base, base + 2, base + 3);
      face++;
    }
  return uvs ? out : { ...out, uvs: undefined };
}

/** Distinct tuples of all attributes, the slow way. */
function bruteVertices(part: Part): number {
  const used = new Set(part.indices);
  const keys = [...used].map((v) =>
    part.primitive
      .listSemantics()
      .map((text) => {
        const accessor = part.primitive.getAttribute(text);
        const n = accessor?.getElementSize() ?? 0;
        return [...(accessor?.getArray()?.subarray(v * n, v * n + n) ?? [])].join(',');
      })
      .join('|'),
  );
  return new Set(keys).size;
}

describe('vertices and their splits', () => {
  test('a flat cube: 8 points, 16 more for its normals, none left for the UVs to split, or the other way round', () => {
    expect(vertexSplits(input(cube(false)))).toEqual({
      splits: { points: 8, uvs: 0, normals: 16, tangents: 0, colours: 0, other: 0 },
      gpuVertices: 24,
    });
    const { splits, gpuVertices } = vertexSplits(input(cube()));
    expect(gpuVertices).toBe(24);
    expect(splits.points + splits.uvs + splits.normals).toBe(24);
    expect(splits.uvs).toBeGreaterThan(0);
  });

  test('on random meshes they add up to a brute-force set of tuples', () => {
    fc.assert(
      fc.property(fc.integer({ min: 1, max: 1e6 }), (seed) => {
        const next = numbers(seed);
        const n = 30;
        const few = (k: number) => Array.from({ length: n * k }, () => Math.floor(next() * 2));
        const p = part({
          positions: few(3),
          normals: few(3),
          uvs: few(2),
          colors: few(4),
          indices: Array.from({ length: 60 }, () => Math.floor(next() * n)),
        });
        const { splits: s, gpuVertices } = vertexSplits(geometryInput(p));
        expect(gpuVertices).toBe(bruteVertices(p));
        expect(s.points + s.uvs + s.normals + s.tangents + s.colours + s.other).toBe(gpuVertices);
      }),
      { numRuns: runs(60) },
    );
  });

  test('normals that differ by half a degree are a needless split, by two degrees not', () => {
    const turned = (degrees: number) => {
      const r = (degrees * Math.PI) / 180;
      const q = quad(0, 0, 1, 1, 0, 0, 1, 1);
      return input({
        positions: [...q.positions, ...q.positions],
        uvs: [...q.uvs, ...q.uvs],
        normals: [...q.normals, ...[0, 1, 2, 3].flatMap(() => [Math.sin(r), 0, Math.cos(r)])],
        indices: [...q.indices, ...q.indices.map((v) => v + 4)],
      });
    };
    expect(needlessSplits(turned(0.5))).toBe(4);
    expect(needlessSplits(turned(2))).toBe(0);
    expect(needlessSplits(turned(0))).toBe(0);
  });
});

describe('faces and edges', () => {
  test('a cube is sound: no face twice or without area, its hard edges split in the UVs', () => {
    expect(partGeometry(input(cube()))).toMatchObject({ degenerate: 0, duplicate: 0, steepSmooth: 0, unsplitHard: 0 });
  });

  test('a cube under smooth normals has twelve steep edges', () => {
    const { positions, indices = [] } = cube(false);
    const normals = positions.map((v) => v / Math.sqrt(3));
    expect(partGeometry(input({ positions, normals, indices })).steepSmooth).toBe(12);
  });

  test('faces are twice there whichever corner comes first and whichever way they turn', () => {
    expect(duplicateFaces(Uint32Array.of(0, 1, 2, 1, 2, 0, 2, 1, 0, 0, 1, 3))).toBe(2);
    expect(duplicateFaces(Uint32Array.of(0, 0, 1, 0, 0, 1))).toBe(0);
  });

  test('a strip turned into triangles has no face without area', () => {
    const q = quad(0, 0, 1, 1, 0, 0, 1, 1);
    const strip = [...triangleIndices([0, 1, 3, 2], 4, 5)];
    expect(partGeometry(input({ ...q, indices: strip }))).toMatchObject({ degenerate: 0, duplicate: 0 });
  });

  test('equal parts have equal contents, a moved corner changes them', () => {
    const a = partGeometry(input(cube())).content;
    expect(partGeometry(input(cube())).content).toBe(a);
    const { positions, ...rest } = cube();
    positions[4] += 1e-6;
    expect(partGeometry(input({ positions, ...rest })).content).not.toBe(a);
  });
});

describe('how UVs lie', () => {
  const collect = (
    spec: Omit<PartSpec, 'slot'>,
    size: [number, number] = [256, 256],
    flat: Uint8Array | null = null,
  ) => {
    const covered = new Uint8Array(GRID * GRID);
    const uvCollector = new UvCollector(covered, size, flat);
    const p = part(spec);
    uvCollector.add(p, { uvSet: 0, transform: [1, 0, 0, 1, 0, 0] }, 1);
    return { facts: uvCollector.facts(), covered: covered.reduce((sum, v) => sum + v, 0) / covered.length };
  };

  test('a known rectangle covers what it covers, wherever its triangles meet', () => {
    const { facts, covered } = collect(quad(0, 0, 1, 1, 0.125, 0.25, 0.5, 0.5));
    expect(covered).toBe(0.25);
    expect(facts).toMatchObject({ islands: 1, accidental: 0, stacked: 0, mirrored: 0, used: 0.25 });
  });

  test('random meshes without overlap in a grid never clash with themselves', () => {
    fc.assert(
      fc.property(fc.integer({ min: 1, max: 1e6 }), fc.integer({ min: 2, max: 9 }), (seed, side) => {
        const next = numbers(seed);
        const positions: number[] = [];
        const uvs: number[] = [];
        const at = (i: number, j: number) => j * (side + 1) + i;
        for (let j = 0; j <= side; j++)
          for (let i = 0; i <= side; i++) {
            const inside = i > 0 && j > 0 && i < side && j < side;
            const [dx, dy] = inside ? [(next() - 0.5) * 0.6, (next() - 0.5) * 0.6] : [0, 0];
            uvs.push((i + dx) / side, (j + dy) / side);
            positions.push(i, j, 0);
          }
        const indices: number[] = [];
        for (let j = 0; j < side; j++)
          for (let i = 0; i < side; i++)
            indices.push(at(i, j), at(i + 1, j), at(i + 1, j + 1), at(i, j), at(i + 1, j + 1), at(i, j + 1));
        const { facts, covered } = collect({ positions, uvs, indices });
        expect(facts.accidental).toBe(0);
        expect(covered).toBe(1);
      }),
      { numRuns: runs(40) },
    );
  });

  test('stretch is the ratio of the sides: 3 m of 1 m height on a square is 3 : 1, on an oblong texture less', () => {
    const spec = quad(0, 0, 3, 1, 0, 0, 1, 1);
    expect(collect(spec).facts.stretch?.median).toBeCloseTo(3, 1);
    expect(collect(spec, [768, 256]).facts.stretch?.median).toBeCloseTo(1, 2);
  });

  test('repeats are counted by axis, and tiling is no overlap', () => {
    const { facts } = collect(quad(0, 0, 1, 1, 0, 0, 5, 2));
    expect(facts.repeats[0]).toBeCloseTo(5, 5);
    expect(facts.repeats[1]).toBeCloseTo(2, 5);
    expect(facts.accidental).toBe(0);
  });

  test("islands on a swatch are neither stretched nor in each other's way", () => {
    const a = quad(0, 0, 3, 1, 0.1, 0.1, 0.1, 0.1);
    const b = quad(0, 2, 1, 1, 0.12, 0.12, 0.1, 0.1);
    const both = {
      positions: [...a.positions, ...b.positions],
      uvs: [...a.uvs, ...b.uvs],
      indices: [...a.indices, ...b.indices.map((v) => v + 4)],
    };
    expect(collect(both).facts.accidental).toBe(1);
    const { facts } = collect(both, [256, 256], new Uint8Array(64 * 64).fill(1));
    expect(facts).toMatchObject({ accidental: 0, swatches: 2, stretch: null });
  });
});

test('bins of density hold what they say', () => {
  fc.assert(
    fc.property(fc.double({ min: 1, max: 60_000, noNaN: true }), (d) => {
      const b = densityBin(d);
      expect(densityOfBin(b)).toBeLessThanOrEqual(d * (1 + 1e-9));
      expect(densityOfBin(b + 1)).toBeGreaterThan(d * (1 - 1e-9));
    }),
  );
});
