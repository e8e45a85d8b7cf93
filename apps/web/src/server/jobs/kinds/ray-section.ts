import { readFile } from 'node:fs/promises';
import { join } from 'node:path';
import { deserialize } from 'node:v8';
import type { BrushStamp } from '@wembrel/core/decisions/ray-decisions';
import { barycentrics, nearestOnTriangle } from '@wembrel/core/math/barycentrics';
import { Brushed } from '@wembrel/core/rays/cast/brush-stamps';
import { cutMesh, type SectionPlane } from '@wembrel/core/rays/cast/section';
import { faceNormal } from '@wembrel/core/rays/target/ray-mesh';
import type { SectionView } from '../../../contract/project.ts';
import { Problem } from '../../store/problem.ts';

/** What is kept of a ray bake for cutting through it. */
export interface SectionTexels {
  width: number;
  height: number;
  pairing: Uint16Array;
  triangle: Uint32Array;
  distance: Float32Array;
  faults: Uint8Array;
}

export interface SectionScene {
  name: string;
  outward: number;
  inward: number;
  high: { positions: Float32Array; indices: Uint32Array };
  low: { positions: Float32Array; indices: Uint32Array };
  place: Float64Array;
  directions: Float32Array;
  /** Outward reach of each corner, m. */
  reach: Float32Array;
  density: Float32Array;
  localReaches: BrushStamp[];
}

/** The job looked at last stays in memory. */
const last: { of: string; texels: SectionTexels | null; scenes: Map<number, SectionScene> } = {
  of: '',
  texels: null,
  scenes: new Map(),
};

async function load(folder: string, sheet: number): Promise<SectionTexels> {
  const of = `${folder} ${sheet}`;
  if (last.of !== of || !last.texels) {
    const bytes = await readFile(join(folder, `texels-${sheet}.bin`)).catch(() => null);
    if (!bytes) throw new Problem(404, 'that job is no ray bake, or has no such sheet');
    last.of = of;
    last.scenes.clear();
    last.texels = deserialize(bytes) as SectionTexels;
  }
  return last.texels;
}

async function sceneOf(folder: string, sheet: number, pairing: number): Promise<SectionScene> {
  let scene = last.of === `${folder} ${sheet}` ? last.scenes.get(pairing) : undefined;
  if (!scene) {
    scene = deserialize(await readFile(join(folder, `scene-${sheet}-${pairing}.bin`))) as SectionScene;
    last.scenes.set(pairing, scene);
  }
  return scene;
}

/** Rays that are drawn to each side of the picked one. */
const RAYS = 6;

/**
 * Cuts through a pairing at a texel.
 * @param x, y px of the baked maps @param turn of the cutting plane about the way out, radians @returns null beside the islands
 */
export async function sectionAt(
  folder: string,
  sheet: number,
  x: number,
  y: number,
  turn: number,
): Promise<SectionView | null> {
  const texels = await load(folder, sheet);
  const [i, j] = [Math.floor(x), Math.floor(y)];
  if (!(i >= 0 && j >= 0 && i < texels.width && j < texels.height)) throw new Problem(400, 'that is not on the sheet');
  const at = j * texels.width + i;
  if (texels.pairing[at] === 0) return null;
  const scene = await sceneOf(folder, sheet, texels.pairing[at] - 1);
  const t = texels.triangle[at];
  const bary = new Float64Array(3);
  barycentrics(scene.place, t * 6, i + 0.5, j + 0.5, bary);
  if (Math.min(...bary) < 0) nearestOnTriangle(scene.place, t * 6, i + 0.5, j + 0.5, bary);
  const point = [0, 0, 0];
  const up = [0, 0, 0];
  let reach = 0;
  for (let c = 0; c < 3; c++) {
    const v = scene.low.indices[t * 3 + c] * 3;
    reach += bary[c] * scene.reach[t * 3 + c];
    for (let k = 0; k < 3; k++) {
      point[k] += bary[c] * scene.low.positions[v + k];
      up[k] += bary[c] * scene.directions[t * 9 + c * 3 + k];
    }
  }
  const own = { outward: reach, inward: scene.inward };
  brush(scene, new Brushed(scene.localReaches), t, point, up, own);
  reach = own.outward;
  const plane = planeAt(scene, t, point, up, turn);
  const half = Math.max((reach + own.inward) * 1.6, scene.density[t] > 0 ? (RAYS * 3) / scene.density[t] : 0);
  const cage = cageOf(scene);
  const distance = texels.distance[at];
  return {
    pairing: scene.name,
    point: point as [number, number, number],
    distance: Number.isNaN(distance) ? null : distance,
    faults: texels.faults[at],
    half,
    high: [...cutMesh(scene.high, plane, half)],
    low: [...cutMesh(scene.low, plane, half)],
    cage: [...cutMesh(cage, plane, half)],
    rays: raysNear(texels, scene, { x: i, y: j, plane, half }),
    outward: reach,
    inward: own.inward,
  };
}

/** Changes reaches and direction of the ray at a point of a face as the brush has. */
function brush(
  scene: SectionScene,
  brushed: Brushed,
  t: number,
  p: readonly number[],
  way: number[],
  reaches: { outward: number; inward: number },
): void {
  if (!brushed.any) return;
  brushed.within(p, p);
  if (!brushed.at(p[0], p[1], p[2])) return;
  reaches.outward *= brushed.outward;
  reaches.inward *= brushed.inward;
  const face = [0, 0, 0];
  faceNormal(scene.low, t, face);
  const l = Math.sqrt(way[0] ** 2 + way[1] ** 2 + way[2] ** 2) || 1;
  for (let k = 0; k < 3; k++) way[k] = way[k] / l + (face[k] - way[k] / l) * brushed.straight;
}

function planeAt(scene: SectionScene, t: number, point: number[], up: number[], turn: number): SectionPlane {
  const l = Math.sqrt(up.reduce((sum, v) => sum + v * v, 0)) || 1;
  const u = up.map((v) => v / l) as [number, number, number];
  // Along the face's first edge, as far as it is square to the way out.
  const [a, b] = [0, 1].map((c) => scene.low.indices[t * 3 + c] * 3);
  const e = [0, 1, 2].map((k) => scene.low.positions[b + k] - scene.low.positions[a + k]);
  const dot = e.reduce((sum, v, k) => sum + v * u[k], 0);
  let w = e.map((v, k) => v - dot * u[k]);
  let m = Math.sqrt(w.reduce((sum, v) => sum + v * v, 0));
  if (!(m > 1e-12)) {
    w = Math.abs(u[0]) < 0.6 ? [0, u[2], -u[1]] : [-u[2], 0, u[0]];
    m = Math.sqrt(w.reduce((sum, v) => sum + v * v, 0));
  }
  w = w.map((v) => v / m);
  const n = [u[1] * w[2] - u[2] * w[1], u[2] * w[0] - u[0] * w[2], u[0] * w[1] - u[1] * w[0]];
  const [c, s] = [Math.cos(turn), Math.sin(turn)];
  return {
    origin: point as [number, number, number],
    up: u,
    along: w.map((v, k) => c * v + s * n[k]) as [number, number, number],
  };
}

function cageOf(scene: SectionScene): { positions: Float32Array; indices: Uint32Array } {
  const corners = scene.low.indices.length;
  const positions = new Float32Array(corners * 3);
  for (let c = 0; c < corners; c++) {
    const v = scene.low.indices[c] * 3;
    for (let k = 0; k < 3; k++)
      positions[c * 3 + k] = scene.low.positions[v + k] + scene.directions[c * 3 + k] * scene.reach[c];
  }
  return { positions, indices: Uint32Array.from({ length: corners }, (_, i) => i) };
}

interface SectionAt {
  x: number;
  y: number;
  plane: SectionPlane;
  half: number;
}

/** Rays of texels near the picked one that lie in the plane, as far as it is thick. */
function raysNear(texels: SectionTexels, scene: SectionScene, { x, y, plane, half }: SectionAt): SectionView['rays'] {
  const out: { itself: boolean; along: number; ray: Omit<SectionView['rays'][number], 'picked'> }[] = [];
  const own = texels.pairing[y * texels.width + x];
  const { origin: o, along: a, up: u } = plane;
  const n = [a[1] * u[2] - a[2] * u[1], a[2] * u[0] - a[0] * u[2], a[0] * u[1] - a[1] * u[0]];
  const bary = new Float64Array(3);
  const thick = scene.density[texels.triangle[y * texels.width + x]];
  const within = thick > 0 ? 0.75 / thick : half / 100;
  const around = 24;
  const brushed = new Brushed(scene.localReaches);
  for (let j = y - around; j <= y + around; j++)
    for (let i = x - around; i <= x + around; i++) {
      if (i < 0 || j < 0 || i >= texels.width || j >= texels.height) continue;
      const at = j * texels.width + i;
      if (texels.pairing[at] !== own) continue;
      const t = texels.triangle[at];
      barycentrics(scene.place, t * 6, i + 0.5, j + 0.5, bary);
      const itself = i === x && j === y;
      if (Math.min(...bary) < -1e-6) {
        if (!itself) continue;
        nearestOnTriangle(scene.place, t * 6, i + 0.5, j + 0.5, bary);
      }
      const p = [-o[0], -o[1], -o[2]];
      const d = [0, 0, 0];
      let reach = 0;
      for (let c = 0; c < 3; c++) {
        const v = scene.low.indices[t * 3 + c] * 3;
        reach += bary[c] * scene.reach[t * 3 + c];
        for (let k = 0; k < 3; k++) {
          p[k] += bary[c] * scene.low.positions[v + k];
          d[k] += bary[c] * scene.directions[t * 9 + c * 3 + k];
        }
      }
      if (Math.abs(p[0] * n[0] + p[1] * n[1] + p[2] * n[2]) > within) continue;
      const reaches = { outward: reach, inward: scene.inward };
      const point = p.map((v, k) => v + o[k]);
      brush(scene, brushed, t, point, d, reaches);
      const long = Math.sqrt(d[0] ** 2 + d[1] ** 2 + d[2] ** 2) || 1;
      const flat = (s: number): [number, number] => [
        a.reduce((sum, v, k) => sum + v * (p[k] + (d[k] / long) * s), 0),
        u.reduce((sum, v, k) => sum + v * (p[k] + (d[k] / long) * s), 0),
      ];
      const [along] = flat(0);
      if (Math.abs(along) > half) continue;
      const h = texels.distance[at];
      out.push({
        itself,
        along,
        ray: { from: flat(reaches.outward), to: flat(-reaches.inward), hit: Number.isNaN(h) ? null : flat(h) },
      });
    }
  out.sort((p, q) => p.along - q.along);
  // The picked one and an even choice of the others.
  const middle = Math.max(
    0,
    out.findIndex((r) => r.itself),
  );
  const step = Math.max(1, Math.floor(out.length / (2 * RAYS + 1)));
  return out.filter((_, k) => (k - middle) % step === 0).map((r) => ({ ...r.ray, picked: r.itself }));
}
