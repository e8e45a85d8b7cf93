import type { Repairs } from '../decisions/repairs.ts';
import type { PlanSlot } from './plan-slot.ts';

/** Meshes that are reduced: by name, to at most so many triangles of one copy ("Heavy models"). */
export type Reductions = Repairs['reduce'];

/** One mesh of one model with everything of it that is drawn. */
export interface MeshWeight {
  name: string;
  model: number;
  mesh: number;
  /** Triangles of one copy. */
  own: number;
  copies: number;
}

const key = (model: number, mesh: number): string => `${model} ${mesh}`;

/** All meshes, in order of model and mesh. */
export function meshWeights(slots: readonly Pick<PlanSlot, 'model' | 'parts'>[]): MeshWeight[] {
  const out = new Map<string, MeshWeight>();
  for (const slot of slots)
    for (const part of slot.parts) {
      const k = key(slot.model, part.mesh);
      const known = out.get(k);
      if (known) known.own += part.own;
      else out.set(k, { name: part.name, model: slot.model, mesh: part.mesh, own: part.own, copies: part.copies });
    }
  return [...out.values()].sort((a, b) => a.model - b.model || a.mesh - b.mesh);
}

/** The share of its triangles that each mesh keeps, for `keptShare`; only meshes that are reduced are in it. */
export function keptShares(
  slots: readonly Pick<PlanSlot, 'model' | 'parts'>[],
  reduce: Reductions,
): Map<string, number> {
  const out = new Map<string, number>();
  if (Object.keys(reduce).length === 0) return out;
  for (const meshWeight of meshWeights(slots)) {
    const most = reduce[meshWeight.name];
    if (most !== undefined && most < meshWeight.own)
      out.set(key(meshWeight.model, meshWeight.mesh), most / meshWeight.own);
  }
  return out;
}

export const keptShare = (shares: ReadonlyMap<string, number>, model: number, mesh: number): number =>
  shares.get(key(model, mesh)) ?? 1;

/** Nothing is reduced below this many triangles. */
const LEAST = 24;

/** A reduction that would bring the triangles of a scene under a limit. */
export interface ProposedReduction {
  name: string;
  /** Triangles of one copy of its largest mesh, and what it may keep. */
  from: number;
  to: number;
  copies: number;
}

/**
 * The reductions that bring a scene under a limit by one rule: no mesh has more than so many triangles, as many as the limit allows. So what
 * is heaviest gives most, and what is light stays as it is.
 * @param limit triangles of all copies @param more triangles that come on top (of cuts)
 * @returns nothing when the limit is met; null when it cannot be met
 */
export function reductionsFor(
  slots: readonly Pick<PlanSlot, 'model' | 'parts'>[],
  limit: number,
  more = 0,
): ProposedReduction[] | null {
  const all = meshWeights(slots);
  const drawn = (cap: number) =>
    all.reduce(
      (greatest, meshWeight) => greatest + Math.min(meshWeight.own, Math.max(cap, LEAST)) * meshWeight.copies,
      more,
    );
  const heaviest = all.reduce((greatest, meshWeight) => Math.max(greatest, meshWeight.own), 0);
  if (drawn(heaviest) <= limit) return [];
  if (drawn(LEAST) > limit) return null;
  let low = LEAST;
  let high = heaviest;
  while (high - low > 1) {
    const mid = Math.floor((low + high) / 2);
    if (drawn(mid) <= limit) low = mid;
    else high = mid;
  }
  const out = new Map<string, ProposedReduction>();
  for (const meshWeight of all) {
    if (meshWeight.own <= low) continue;
    const known = out.get(meshWeight.name);
    if (known) {
      known.from = Math.max(known.from, meshWeight.own);
      known.copies += meshWeight.copies;
    } else
      out.set(meshWeight.name, { name: meshWeight.name, from: meshWeight.own, to: low, copies: meshWeight.copies });
  }
  return [...out.values()];
}
