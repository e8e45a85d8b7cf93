import { type Pictures, slotReader } from '../plan/route.ts';
import { IMAGE_CHANNELS } from '../scene/material.ts';
import type { Model } from '../scene/model.ts';
import { type ColourDecisions, isColoured } from './vertex-colours.ts';

/** The slots of each model whose colour a plan puts into vertices. */
export function slotsToColour(models: readonly Model[], decisions: ColourDecisions, pictures: Pictures): Set<number>[] {
  return models.map((model, m) => {
    const out = new Set<number>();
    if (decisions.vertexColours.length === 0) return out;
    const traitsOf = slotReader(model, m, pictures);
    for (const [s, { look, material }] of model.slots.entries()) {
      const traits = material && traitsOf(s);
      const channels = IMAGE_CHANNELS.filter((channel) => look[channel]);
      if (traits && isColoured(traits, channels, decisions)) out.add(s);
    }
    return out;
  });
}

/** Models with the looks that such slots have then, for laying out; their geometry is that of the sources. */
export function withColouredLooks(models: Model[], decisions: ColourDecisions, pictures: Pictures): Model[] {
  const wanted = slotsToColour(models, decisions, pictures);
  return models.map((model, m) =>
    wanted[m].size === 0
      ? model
      : {
          ...model,
          slots: model.slots.map((slot, s) =>
            wanted[m].has(s)
              ? { ...slot, look: { ...slot.look, baseColor: null, baseColorFactor: [1, 1, 1, 1] } }
              : slot,
          ),
        },
  );
}
