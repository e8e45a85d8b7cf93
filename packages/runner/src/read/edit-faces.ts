import type { Document, Material } from '@gltf-transform/core';
import { copyToDocument } from '@gltf-transform/functions';
import { type FaceDecisions, facesInForce } from '@wembrel/core/decisions/face-decisions';
import { applyFaceEdits, type FaceEditReport, type PartOrigin, readsColours } from '@wembrel/core/faces/apply-faces';
import { type GroupablePart, hasGrouped, partsForGroups } from '@wembrel/core/faces/group-faces';
import type { Model } from '@wembrel/core/scene/model';
import type { JobScope } from '../pool/job-scope.ts';
import { imageKey } from './image-keys.ts';
import type { Images } from './images.ts';
import { rereadModel } from './load.ts';
import { picturesOf } from './pictures-of.ts';

/** What edits of faces did to a model that was read. */
export interface EditedModel {
  model: Model;
  reports: FaceEditReport[];
  /** Parts of the source. */
  parts: GroupablePart[];
  /** Where the faces of each part were in the source; null: where they are. */
  origins: PartOrigin[] | null;
}

export interface FacesToEdit {
  /** Null for what could not be read. */
  models: readonly (Model | null)[];
  /** See `SlotsToCome`. */
  coming: Model | null;
  decisions: FaceDecisions;
  images: Images;
  scope: JobScope;
  /** Sees each model that has edits before they are applied. */
  before?: (model: Model, at: number) => Promise<void>;
}

/**
 * Applies edits of faces to models, in memory. Slots are found by name in the model itself, then in the others as they were read, then among
 * those that have only pictures so far.
 * @returns by position; null where nothing is edited
 */
export async function editFaces(input: FacesToEdit): Promise<(EditedModel | null)[]> {
  const { models, coming, decisions, images, scope, before } = input;
  const inForce = facesInForce(decisions);
  if (inForce.edits.length === 0) return models.map(() => null);
  const owners = new Map<string, Material>();
  const documentOf = new Map<Material, Document>();
  for (const model of [...models, coming])
    for (const slot of model?.slots ?? []) {
      if (!slot.material) continue;
      if (!owners.has(slot.name)) owners.set(slot.name, slot.material);
      documentOf.set(slot.material, model?.document as Document);
    }
  const size = (material: Material | null): [number, number] | null => {
    const texture = material?.getBaseColorTexture();
    const facts = texture ? images.facts.get(imageKey(texture)) : undefined;
    return facts ? [facts.width, facts.height] : null;
  };
  const out: (EditedModel | null)[] = [];
  for (const [i, model] of models.entries()) {
    scope.checkpoint();
    const grouped = model && partsForGroups(model);
    if (!model || !grouped || !hasGrouped(grouped, inForce)) {
      out.push(null);
      continue;
    }
    await before?.(model, i);
    const rasters = readsColours(inForce) ? await picturesOf(model) : null;
    const { reports, origins } = applyFaceEdits(model, inForce, {
      raster: (key) => rasters?.get(key),
      elsewhere: (name) => {
        const from = owners.get(name);
        const there = from && documentOf.get(from);
        if (!from || !there || there === model.document) return null;
        return copyToDocument(model.document, there, [from]).get(from) as Material;
      },
      picture: size,
      cancelled: () => scope.cancelled,
    });
    out.push({ model: origins ? rereadModel(model) : model, reports, parts: grouped.parts, origins });
  }
  return out;
}
