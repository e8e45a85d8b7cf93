import { type ComingSlot, slotsNamedBy } from '@wembrel/core/decisions/face-decisions';
import type { MergeDecisions } from '../../../contract/project.ts';

/**
 * Lets planned surfaces stand in for slots that changes of faces name and no model has: faces are laid on them in their proportions, and they
 * are linked. What no change names any more is planned again.
 * @param known slots of the models
 */
export function withComing(d: MergeDecisions, known: ReadonlySet<string>): MergeDecisions {
  const named = slotsNamedBy(d.faces.edits);
  const coming: ComingSlot[] = [];
  const stood = new Map(d.faces.coming.map((c) => [c.slot, c]));
  const planned = d.planned.map((p) => {
    if (p.linked === null) {
      if (!named.has(p.name) || known.has(p.name) || coming.some((c) => c.slot === p.name)) return p;
      coming.push({ slot: p.name, colour: p.colour, width: p.width, height: p.height });
      return { ...p, linked: p.name };
    }
    const was = stood.get(p.linked);
    if (!was) return p;
    if (!named.has(p.linked)) return { ...p, linked: null };
    coming.push(was);
    return p;
  });
  return { ...d, planned, faces: { ...d.faces, coming } };
}
