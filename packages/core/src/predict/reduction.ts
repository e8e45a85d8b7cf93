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
  for (const s of slots)
    for (const p of s.parts) {
      const k = key(s.model, p.mesh);
      const known = out.get(k);
      if (known) known.own += p.own;
      else out.set(k, { name: p.name, model: s.model, mesh: p.mesh, own: p.own, copies: p.copies });
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
  for (const m of meshWeights(slots)) {
    const most = reduce[m.name];
    if (most !== undefined && most < m.own) out.set(key(m.model, m.mesh), most / m.own);
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
  const drawn = (cap: number) => all.reduce((n, m) => n + Math.min(m.own, Math.max(cap, LEAST)) * m.copies, more);
  const heaviest = all.reduce((n, m) => Math.max(n, m.own), 0);
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
  for (const m of all) {
    if (m.own <= low) continue;
    const known = out.get(m.name);
    if (known) {
      known.from = Math.max(known.from, m.own);
      known.copies += m.copies;
    } else out.set(m.name, { name: m.name, from: m.own, to: low, copies: m.copies });
  }
  return [...out.values()];
}
