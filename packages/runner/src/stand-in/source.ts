import { InputError } from '@wembrel/core/errors';
import type { RayMesh } from '@wembrel/core/rays/target/ray-mesh';
import { sceneObjects } from '@wembrel/core/rays/target/scene-objects';
import type { MaterialLook } from '@wembrel/core/scene/material';
import type { Model } from '@wembrel/core/scene/model';
import { standInNeeds } from '@wembrel/core/stand-in/sheet-maps';

/** What a model costs. */
export interface Weight {
  triangles: number;
  slots: number;
  drawCalls: number;
}

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

/** @throws InputError where a stand-in would lose what moves, or cannot be baked */
export function refuseWhatMoves(model: Model): void {
  const drawn = model.parts.flatMap((part) => part.instances.map((instance) => ({ part, instance })));
  const refuse = (what: string) => {
    throw new InputError(model.path, what);
  };
  if (drawn.some(({ instance }) => instance.node.getSkin()))
    refuse('it is skinned: its mesh follows bones, which a stand-in would lose; reduce its triangles instead');
  if (drawn.some(({ part }) => part.primitive.listTargets().length > 0))
    refuse('it has morph targets, which a stand-in would lose; reduce its triangles instead');
  if (drawn.some(({ instance }) => instance.copies > 1))
    refuse('it draws copies by GPU instancing, which cannot be baked; make them single objects first');
}

/** The looks of what is baked. */
export const bakedLooks = (model: Model, apart: ReadonlySet<number>): MaterialLook[] =>
  [...new Set(model.parts.filter((part) => part.instances.length > 0).map((part) => part.slot))]
    .filter((slot) => !apart.has(slot))
    .map((slot) => model.slots[slot].look);

/** What is baked of a model: without what stays apart, and glowing by as much less as the result's material glows more. */
export function bakedSource(model: Model, apart: ReadonlySet<number>): Model {
  const { emissiveStrength } = standInNeeds(bakedLooks(model, apart));
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

/** A model with those triangles alone that are kept in some placing: rays never meet what nobody sees. @param mesh of all its objects */
export function onlyKept(model: Model, mesh: RayMesh, keep: Uint8Array): Model {
  const kept = model.parts.map((part) => new Uint8Array(part.indices.length / 3));
  for (const { part, from, to } of mesh.sources) for (let t = from; t < to; t++) if (keep[t]) kept[part][t - from] = 1;
  return {
    ...model,
    parts: model.parts.map((part, id) => ({
      ...part,
      indices: part.indices.filter((_, i) => kept[id][Math.floor(i / 3)] === 1),
    })),
  };
}

/** What a model draws, or some of its slots. */
export function weightOf(model: Model, slots?: ReadonlySet<number>): Weight {
  const parts = model.parts.filter(
    (part) => part.instances.length > 0 && part.indices.length > 0 && (slots?.has(part.slot) ?? true),
  );
  return {
    triangles: parts.reduce((sum, part) => sum + (part.indices.length / 3) * part.instances.length, 0),
    slots: new Set(parts.map((part) => part.slot)).size,
    drawCalls: parts.reduce((sum, part) => sum + part.instances.length, 0),
  };
}

/** References of all objects of a model, each name once: several of one name are meant together. */
export function objectRefs(model: Model): { path: string; name: string }[] {
  const names = [...new Set(sceneObjects([model]).map((object) => object.name))];
  return names.map((name) => ({ path: model.path, name }));
}
