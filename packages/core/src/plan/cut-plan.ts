import type { CutAxes } from '../cut/cut-repeats.ts';
import type { Model } from '../scene/model.ts';
import { assign, cutAxes, type RouteDecisions } from './assign.ts';
import { type Pictures, slotReader } from './route.ts';

/** The slots of each model that a plan cuts at the repeats of their texture, and along which axes; see `cutAxes`. */
export function slotsToCut(
  models: readonly Model[],
  decisions: RouteDecisions,
  pictures: Pictures,
): Map<number, CutAxes>[] {
  const out = models.map(() => new Map<number, CutAxes>());
  if (decisions.cutRepeats.length === 0) return out;
  const slots = models.flatMap((model, m) => {
    const traitsOf = slotReader(model, m, pictures);
    return model.slots.flatMap((_, s) => {
      const traits = traitsOf(s);
      return traits ? [{ m, s, traits }] : [];
    });
  });
  assign(
    slots.map((x) => x.traits),
    decisions,
  ).forEach((assignment, i) => {
    const { m, s, traits } = slots[i];
    const axes = assignment.code
      ? null
      : cutAxes(traits, assignment.sheet < 0 ? 'atlas' : decisions.sheets[assignment.sheet].kind, decisions);
    if (axes) out[m].set(s, axes);
  });
  return out;
}
