import { InputError } from '@wembrel/core/errors';
import { raySheetNeeds } from '@wembrel/core/rays/maps/sheet-maps';
import { sceneObjects } from '@wembrel/core/rays/target/scene-objects';
import type { MaterialLook } from '@wembrel/core/scene/material';
import type { Model } from '@wembrel/core/scene/model';

/** Whole models that are baked onto one sheet. */

/**
 * Slots that are not baked: alpha-blended ones, since a sheet that is opaque cannot show them, and those that are named.
 * @returns their positions @throws InputError where nothing is left
 */
export function slotsApart(model: Model, named: readonly string[]): Set<number> {
  const apart = new Set<number>();
  model.slots.forEach(({ name, look }, slot) => {
    if (look.alphaMode === 'BLEND' || named.includes(name)) apart.add(slot);
  });
  const drawn = model.parts.filter((part) => part.instances.length > 0 && part.indices.length > 0);
  if (drawn.length > 0 && drawn.every((part) => apart.has(part.slot)))
    throw new InputError(
      model.path,
      'all of its slots are alpha-blended or stay apart, so that nothing is left to bake',
    );
  return apart;
}

/** The looks of what is baked. */
export const bakedLooks = (model: Model, apart: ReadonlySet<number>): MaterialLook[] =>
  [...new Set(model.parts.filter((part) => part.instances.length > 0).map((part) => part.slot))]
    .filter((slot) => !apart.has(slot))
    .map((slot) => model.slots[slot].look);

/** What is baked of a model: without what stays apart, and glowing by as much less as the result's material glows more. */
export function bakedSource(model: Model, apart: ReadonlySet<number>): Model {
  const { emissiveStrength } = raySheetNeeds(bakedLooks(model, apart));
  return {
    ...model,
    parts: model.parts.map((part) => (apart.has(part.slot) ? { ...part, indices: new Uint32Array(0) } : part)),
    slots: model.slots.map((slot) => ({
      ...slot,
      look: {
        ...slot.look,
        emissiveFactor: slot.look.emissiveFactor.map((v) => v / emissiveStrength) as [number, number, number],
      },
    })),
  };
}

/** References of all objects of a model, each name once: several of one name are meant together. */
export function objectRefs(model: Model): { path: string; name: string }[] {
  const names = [...new Set(sceneObjects([model]).map((object) => object.name))];
  return names.map((name) => ({ path: model.path, name }));
}
