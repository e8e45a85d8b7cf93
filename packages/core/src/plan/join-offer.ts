import { type AssignableSlot, type Assignment, assign, type RouteDecisions } from './assign.ts';
import { DrawCallCounter, joiningOf } from './draw-calls.ts';

/** Draw calls as a plan has them, and as they would be if parts were joined across nodes as well. */
export interface JoinOffer {
  now: number;
  then: number;
}

/** What joining across nodes would save, at best (all that is spread counts as on one sheet); null where it saves nothing or is decided already. */
export function joinOffer(slots: readonly AssignableSlot[], decisions: RouteDecisions): JoinOffer | null {
  if (decisions.join || decisions.keepAll) return null;
  const count = (d: RouteDecisions): number =>
    new DrawCallCounter(
      slots.map((slot) => slot.drawn),
      joiningOf(d),
    ).count(assign(slots, d).map(sheetAtBest));
  const now = count(decisions);
  const then = count({ ...decisions, join: true, leftOut: decisions.leftOut.filter(({ why }) => why !== 'no-gain') });
  return then < now ? { now, then } : null;
}

const sheetAtBest = ({ sheet, spread, allowed }: Assignment): number => (spread && sheet < 0 ? allowed[0] : sheet);
