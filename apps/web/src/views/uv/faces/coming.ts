import { type ComingSlot, slotsNamedBy } from '@wembrel/core/decisions/face-decisions';
import type { MergeDecisions } from '../../../contract/project.ts';
import { routesOfLinked } from '../../../project/linked-routes.ts';

/**
 * Lets planned surfaces stand in for slots that changes of faces name and no model has: faces are laid on them in their proportions, and they
 * are linked; the slots go where the surfaces were sent. What no change names any more is planned again.
 * @param known slots of the models
 */
export function withComing(decisions: MergeDecisions, known: ReadonlySet<string>): MergeDecisions {
  const named = slotsNamedBy(decisions.faces.edits);
  const coming: ComingSlot[] = [];
  const stood = new Map(decisions.faces.coming.map((c) => [c.slot, c]));
  const planned = decisions.planned.map((planned) => {
    if (planned.linked === null) {
      if (!named.has(planned.name) || known.has(planned.name) || coming.some((c) => c.slot === planned.name))
        return planned;
      coming.push({ slot: planned.name, colour: planned.colour, width: planned.width, height: planned.height });
      return { ...planned, linked: planned.name };
    }
    const was = stood.get(planned.linked);
    if (!was) return planned;
    if (!named.has(planned.linked)) return { ...planned, linked: null };
    coming.push(was);
    return planned;
  });
  const linkedNow = planned.filter((surface, i) => surface.linked !== null && decisions.planned[i].linked === null);
  const routes = linkedNow.reduce(
    (routes, surface) => routesOfLinked({ ...decisions, routes }, surface),
    decisions.routes,
  );
  return { ...decisions, planned, routes, faces: { ...decisions.faces, coming } };
}
