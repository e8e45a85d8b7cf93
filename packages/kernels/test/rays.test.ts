import { BufferAttribute, BufferGeometry, DoubleSide, FrontSide, Ray, Vector3 } from 'three';
import { MeshBVH } from 'three-mesh-bvh';
import { describe, expect, test } from 'vitest';
import { buildBvh } from '../src/bvh.ts';
import { BATCH, type Bvh, LEAF_SIZE } from '../src/bvh-layout.ts';
import { ClosestPoint } from '../src/closest-point.ts';
import { FARTHEST, RayCaster, Sides } from '../src/rays.ts';
import { closestReference, steps } from '../src/rays-reference.ts';
import { bumpySphere, nasty, numbers, plate, soup, type TestMesh } from './meshes.ts';

/** Rays from around a mesh to points of it, and some past it: ox oy oz dx dy dz. */
function raysAt(mesh: TestMesh, count: number, seed: number): number[][] {
  const next = numbers(seed);
  const { positions: p, indices } = mesh;
  const low = [0, 1, 2].map((k) => p.reduce((least, v, i) => (i % 3 === k ? Math.min(least, v) : least), Infinity));
  const high = [0, 1, 2].map((k) =>
    p.reduce((greatest, v, i) => (i % 3 === k ? Math.max(greatest, v) : greatest), -Infinity),
  );
  const side = Math.max(...high.map((h, k) => h - low[k]));
  return Array.from({ length: count }, () => {
    const t = Math.floor((next() * indices.length) / 3) * 3;
    const w = [next(), next(), next()];
    const sum = w[0] + w[1] + w[2];
    const target = [0, 1, 2].map((k) => w.reduce((m, v, c) => m + (v / sum) * p[indices[t + c] * 3 + k], 0));
    const from = [0, 1, 2].map((k) => (low[k] + high[k]) / 2 + side * (next() - 0.5) * 3);
    const d = target.map((v, k) => v - from[k] + (next() < 0.1 ? side * (next() - 0.5) : 0));
    const l = Math.sqrt(d[0] ** 2 + d[1] ** 2 + d[2] ** 2);
    return [...from, ...d.map((v) => v / l)];
  });
}

const KINDS: [string, TestMesh][] = [
  ['a bumpy sphere', bumpySphere(60)],
  ['a soup', soup(3000, 5)],
  ['slivers, no areas, doubles', nasty(9)],
  ['a tiny sphere', bumpySphere(20, 1e-9)],
  ['a huge sphere far away', bumpySphere(20, 1e6, [3e7, -2e7, 1e7])],
  ['one triangle', soup(1, 3)],
];

function referenceOf(mesh: TestMesh): MeshBVH {
  const geometry = new BufferGeometry();
  geometry.setAttribute('position', new BufferAttribute(mesh.positions.slice(), 3));
  geometry.setIndex(new BufferAttribute(mesh.indices.slice(), 1));
  return new MeshBVH(geometry, { indirect: true });
}

function cast(bvh: Bvh, rays: number[][], sides: Sides = Sides.both) {
  const caster = new RayCaster(bvh);
  const out: { triangle: number; distance: number; u: number; v: number }[] = [];
  for (let from = 0; from < rays.length; from += BATCH) {
    const some = rays.slice(from, from + BATCH);
    caster.clear();
    for (const [x, y, z, dx, dy, dz] of some) caster.add(x, y, z, dx, dy, dz, 0, 1e30);
    caster.closest(sides);
    some.forEach((_, i) => {
      out.push({ triangle: caster.triangle(i), distance: caster.distance(i), u: caster.u(i), v: caster.v(i) });
    });
  }
  return out;
}

describe.each(KINDS)('%s', (_, mesh) => {
  const bvh = buildBvh(mesh.positions, mesh.indices);
  const rays = raysAt(mesh, 4000, 11);

  test('hits are those of an independent library', () => {
    const reference = referenceOf(mesh);
    const ray = new Ray();
    for (const [sides, other] of [
      [Sides.both, DoubleSide],
      [Sides.front, FrontSide],
    ] as const) {
      const hits = cast(bvh, rays, sides);
      let differ = 0;
      rays.forEach(([x, y, z, dx, dy, dz], i) => {
        ray.origin.set(x, y, z);
        ray.direction.set(dx, dy, dz);
        const intersection = reference.raycastFirst(ray, other);
        const scale = 1 / bvh.space.scale;
        if ((intersection !== null) !== hits[i].triangle >= 0) differ++;
        // Coordinates far from the middle have few digits left in the reference's world space.
        else if (intersection && Math.abs(intersection.distance - hits[i].distance) > scale * 2e-4) differ++;
      });
      // Slivers and faces without area are a matter of opinion.
      expect(differ / rays.length).toBeLessThan(mesh === KINDS[2][1] ? 0.01 : 0.0001 + 1 / rays.length);
    }
  });

  test('the plain twin agrees to the bit', () => {
    const { centre, scale } = bvh.space;
    for (const sides of [Sides.both, Sides.front, Sides.back]) {
      const some = rays.slice(0, 600);
      const hits = cast(bvh, some, sides);
      some.forEach(([x, y, z, dx, dy, dz], i) => {
        const own = Float32Array.of(
          (x - centre[0]) * scale,
          (y - centre[1]) * scale,
          (z - centre[2]) * scale,
          0,
          dx,
          dy,
          dz,
          Math.min(1e30 * scale, FARTHEST),
        );
        const reference = closestReference(bvh, own, sides);
        expect(hits[i].triangle).toBe(reference.triangle);
        if (reference.triangle < 0) return;
        expect(hits[i].distance).toBe(reference.t / scale);
        expect([hits[i].u, hits[i].v]).toEqual([reference.u, reference.v]);
      });
    }
  });

  test('short rays that lie close together enter deep down, and hit what each alone hits', () => {
    const { centre, scale } = bvh.space;
    const next = numbers(23);
    const caster = new RayCaster(bvh);
    let met = 0;
    // From as tight as a texel to as wide as the mesh; some groups begin or end in what they would meet.
    for (const spread of [0, 1e-4, 0.01, 0.1, 0.7]) {
      const bundles = raysAt(mesh, 12, 31).map(([x, y, z, dx, dy, dz], i) => {
        const middle = closestReference(
          bvh,
          Float32Array.of(
            (x - centre[0]) * scale,
            (y - centre[1]) * scale,
            (z - centre[2]) * scale,
            0,
            dx,
            dy,
            dz,
            FARTHEST,
          ),
          Sides.both,
        );
        const reach = 10 ** -(i % 4);
        const at = middle.triangle < 0 ? 1 : middle.t;
        return Array.from({ length: 64 }, () => {
          const o = [x, y, z].map((v, k) => Math.fround((v - centre[k]) * scale + (next() - 0.5) * spread));
          const d = [dx, dy, dz].map((v) => v + (next() - 0.5) * spread * 0.1);
          const length = Math.hypot(...d);
          return [...o, at - reach * (i % 3 ? 1 : 0), ...d.map((v) => v / length), at + reach * (i % 5 ? 1 : 0)];
        });
      });
      const rays = bundles.flat();
      caster.clear();
      for (const [x, y, z, from, dx, dy, dz, to] of rays)
        caster.add(
          x / scale + centre[0],
          y / scale + centre[1],
          z / scale + centre[2],
          dx,
          dy,
          dz,
          from / scale,
          to / scale,
        );
      caster.closest();
      rays.forEach(([x, y, z, from, dx, dy, dz, to], i) => {
        const world = [x, y, z].map((v, k) => (v / scale + centre[k] - centre[k]) * scale);
        const reference = closestReference(
          bvh,
          Float32Array.of(...world, (from / scale) * scale, dx, dy, dz, (to / scale) * scale),
          Sides.both,
        );
        expect(caster.triangle(i)).toBe(reference.triangle);
        if (reference.triangle < 0) return;
        met++;
        expect([caster.distance(i), caster.u(i), caster.v(i)]).toEqual([reference.t / scale, reference.u, reference.v]);
      });
    }
    expect(met).toBeGreaterThan(600);
  });

  test('any hit says whether there is a first one', () => {
    const caster = new RayCaster(bvh);
    const hits = cast(bvh, rays.slice(0, BATCH));
    rays.slice(0, BATCH).forEach(([x, y, z, dx, dy, dz], i) => {
      // Half of them end before what they would meet.
      const to = i % 2 && hits[i].triangle >= 0 ? hits[i].distance * 0.999 : 1e30;
      caster.add(x, y, z, dx, dy, dz, 0, to);
    });
    caster.any();
    rays.slice(0, BATCH).forEach((_, i) => {
      expect(caster.blocked(i)).toBe(hits[i].triangle >= 0 && !(i % 2));
    });
  });

  test('every triangle lies in one leaf, and boxes hold what is below them', () => {
    const numbersOf = new Float32Array(bvh.memory.buffer);
    const whole = new Int32Array(bvh.memory.buffer);
    const seen = new Uint8Array(bvh.triangles);
    let outside = 0;
    const visit = (node: number, low: number[], high: number[]) => {
      const o = (bvh.nodesAt + node * 256) >> 2;
      for (let i = 0; i < 8; i++) {
        if (numbersOf[o + i] === Infinity) continue;
        const a = [0, 1, 2].map((k) => numbersOf[o + k * 16 + i]);
        const b = [0, 1, 2].map((k) => numbersOf[o + k * 16 + 8 + i]);
        // Parents are padded as well; a child's box may stand out by its own padding.
        expect(a.every((v, k) => v >= low[k] - 1e-6)).toBe(true);
        expect(b.every((v, k) => v <= high[k] + 1e-6)).toBe(true);
        const child = whole[o + 48 + i];
        if (child >= 0) {
          visit(child, a, b);
          continue;
        }
        const first = (child & 0x7fffffff) >> 3;
        const ids = new Set<number>();
        for (let c = first; c <= first + (child & 7); c++) {
          const q = (bvh.blocksAt + c * 160) >> 2;
          for (let k = 0; k < 4; k++) {
            ids.add(whole[q + 36 + k]);
            for (let v = 0; v < 9; v++) {
              const x = numbersOf[q + v * 4 + k];
              if (x < a[v % 3] || x > b[v % 3]) outside++;
            }
          }
        }
        expect(ids.size).toBeLessThanOrEqual(LEAF_SIZE);
        for (const id of ids) seen[id]++;
      }
    };
    visit(0, [-2, -2, -2], [2, 2, 2]);
    expect(seen.every((s) => s === 1)).toBe(true);
    expect(outside).toBe(0);
  });

  test('nearest points are those of an independent library', () => {
    const reference = referenceOf(mesh);
    const closest = new ClosestPoint(bvh);
    const at = new Vector3();
    for (const [x, y, z] of rays.slice(0, 200)) {
      const other = reference.closestPointToPoint(at.set(x, y, z));
      expect(closest.find(x, y, z)).toBe(true);
      expect(Math.abs(closest.distance - (other?.distance ?? 0)) * bvh.space.scale).toBeLessThan(1e-4);
      expect(closest.find(x, y, z, closest.distance * 0.99)).toBe(false);
    }
  });
});

test('no leak: rays from inside a closed mesh, aimed at its edges and corners', () => {
  const mesh = bumpySphere(80);
  const bvh = buildBvh(mesh.positions, mesh.indices);
  const caster = new RayCaster(bvh);
  const next = numbers(21);
  const { positions: p, indices } = mesh;
  let missed = 0;
  let cast_ = 0;
  const flush = () => {
    caster.closest();
    for (let i = 0; i < caster.count; i++) if (caster.triangle(i) < 0) missed++;
    cast_ += caster.count;
    caster.clear();
  };
  while (cast_ < 1_000_000) {
    const t = Math.floor((next() * indices.length) / 3) * 3;
    const k = Math.floor(next() * 3);
    const [a, b] = [indices[t + k] * 3, indices[t + ((k + 1) % 3)] * 3];
    // A third of them at corners exactly.
    const s = next() < 0.33 ? 0 : next();
    const from = [next() - 0.5, next() - 0.5, next() - 0.5];
    const d = [0, 1, 2].map((c) => p[a + c] + (p[b + c] - p[a + c]) * s - from[c]);
    const l = Math.sqrt(d[0] ** 2 + d[1] ** 2 + d[2] ** 2);
    if (caster.full) flush();
    caster.add(from[0], from[1], from[2], d[0] / l, d[1] / l, d[2] / l, 0, 10);
  }
  flush();
  expect(missed).toBe(0);
});

test('no leak where rays run along the axes through corners of a flat mesh', () => {
  const mesh = plate(32);
  const bvh = buildBvh(mesh.positions, mesh.indices);
  const caster = new RayCaster(bvh);
  for (let y = 0; y <= 32; y++) for (let x = 0; x <= 32; x++) caster.add(x, y, 5, 0, 0, -1, 0, 10);
  caster.closest(Sides.front);
  for (let i = 0; i < caster.count; i++) {
    expect(caster.triangle(i)).toBeGreaterThanOrEqual(0);
    expect(caster.distance(i)).toBeCloseTo(5, 4);
  }
  caster.closest(Sides.back);
  for (let i = 0; i < caster.count; i++) expect(caster.triangle(i)).toBe(-1);
});

test('equal hits go to the lowest triangle', () => {
  const one = plate(4);
  const positions = Float32Array.from([...one.positions, ...one.positions]);
  const more = one.indices.map((v) => v + one.positions.length / 3);
  const bvh = buildBvh(positions, Uint32Array.from([...one.indices, ...more]));
  const caster = new RayCaster(bvh);
  for (let i = 0; i < 100; i++) caster.add(0.1 + 0.037 * i, 3.9 - 0.031 * i, 1, 0, 0, -1, 0, 2);
  caster.closest();
  for (let i = 0; i < 100; i++) expect(caster.triangle(i)).toBeLessThan(one.indices.length / 3);
});

test('a hierarchy is worth its building: few steps a ray', () => {
  const mesh = bumpySphere(100);
  const bvh = buildBvh(mesh.positions, mesh.indices);
  const rays = raysAt(mesh, 1000, 4);
  steps.nodes = 0;
  steps.blocks = 0;
  const { centre, scale } = bvh.space;
  for (const [x, y, z, dx, dy, dz] of rays)
    closestReference(
      bvh,
      Float32Array.of((x - centre[0]) * scale, (y - centre[1]) * scale, (z - centre[2]) * scale, 0, dx, dy, dz, 1e30),
      Sides.both,
    );
  expect(steps.nodes / rays.length).toBeLessThan(12);
  expect(steps.blocks / rays.length).toBeLessThan(6);
  // Blocks are nearly full.
  expect(bvh.triangles / bvh.blockCount).toBeGreaterThan(3);
});

test('nothing at all is met by nothing', () => {
  const bvh = buildBvh(new Float32Array(0), new Uint32Array(0));
  const caster = new RayCaster(bvh);
  caster.add(0, 0, 0, 1, 0, 0, 0, 1);
  caster.closest();
  expect(caster.triangle(0)).toBe(-1);
  caster.any();
  expect(caster.blocked(0)).toBe(false);
  expect(new ClosestPoint(bvh).find(0, 0, 0)).toBe(false);
});
