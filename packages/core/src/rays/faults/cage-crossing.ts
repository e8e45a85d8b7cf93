import { buildBvh } from '@wembrel/kernels/bvh';
import { RayCaster, Sides } from '@wembrel/kernels/rays';
import { placesOf } from '../target/casting.ts';
import type { LowTarget } from '../target/low-target.ts';
import { cageMesh, type MeshFault, turnedOver } from './edge-faults.ts';

/** Ends of an edge that are left out when it is tested against the cage: there it meets its own neighbours. */
const ENDS = 1e-3;

/**
 * Faces of the cage that are turned over, or through which an edge of the cage runs that does not touch them. Edges are cast as rays through the cage's
 * hierarchy.
 */
export function cageFaults(target: LowTarget): MeshFault[] {
  if (target.count === 0) return [];
  const cage = cageMesh(target);
  const found = new Map<number, MeshFault>(
    turnedOver(target, cage).map((meshFault) => [meshFault.triangle, meshFault]),
  );
  const bvh = buildBvh(cage.positions, cage.indices);
  const caster = new RayCaster(bvh);
  const places = placesOf(target.mesh);
  const placeOf = (corner: number) => places[target.mesh.indices[corner]];
  const edges: number[] = [];
  const flush = () => {
    caster.closest(Sides.both);
    for (let i = 0; i < caster.count; i++) {
      const t = caster.triangle(i);
      if (t < 0 || found.has(t)) continue;
      const edge = edges[i];
      const f = edge % 3 === 2 ? edge - 2 : edge + 1;
      const near = [placeOf(t * 3), placeOf(t * 3 + 1), placeOf(t * 3 + 2)];
      if (near.includes(placeOf(edge)) || near.includes(placeOf(f))) continue;
      found.set(t, { kind: 'cage crossing itself', triangle: t, corner: -1 });
    }
    caster.clear();
    edges.length = 0;
  };
  for (let e = 0; e < target.count * 3; e++) {
    const f = e % 3 === 2 ? e - 2 : e + 1;
    const positions = cage.positions;
    const d = [
      positions[f * 3] - positions[e * 3],
      positions[f * 3 + 1] - positions[e * 3 + 1],
      positions[f * 3 + 2] - positions[e * 3 + 2],
    ];
    const l = Math.sqrt(d[0] ** 2 + d[1] ** 2 + d[2] ** 2);
    if (!(l > 0)) continue;
    if (caster.full) flush();
    edges.push(e);
    caster.add(
      positions[e * 3],
      positions[e * 3 + 1],
      positions[e * 3 + 2],
      d[0] / l,
      d[1] / l,
      d[2] / l,
      l * ENDS,
      l * (1 - ENDS),
    );
  }
  flush();
  return [...found.values()].sort((a, b) => a.triangle - b.triangle);
}
