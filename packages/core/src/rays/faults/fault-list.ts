import { barycentrics, nearestOnTriangle } from '../../math/barycentrics.ts';
import type { RayMaps } from '../maps/baked-maps.ts';
import { FAULT, type FaultKind, type RayFault } from '../maps/fault-kinds.ts';
import type { LowTarget } from '../target/low-target.ts';
import { faceNormal } from '../target/ray-mesh.ts';
import type { MeshFault } from './edge-faults.ts';

/** What is known of a pairing when its faults are listed. */
export interface FaultSource {
  name: string;
  target: LowTarget;
  /** px a metre of each triangle. */
  density: Float32Array;
  /** Of edges and faces. */
  mesh: readonly MeshFault[];
}

const OF_BIT: readonly [number, FaultKind][] = [
  [FAULT.missed, 'missed'],
  [FAULT.stray, 'stray'],
  [FAULT.skewed, 'skewed'],
  [FAULT.clash, 'clash'],
  [FAULT.thin, 'thin margin'],
];

/** Counts of texels of one pairing. */
export interface TexelCounts {
  texels: number;
  missed: number;
  stray: number;
  skewed: number;
  clash: number;
  thin: number;
}

/** Texels of each pairing, and how many of them have each fault. */
export function countTexels(out: RayMaps, pairings: number): TexelCounts[] {
  const counts = Array.from({ length: pairings }, () => ({
    texels: 0,
    missed: 0,
    stray: 0,
    skewed: 0,
    clash: 0,
    thin: 0,
  }));
  for (let i = 0; i < out.pairing.length; i++) {
    if (out.pairing[i] === 0) continue;
    const c = counts[out.pairing[i] - 1];
    c.texels++;
    const fault = out.faults[i];
    if (fault === 0) continue;
    if (fault & FAULT.missed) c.missed++;
    if (fault & FAULT.stray) c.stray++;
    if (fault & FAULT.skewed) c.skewed++;
    if (fault & FAULT.clash) c.clash++;
    if (fault & FAULT.thin) c.thin++;
  }
  return counts;
}

/** Point of a target's surface at a place of the sheet that lies on, or near, one of its triangles; m. */
export function surfacePoint(target: LowTarget, triangle: number, x: number, y: number): [number, number, number] {
  const bary = new Float64Array(3);
  barycentrics(target.place, triangle * 6, x, y, bary);
  if (Math.min(bary[0], bary[1], bary[2]) < 0) nearestOnTriangle(target.place, triangle * 6, x, y, bary);
  const { indices, positions } = target.mesh;
  return [0, 1, 2].map((k) =>
    [0, 1, 2].reduce((sum, c) => sum + bary[c] * positions[indices[triangle * 3 + c] * 3 + k], 0),
  ) as [number, number, number];
}

/** All faults, pairing by pairing; each kind once, with the midst of its largest cluster. */
export function listFaults(out: RayMaps, sources: readonly FaultSource[]): RayFault[] {
  const faults: RayFault[] = [];
  const seen = new Uint8Array(out.faults.length);
  sources.forEach((source, p) => {
    for (const [bit, kind] of OF_BIT) {
      const found = largestCluster(out, p + 1, bit, source.density, seen);
      if (!found) continue;
      const { width } = out;
      const x = (found.middle % width) + 0.5;
      const y = Math.floor(found.middle / width) + 0.5;
      faults.push({
        kind,
        pairing: source.name,
        count: found.count,
        of: 'texels',
        extent: found.area,
        sheet: [x, y],
        place: surfacePoint(source.target, out.triangle[found.middle], x, y),
      });
    }
    const byKind = new Map<FaultKind, MeshFault[]>();
    for (const meshFault of source.mesh) byKind.set(meshFault.kind, [...(byKind.get(meshFault.kind) ?? []), meshFault]);
    for (const [kind, list] of byKind) faults.push(meshFault(kind, source, list));
  });
  return faults;
}

/** Every texel with a fault: how many, how large, and the texel nearest to the middle of the largest group of neighbours. */
function largestCluster(
  out: RayMaps,
  pairing: number,
  bit: number,
  density: Float32Array,
  seen: Uint8Array,
): { count: number; area: number; middle: number } | null {
  const { width, height } = out;
  seen.fill(0);
  let count = 0;
  let area = 0;
  let best: number[] = [];
  const has = (i: number) => out.pairing[i] === pairing && (out.faults[i] & bit) !== 0;
  for (let start = 0; start < seen.length; start++) {
    if (seen[start] || !has(start)) continue;
    const group = [start];
    seen[start] = 1;
    for (let k = 0; k < group.length; k++) {
      const i = group[k];
      const d = density[out.triangle[i]];
      count++;
      if (d > 0) area += 1 / (d * d);
      const x = i % width;
      const y = (i - x) / width;
      for (let dy = -1; dy <= 1; dy++)
        for (let dx = -1; dx <= 1; dx++) {
          const [u, v] = [x + dx, y + dy];
          if (u < 0 || v < 0 || u >= width || v >= height) continue;
          const j = v * width + u;
          if (seen[j] || !has(j)) continue;
          seen[j] = 1;
          group.push(j);
        }
    }
    if (group.length > best.length) best = group;
  }
  if (best.length === 0) return null;
  const mx = best.reduce((sum, i) => sum + (i % width), 0) / best.length;
  const my = best.reduce((sum, i) => sum + Math.floor(i / width), 0) / best.length;
  const off = (i: number) => ((i % width) - mx) ** 2 + (Math.floor(i / width) - my) ** 2;
  return { count, area, middle: best.reduce((sum, b) => (off(b) < off(sum) ? b : sum)) };
}

function meshFault(kind: FaultKind, { name, target }: FaultSource, list: readonly MeshFault[]): RayFault {
  const n = [0, 0, 0];
  const { indices, positions } = target.mesh;
  const next = (k: number) => (k === 2 ? 0 : k + 1);
  let extent = 0;
  let longest = -1;
  let first = list[0];
  for (const meshFault of list) {
    let size: number;
    if (meshFault.corner < 0) size = faceNormal(target.mesh, meshFault.triangle, n) / 2;
    else {
      const a = indices[meshFault.triangle * 3 + meshFault.corner] * 3;
      const b = indices[meshFault.triangle * 3 + next(meshFault.corner)] * 3;
      size = Math.sqrt([0, 1, 2].reduce((sum, k) => sum + (positions[b + k] - positions[a + k]) ** 2, 0));
    }
    extent += size;
    if (size > longest) {
      longest = size;
      first = meshFault;
    }
  }
  const corners = first.corner < 0 ? [0, 1, 2] : [first.corner, next(first.corner)];
  const mean = (at: (c: number) => number) => corners.reduce((sum, corner) => sum + at(corner), 0) / corners.length;
  return {
    kind,
    pairing: name,
    count: list.length,
    of: first.corner < 0 ? 'faces' : 'edges',
    extent,
    sheet: [0, 1].map((k) => mean((c) => target.place[first.triangle * 6 + c * 2 + k])) as [number, number],
    place: [0, 1, 2].map((k) => mean((c) => positions[indices[first.triangle * 3 + c] * 3 + k])) as [
      number,
      number,
      number,
    ],
  };
}
