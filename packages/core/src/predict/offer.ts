import type { MergeDecisions } from '../decisions/decisions.ts';
import type { PlanSlot } from './plan-slot.ts';
import { withPlannedRoutes } from './planned.ts';
import { type PictureSizes, type Prediction, predict } from './predict.ts';
import { type Proposal, sharesOf } from './propose/propose.ts';
import { leastShare } from './propose/score.ts';
import { takeProposal } from './propose/take.ts';

/** What a project could gain beyond its plan, and the decisions that take it. */
export interface Offer {
  /** `join`: the same sheets, parts joined across nodes. `plan`: another plan. */
  kind: 'join' | 'plan';
  decisions: MergeDecisions;
  now: Prediction;
  then: Prediction;
  /** The least share of the sharpness of use that a slot on a sheet would get, 0 … 1. */
  sharpness: number;
  /** Objects that would become one with others across nodes, by name. */
  joined: string[];
}

/** Texture memory has to fall by so much before that alone is worth an offer. */
const LEAST_SAVING = 0.05;

/**
 * What could be gained beyond the present plan, or null: fewer draw calls, or clearly less texture memory where nothing becomes less sharp.
 * @param slots slots of the survey, then planned surfaces @param proposal a proposal for the same decisions
 */
export function offerOf(
  slots: readonly PlanSlot[],
  decisions: MergeDecisions,
  sizes: PictureSizes,
  proposal: Proposal | null,
): Offer | null {
  if (decisions.keepAll) return null;
  const predicted = (d: MergeDecisions) => predict(slots, withPlannedRoutes(d, d.planned), sizes);
  const now = predicted(decisions);
  const offers: Offer[] = [];
  const add = (kind: Offer['kind'], d: MergeDecisions) => {
    const then = predicted(d);
    const joined = d.join && !decisions.join ? joinedParts(slots, then) : [];
    const sharpness = leastShare(sharesOf(slots, then, d, sizes));
    offers.push({ kind, decisions: d, now, then, sharpness, joined });
  };
  if (!decisions.join) add('join', { ...decisions, join: true });
  if (proposal) add('plan', takeProposal(decisions, proposal, null));
  const { format } = decisions.budget;
  const better = offers.filter(({ then, kind }) => {
    if (then.drawCalls !== now.drawCalls) return then.drawCalls < now.drawCalls;
    return kind === 'plan' && then.bytes[format] < (1 - LEAST_SAVING) * now.bytes[format] && !isLessSharp(now, then);
  });
  return (
    better.sort((a, b) => a.then.drawCalls - b.then.drawCalls || a.then.bytes[format] - b.then.bytes[format])[0] ?? null
  );
}

/** True where a slot on a sheet gets less than it has now. */
const isLessSharp = (now: Prediction, then: Prediction): boolean =>
  then.flows.some((flow, i) => flow.sheet >= 0 && flow.sharpness < 0.99 * now.flows[i].sharpness);

/** Objects whose parts become one with those of others, by name: their nodes go. Parts of one mesh alone are joined in any case. */
function joinedParts(slots: readonly PlanSlot[], { flows }: Prediction): string[] {
  const groups = new Map<string, Map<number, string>>();
  slots.forEach((slot, i) => {
    const sheet = flows[i].sheet;
    for (const part of slot.parts) {
      if (!part.joinable || part.apart) continue;
      const key = `${slot.model} ${sheet < 0 ? `own ${slot.slot}` : `${sheet} ${slot.classKey}`}`;
      const meshes = groups.get(key) ?? new Map<number, string>();
      // The node that draws it, where it has a name.
      groups.set(key, meshes.set(part.mesh, part.objects[0]?.at(-1) ?? part.name));
    }
  });
  return [...new Set([...groups.values()].flatMap((meshes) => (meshes.size > 1 ? [...meshes.values()] : [])))];
}
