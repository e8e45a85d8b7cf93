import { Document } from '@gltf-transform/core';
import { addShapes, type NamedShapes, shapesOfModel } from '@wembrel/core/collide/of-model';
import type { Collision, CollisionKind } from '@wembrel/core/decisions/collision';
import { InputError } from '@wembrel/core/errors';
import type { CollisionFile } from '@wembrel/core/handover/manifest';
import { stem } from '@wembrel/core/handover/names';
import { round } from '@wembrel/core/handover/round';
import type { Model } from '@wembrel/core/scene/model';
import type { JobScope } from '../pool/job-scope.ts';
import type { Delivery } from '../write/delivery.ts';
import { writeDocument } from '../write/write-models.ts';

/** Folder of collision shapes in a delivery. */
const COLLISION_FOLDER = 'collision';

/** Shapes of each model, by its position; nothing where none are wanted, or a model draws nothing. */
export function shapesOfModels(
  models: readonly Model[],
  { as, ...rest }: Collision,
  scope: JobScope,
): Map<number, NamedShapes[]> {
  const out = new Map<number, NamedShapes[]>();
  if (as === 'none') return out;
  for (const [m, model] of models.entries()) {
    scope.checkpoint();
    try {
      out.set(m, shapesOfModel(model, stem(model.path), rest.by, { as, ...rest }));
    } catch (error) {
      if (!(error instanceof InputError)) throw error;
    }
  }
  return out;
}

/** Writes the shapes of each model into a file of their own, called as the model. @param files of the models */
export async function writeCollision(
  shapes: ReadonlyMap<number, NamedShapes[]>,
  files: readonly string[],
  as: Collision['as'],
  delivery: Delivery,
): Promise<CollisionFile[]> {
  const out: CollisionFile[] = [];
  for (const [m, list] of shapes) {
    const file = `${COLLISION_FOLDER}/${files[m]}`;
    const document = new Document();
    addShapes(document, list, as as CollisionKind);
    await writeDocument(document, file, delivery);
    const sum = (key: 'volume' | 'hullVolume') => list.reduce((all, one) => all + one[key], 0);
    out.push({
      file,
      model: files[m],
      shape: as as CollisionKind,
      shapes: list.reduce((all, { solids }) => all + solids.length, 0),
      volume: round(sum('volume')),
      ofHull: round(sum('volume') / sum('hullVolume')),
    });
  }
  return out;
}
