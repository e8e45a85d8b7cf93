import { InputError } from '@wembrel/core/errors';
import type { RayMesh } from '@wembrel/core/rays/target/ray-mesh';
import type { Model } from '@wembrel/core/scene/model';

/** What a model costs. */
export interface Weight {
  triangles: number;
  slots: number;
  drawCalls: number;
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
