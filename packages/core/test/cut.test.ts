import fc from 'fast-check';
import { describe, expect, test } from 'vitest';
import { type CutAxes, cutAtRepeats, cutObstacle } from '../src/cut/cut-repeats.ts';
import { type Model, type Part, readModel } from '../src/scene/model.ts';
import { buildModel, imageKeyOfName, numbers, type PartSpec, quad } from './build.ts';
import { runs } from './sampling.ts';

/** A bumpy, turned sheet of triangles, laid with UVs far outside 0–1; u and v are affine in place, so that anything can be checked. */
function field(seed: number, n: number, repeats: number): PartSpec {
  const next = numbers(seed);
  const positions: number[] = [];
  const uvs: number[] = [];
  const normals: number[] = [];
  const [a, b, c, d] = [next() - 0.5, next() - 0.5, next() - 0.5, next() - 0.5].map((v) => v * 2 * repeats);
  for (let j = 0; j <= n; j++)
    for (let i = 0; i <= n; i++) {
      const x = (i + (i > 0 && i < n ? 0.6 * (next() - 0.5) : 0)) / n;
      const y = (j + (j > 0 && j < n ? 0.6 * (next() - 0.5) : 0)) / n;
      positions.push(x, y, 0.1 * Math.sin(7 * x) * Math.sin(5 * y));
      normals.push(0, 0, 1);
      uvs.push(a * x + b * y + 0.3, c * x + d * y - 1.7);
    }
  const indices: number[] = [];
  for (let j = 0; j < n; j++)
    for (let i = 0; i < n; i++) {
      const o = j * (n + 1) + i;
      if (next() < 0.5) indices.push(o, o + 1, o + n + 2, o, o + n + 2, o + n + 1);
      else indices.push(o, o + 1, o + n + 1, o + 1, o + n + 2, o + n + 1);
    }
  return { positions, normals, uvs, indices, slot: 'Brick' };
}

function cut(
  model: Model,
  axes: CutAxes = 'both',
  slots = [0],
): { after: Model; count: { before: number; after: number } } {
  for (const slot of slots)
    expect(
      cutObstacle(
        model.parts.filter((part) => part.slot === slot),
        model.slots[slot].look,
      ),
    ).toBeNull();
  const count = cutAtRepeats(model, new Map(slots.map((slot) => [slot, axes])));
  return { after: readModel('after', model.document, imageKeyOfName), count };
}

const place = (part: Part, v: number) =>
  `${part.positions[v * 3]} ${part.positions[v * 3 + 1]} ${part.positions[v * 3 + 2]}`;

/** Edges of all parts by the places that they join, and how many faces each has. */
function edgesOf(parts: Part[]): Map<string, number> {
  const out = new Map<string, number>();
  for (const part of parts)
    for (let i = 0; i < part.indices.length; i++) {
      const ends = [place(part, part.indices[i]), place(part, part.indices[i % 3 === 2 ? i - 2 : i + 1])].sort();
      const key = ends.join(' | ');
      out.set(key, (out.get(key) ?? 0) + 1);
    }
  return out;
}

function area(part: Part): number {
  let sum = 0;
  for (let t = 0; t < part.indices.length; t += 3) {
    const [a, b, c] = [0, 1, 2].map((k) => part.indices[t + k] * 3);
    const u = [0, 1, 2].map((k) => part.positions[b + k] - part.positions[a + k]);
    const v = [0, 1, 2].map((k) => part.positions[c + k] - part.positions[a + k]);
    sum += Math.hypot(u[1] * v[2] - u[2] * v[1], u[2] * v[0] - u[0] * v[2], u[0] * v[1] - u[1] * v[0]) / 2;
  }
  return sum;
}

describe('cutting at repeats', () => {
  test('a wall of three by two repeats, its diagonal through four of them: eighteen triangles', () => {
    const model = buildModel([{ name: 'Brick', baseColor: 'b' }], [{ ...quad(0, 0, 3, 2, 0, 0, 3, 2), slot: 'Brick' }]);
    const { after, count } = cut(model);
    const [part] = after.parts;
    // Two squares are whole: two triangles each. The diagonal leaves three in each corner square, and four in the two between.
    expect(count).toEqual({ before: 2, after: 2 * 2 + 2 * 3 + 2 * 4 });
    expect(part.indices).toHaveLength(count.after * 3);
    expect(area(part)).toBeCloseTo(6, 6);
    for (const v of part.uvs[0] as Float32Array) expect(v >= 0 && v <= 1).toBe(true);
  });

  test('on any surface: places, areas and every edge are kept, no T-junction, UVs in one repeat and right to a hair', () => {
    fc.assert(
      fc.property(
        fc.integer({ min: 1, max: 1e9 }),
        fc.integer({ min: 1, max: 4 }),
        fc.integer({ min: 1, max: 9 }),
        (seed, n, r) => {
          const spec = field(seed, n, r);
          const model = buildModel([{ name: 'Brick', baseColor: 'b' }], [spec]);
          const whole = area(model.parts[0]);
          const border = 4 * n;
          const { after } = cut(model);
          const [part] = after.parts;
          expect(area(part)).toBeCloseTo(whole, 5);
          const uv = part.uvs[0] as Float32Array;
          for (const v of uv) expect(v >= -1e-6 && v <= 1 + 1e-6).toBe(true);
          // Each edge has two faces, or it lies on the border of the whole.
          let open = 0;
          for (const [key, faces] of edgesOf([part])) {
            expect(faces).toBeLessThanOrEqual(2);
            if (faces === 2) continue;
            open++;
            const ends = key.split(' | ').map((entry) => entry.split(' ').map(Number));
            const side = [0, 1].some((k) => [0, 1].some((s) => ends.every((end) => Math.abs(end[k] - s) < 1e-6)));
            expect(side, key).toBe(true);
          }
          expect(open).toBeGreaterThanOrEqual(border);
          // UVs are the old ones but for whole repeats: u was affine in x and y.
          const positions = spec.positions;
          const [w0, w1] = [n * 3, n * (n + 1) * 3];
          const [q0, q1] = [n * 2, n * (n + 1) * 2];
          const old = spec.uvs as number[];
          for (let v = 0; v < part.positions.length / 3; v++) {
            const [x, y] = [part.positions[v * 3], part.positions[v * 3 + 1]];
            expect([positions[w0], positions[w1 + 1]]).toEqual([1, 1]);
            for (const k of [0, 1]) {
              const was = old[k] + (old[q0 + k] - old[k]) * x + (old[q1 + k] - old[k]) * y;
              const moved = was - uv[v * 2 + k];
              expect(Math.abs(moved - Math.round(moved))).toBeLessThan(2e-4);
            }
          }
        },
      ),
      // Two lines that cross an edge a hair from each other.
      { numRuns: runs(60), examples: [[999999976, 2, 5]] },
    );
  });

  test('a neighbour with another slot in the same mesh gets the points, so that no gap can open', () => {
    const model = buildModel(
      [{ name: 'Brick', baseColor: 'b' }, { name: 'Cap' }],
      [{ ...quad(0, 0, 3, 1, 0, 0, 3, 1), slot: 'Brick' }],
    );
    const cap = quad(0, 1, 3, 0.1, 0, 0, 1, 1);
    const other = buildModel([{ name: 'Cap' }], [{ ...cap, slot: 'Cap' }]).parts[0].primitive;
    const { document } = model;
    const copy = document.createPrimitive().setMaterial(document.getRoot().listMaterials()[1]);
    for (const text of other.listSemantics()) {
      const accessor = other.getAttribute(text);
      copy.setAttribute(
        text,
        document
          .createAccessor()
          .setType(accessor?.getType() as 'VEC3')
          .setArray(accessor?.getArray() ?? null),
      );
    }
    copy.setIndices(document.createAccessor().setType('SCALAR').setArray(Uint32Array.from(cap.indices)));
    model.parts[0].mesh.addPrimitive(copy);
    const { after } = cut(readModel('two', document, imageKeyOfName));
    const [brick, top] = after.parts;
    expect(top.indices.length / 3).toBe(4);
    const seam = [...edgesOf([brick, top])].filter(([k]) =>
      k.split(' | ').every((entry) => entry.split(' ')[1] === '1'),
    );
    expect(seam).toHaveLength(3);
    for (const [, faces] of seam) expect(faces).toBe(2);
  });

  test('along one axis only; mirrored textures in pairs; clamped ones not at all', () => {
    const wall = () =>
      buildModel([{ name: 'Brick', baseColor: 'b' }], [{ ...quad(0, 0, 4, 4, 0, 0, 4, 4), slot: 'Brick' }]);
    const range = (model: Model, k: number) => {
      const uv = (model.parts[0].uvs[0] as Float32Array).filter((_, i) => i % 2 === k);
      return Math.max(...uv) - Math.min(...uv);
    };
    const across = cut(wall(), 'u').after;
    expect([range(across, 0), range(across, 1)]).toEqual([1, 4]);
    const mirrored = wall();
    const info = mirrored.document.getRoot().listMaterials()[0].getBaseColorTextureInfo();
    info?.setWrapS(33648).setWrapT(33071);
    const pairs = cut(readModel('m', mirrored.document, imageKeyOfName)).after;
    expect([range(pairs, 0), range(pairs, 1)]).toEqual([2, 4]);
  });

  test('slots of one mesh, one cut along both axes and one along V, meet without a gap', () => {
    const spec = { ...quad(0, 0, 3, 3, 0, 0, 3, 3), slot: 'Brick' };
    const model = buildModel(
      [
        { name: 'Brick', baseColor: 'b' },
        { name: 'Kerb', baseColor: 'k' },
      ],
      [spec],
    );
    const { document } = model;
    const beside = buildModel([{ name: 'Kerb', baseColor: 'k' }], [{ ...quad(3, 0, 2, 3, 0, 0, 2, 3), slot: 'Kerb' }]);
    const copy = document.createPrimitive().setMaterial(document.getRoot().listMaterials()[1]);
    const from = beside.parts[0].primitive;
    for (const text of from.listSemantics()) {
      const accessor = from.getAttribute(text);
      const array = accessor?.getArray() ?? null;
      copy.setAttribute(
        text,
        document
          .createAccessor()
          .setType(accessor?.getType() as 'VEC3')
          .setArray(array),
      );
    }
    copy.setIndices(document.createAccessor().setType('SCALAR').setArray(Uint32Array.from(spec.indices)));
    model.parts[0].mesh.addPrimitive(copy);
    const whole = readModel('two', document, imageKeyOfName);
    cutAtRepeats(
      whole,
      new Map([
        [0, 'both'],
        [1, 'v'],
      ]),
    );
    const [brick, kerb] = readModel('after', document, imageKeyOfName).parts;
    expect(area(brick) + area(kerb)).toBeCloseTo(15, 5);
    const high = (part: Part, k: number) => Math.max(...(part.uvs[0] as Float32Array).filter((_, i) => i % 2 === k));
    expect([high(brick, 0), high(brick, 1), high(kerb, 0), high(kerb, 1)]).toEqual([1, 1, 2, 1]);
    const seam = [...edgesOf([brick, kerb])].filter(([k]) =>
      k.split(' | ').every((entry) => entry.split(' ')[0] === '3'),
    );
    expect(seam).toHaveLength(3);
    for (const [, faces] of seam) expect(faces).toBe(2);
  });

  test('corners that exported UVs leave a hair beside a line make no slivers', () => {
    const e = 1e-5;
    const q = quad(0, 0, 2, 1, 0, 0, 2, 1);
    q.uvs = [-e, 1 + e, 2 + e, 1 - e, 2 - e, e, e, -e];
    const { after, count } = cut(buildModel([{ name: 'Brick', baseColor: 'b' }], [{ ...q, slot: 'Brick' }]));
    expect(count.after).toBe(
      cut(buildModel([{ name: 'Brick', baseColor: 'b' }], [{ ...quad(0, 0, 2, 1, 0, 0, 2, 1), slot: 'Brick' }])).count
        .after,
    );
    for (const v of after.parts[0].uvs[0] as Float32Array) expect(v >= -1e-4 && v <= 1 + 1e-4).toBe(true);
  });

  test('what cannot be cut says why', () => {
    const model = buildModel(
      [{ name: 'A', baseColor: 'b', occlusion: { image: 'o', uvSet: 1 } }, { name: 'B' }],
      [
        { ...quad(0, 0, 1, 1, 0, 0, 1, 1), uvs1: [0, 0, 1, 0, 1, 1, 0, 1], slot: 'A' },
        { ...quad(0, 0, 1, 1, 0, 0, 1, 1), slot: 'B' },
      ],
    );
    for (const s of [0, 1])
      expect(
        cutObstacle(
          model.parts.filter((part) => part.slot === s),
          model.slots[s].look,
        ),
      ).toMatch(/laid in different ways/);
  });
});
