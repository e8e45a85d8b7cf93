import { execFileSync, spawnSync } from 'node:child_process';
import { existsSync, mkdtempSync, readdirSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { fileURLToPath } from 'node:url';
import { buildBvh } from '@wembrel/kernels/bvh';
import { BATCH, type Bvh } from '@wembrel/kernels/bvh-layout';
import { RayCaster, Sides } from '@wembrel/kernels/rays';
import { type BenchRow, median, round } from './turns.ts';

interface Mesh {
  positions: Float32Array;
  indices: Uint32Array;
}

/** A sphere with bumps of two sizes, about so many triangles. */
function bumpy(triangles: number): Mesh {
  const rows = Math.round(Math.sqrt(triangles / 4));
  const columns = rows * 2;
  const positions = new Float32Array((rows + 1) * (columns + 1) * 3);
  const indices = new Uint32Array(rows * columns * 6);
  for (let r = 0; r <= rows; r++)
    for (let c = 0; c <= columns; c++) {
      const [t, p] = [(Math.PI * r) / rows, (2 * Math.PI * (c % columns)) / columns];
      const radius = 1 + 0.02 * Math.sin(40 * t) * Math.sin(40 * p) + 0.004 * Math.sin(190 * p) * Math.sin(170 * t);
      positions.set(
        [radius * Math.sin(t) * Math.cos(p), radius * Math.cos(t), radius * Math.sin(t) * Math.sin(p)],
        (r * (columns + 1) + c) * 3,
      );
    }
  for (let r = 0; r < rows; r++)
    for (let c = 0; c < columns; c++) {
      const a = r * (columns + 1) + c;
      indices.set([a, a + 1, a + columns + 1, a + 1, a + columns + 2, a + columns + 1], (r * columns + c) * 6);
    }
  return { positions, indices };
}

/** Rays of a round: ox oy oz from dx dy dz to of each. */
const RAYS = BATCH * 40;

/** Rays as a bake casts them: inward from a little outside, texel by texel in squares of 8 × 8. */
function bakeRays(): Float32Array {
  const side = Math.floor(Math.sqrt(RAYS) / 8) * 8;
  const across = side / 8;
  const out = new Float32Array(RAYS * 8);
  for (let i = 0; i < RAYS; i++) {
    const tile = Math.floor(i / 64) % (across * across);
    const x = ((tile % across) * 8 + (i % 8) + 0.5) / side;
    const y = (Math.floor(tile / across) * 8 + (Math.floor(i / 8) % 8) + 0.5) / side;
    const [t, p] = [Math.PI * (0.05 + 0.9 * y), 2 * Math.PI * x];
    const d = [Math.sin(t) * Math.cos(p), Math.cos(t), Math.sin(t) * Math.sin(p)];
    out.set([d[0] * 1.05, d[1] * 1.05, d[2] * 1.05, 0, -d[0], -d[1], -d[2], 0.1], i * 8);
  }
  return out;
}

/** Rays as AO casts them: 32 from each point of a sphere among the bumps, cosine-weighted about its normal. */
function ambientRays(bake: Float32Array): Float32Array {
  let seed = 1;
  const next = () => {
    seed = (Math.imul(seed, 1664525) + 1013904223) >>> 0;
    return seed / 2 ** 32;
  };
  const out = new Float32Array(RAYS * 8);
  for (let i = 0; i < RAYS; i++) {
    const o = ((Math.floor(i / 32) * 32) % RAYS) * 8;
    const n = [-bake[o + 4], -bake[o + 5], -bake[o + 6]];
    const d = [next() * 2 - 1, next() * 2 - 1, next() * 2 - 1];
    const l = Math.sqrt(d[0] ** 2 + d[1] ** 2 + d[2] ** 2) || 1;
    for (let k = 0; k < 3; k++) d[k] = d[k] / l + n[k];
    const m = Math.sqrt(d[0] ** 2 + d[1] ** 2 + d[2] ** 2) || 1;
    out.set([n[0], n[1], n[2], 1e-4, d[0] / m, d[1] / m, d[2] / m, 1], i * 8);
  }
  return out;
}

/** Casts all rays; milliseconds of the kernel with putting the rays in and reading hits. */
function ours(bvh: Bvh, rays: Float32Array, what: 'closest' | 'any'): number {
  const caster = new RayCaster(bvh);
  const began = performance.now();
  let met = 0;
  for (let from = 0; from < RAYS; from += BATCH) {
    caster.clear();
    for (let i = from; i < from + BATCH; i++) {
      const o = i * 8;
      caster.add(rays[o], rays[o + 1], rays[o + 2], rays[o + 4], rays[o + 5], rays[o + 6], rays[o + 3], rays[o + 7]);
    }
    if (what === 'closest') {
      caster.closest(Sides.both);
      for (let i = 0; i < BATCH; i++) if (caster.triangle(i) >= 0) met++;
    } else {
      caster.any();
      for (let i = 0; i < BATCH; i++) if (caster.blocked(i)) met++;
    }
  }
  if (met === 0) throw new Error('no ray met anything');
  return performance.now() - began;
}

const ROUNDS = 9;

/** Hierarchies and rays against the JavaScript library of the 3D world and, where it can be built, a native one, all in turns on one thread. */
export async function rayBenches(): Promise<BenchRow[]> {
  const native = new NativeRays();
  try {
    const rows: BenchRow[] = [];
    for (const size of [200_000, 1_000_000]) rows.push(...(await rowsOfScene(size, native)));
    return rows;
  } finally {
    native.close();
  }
}

/** Times by what was timed, one a round. */
class Times {
  private readonly byName: Record<string, number[]> = {};

  add(name: string, value: number | undefined): void {
    if (value === undefined) return;
    this.byName[name] ??= [];
    this.byName[name].push(value);
  }

  median(name: string): number | null {
    return this.byName[name] ? median(this.byName[name]) : null;
  }

  /** Median of ours by theirs, round by round: both of a round ran at the same pace of the machine. */
  paired(ours: string, theirs: string): number {
    return median(this.byName[theirs].map((value, round) => this.byName[ours][round] / value));
  }
}

/** One bumpy scene in nine rounds. @param size triangles */
async function rowsOfScene(size: number, native: NativeRays): Promise<BenchRow[]> {
  const mesh = bumpy(size);
  const bake = bakeRays();
  const ao = ambientRays(bake);
  const bvh = buildBvh(mesh.positions, mesh.indices);
  const library = await libraryRays(mesh);
  const times = new Times();
  // The first round is not counted.
  for (let r = -1; r < ROUNDS; r++) {
    // As the native program does: all once to warm up, then what counts; hierarchies are built afterwards, since what they leave behind disturbs.
    ours(bvh, bake, 'closest');
    ours(bvh, ao, 'any');
    const own = { bake: ours(bvh, bake, 'closest'), ao: ours(bvh, ao, 'any') };
    const natives = native.run(mesh, bake, ao);
    const theirs = { bake: library.cast(bake), ao: library.cast(ao) };
    const build = timed(() => buildBvh(mesh.positions, mesh.indices));
    const theirBuild = r < 2 ? timed(library.build) : undefined;
    if (r < 0) continue;
    times.add('build', build);
    times.add('build theirs', theirBuild);
    times.add('bake', own.bake);
    times.add('ao', own.ao);
    times.add('bake theirs', theirs.bake);
    times.add('ao theirs', theirs.ao);
    times.add('build native', natives?.build);
    times.add('bake native', natives?.bake);
    times.add('ao native', natives?.ao);
  }
  const note = `${round((bvh.bytes / mesh.indices.length) * 3)} bytes a triangle reserved`;
  return ['theirs', 'native'].flatMap((other) => rowsAgainst(times, other, size, note));
}

function timed(work: () => void): number {
  const began = performance.now();
  work();
  return performance.now() - began;
}

/** The library of the 3D world over the same mesh. */
async function libraryRays(mesh: { positions: Float32Array; indices: Uint32Array }) {
  const { BufferAttribute, BufferGeometry, DoubleSide, Ray } = await import('three');
  const { MeshBVH } = await import('three-mesh-bvh');
  const geometry = new BufferGeometry();
  geometry.setAttribute('position', new BufferAttribute(mesh.positions, 3));
  geometry.setIndex(new BufferAttribute(mesh.indices.slice(), 1));
  const reference = new MeshBVH(geometry, { indirect: true });
  const ray = new Ray();
  // It is slower, so that a tenth of the rays must do.
  const SHARE = 10;
  return {
    build: () => void new MeshBVH(geometry, { indirect: true }),
    /** ms that all rays take. */
    cast: (rays: Float32Array): number =>
      SHARE *
      timed(() => {
        for (let i = 0; i < RAYS / SHARE; i++) {
          const o = i * 8;
          ray.origin.set(rays[o], rays[o + 1], rays[o + 2]);
          ray.direction.set(rays[o + 4], rays[o + 5], rays[o + 6]);
          reference.raycastFirst(ray, DoubleSide, rays[o + 3], rays[o + 7]);
        }
      }),
  };
}

function rowsAgainst(times: Times, other: string, size: number, note: string): BenchRow[] {
  const scene = `${size / 1000} 000 triangles`.replace('1000 000', '1 000 000');
  const against = other === 'theirs' ? 'three-mesh-bvh' : 'native, watertight';
  const row = (label: string, what: string, unit: string, shown: (ms: number) => number): BenchRow => {
    const [own, theirs] = [times.median(what), times.median(`${what} ${other}`)].map((ms) => ms && shown(ms));
    const known = own !== null && theirs !== null;
    const paired = known ? times.paired(what, `${what} ${other}`) : null;
    const ratio = paired && round(unit === 'ms' ? paired : 1 / paired);
    return { name: `${label}, ${scene}`, unit, ours: own, reference: theirs, against, ratio };
  };
  const rate = (ms: number) => round(RAYS / ms / 1000);
  return [
    { ...row('hierarchy', 'build', 'ms', round), note },
    row('bake rays', 'bake', 'million rays/s', rate),
    row('AO rays', 'ao', 'million rays/s', rate),
  ];
}

/** The native ray-tracing library of the distribution in its watertight single-ray mode, where its headers and a compiler are there. */
class NativeRays {
  private readonly folder = mkdtempSync(join(tmpdir(), 'wembrel-native-'));
  private readonly program: string | null;

  constructor() {
    this.program = this.compile();
  }

  private compile(): string | null {
    const include = '/usr/include';
    const found = existsSync(include)
      ? readdirSync(include).find((d) => existsSync(join(include, d, 'rtcore.h')))
      : undefined;
    if (!found) return null;
    const source = fileURLToPath(new URL('../apps/cli/bench-data/native-rays.cpp', import.meta.url));
    const out = join(this.folder, 'native-rays');
    const done = spawnSync('c++', [
      '-O3',
      '-march=native',
      '-I',
      join(include, found),
      source,
      '-o',
      out,
      `-l${found}`,
    ]);
    return done.status === 0 ? out : null;
  }

  /** Milliseconds of one round, single-threaded. */
  run(mesh: Mesh, bake: Float32Array, ao: Float32Array): { build: number; bake: number; ao: number } | null {
    if (!this.program) return null;
    const file = join(this.folder, 'input.bin');
    const head = Int32Array.of(mesh.positions.length / 3, mesh.indices.length / 3, RAYS);
    const bytes = (a: ArrayBufferView) => Buffer.from(a.buffer, a.byteOffset, a.byteLength);
    writeFileSync(file, Buffer.concat([head, mesh.positions, mesh.indices, bake, ao].map(bytes)));
    const [build, closest, any] = execFileSync(this.program, [file], { encoding: 'utf8' })
      .trim()
      .split(' ')
      .map(Number);
    return { build, bake: closest, ao: any };
  }

  close(): void {
    rmSync(this.folder, { recursive: true, force: true });
  }
}
