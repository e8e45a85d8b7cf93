import type { Model } from '../scene/model.ts';
import { assign, bayForm, isCut, type RouteDecisions } from './assign.ts';
import { assignableSlot, type Pictures } from './route.ts';

/** The slots of each model that a plan cuts at the repeats of their texture: those that are merged and lie in cells. */
export function slotsToCut(models: readonly Model[], d: RouteDecisions, pictures: Pictures): Set<number>[] {
  const out = models.map(() => new Set<number>());
  if (d.cutRepeats.length === 0) return out;
  const slots = models.flatMap((model, m) =>
    model.slots.flatMap((_, s) => {
      const traits = assignableSlot(model, s, pictures);
      return traits ? [{ m, s, traits }] : [];
    }),
  );
  assign(
    slots.map((x) => x.traits),
    d,
  ).forEach((a, i) => {
    const { m, s, traits } = slots[i];
    if (a.code || !isCut(traits, d)) return;
    if (bayForm(traits, a.sheet < 0 ? 'atlas' : d.sheets[a.sheet].kind, d) === 'cell') out[m].add(s);
  });
  return out;
}
