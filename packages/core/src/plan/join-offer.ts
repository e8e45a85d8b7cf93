import { type AssignableSlot, type Assignment, assign, type RouteDecisions } from './assign.ts';
import { DrawCallCounter, joiningOf } from './draw-calls.ts';

/** Draw calls as a plan has them, and as they would be if parts were joined across nodes as well. */
export interface JoinOffer {
  now: number;
  then: number;
}

/**
 * What joining across nodes would save, at best (all that is spread counts as on one sheet); null where it saves nothing or is decided already.
 * @param assigned where the slots go by these decisions
 */
export function joinOffer(
  slots: readonly AssignableSlot[],
  assigned: readonly Assignment[],
  decisions: RouteDecisions,
): JoinOffer | null {
  if (decisions.join || decisions.keepAll) return null;
  const drawn = slots.map((slot) => slot.drawn);
  const count = (to: readonly Assignment[], join: boolean): number =>
    new DrawCallCounter(drawn, joiningOf({ ...decisions, join })).count(to.map(sheetAtBest));
  const leftOut = decisions.leftOut.filter(({ why }) => why !== 'no-gain');
  const now = count(assigned, false);
  const then = count(assign(slots, { ...decisions, join: true, leftOut }), true);
  return then < now ? { now, then } : null;
}

const sheetAtBest = ({ sheet, spread, allowed }: Assignment): number => (spread && sheet < 0 ? allowed[0] : sheet);
