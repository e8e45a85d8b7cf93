import type { Material } from '@gltf-transform/core';
import type { MergeDecisions } from '@wembrel/core/decisions/decisions';
import { slotsToColour } from '@wembrel/core/predict/colour-plan';
import { coloursIntoVertices } from '@wembrel/core/repair/vertex-colours';
import type { LevelSet } from '@wembrel/kernels/sample';
import type { JobScope } from '../pool/job-scope.ts';
import { rereadModel } from '../read/load.ts';
import type { ReadFiles, ReadModel } from './read.ts';

/**
 * Puts the colours of the slots that a plan names into vertices, in memory: the documents change, and their models are read from them again.
 * @returns the models, and how many slots there were @throws Cancelled
 */
export async function colourModels(
  read: ReadFiles,
  decisions: MergeDecisions,
  scope: JobScope,
): Promise<{ models: ReadModel[]; coloured: number }> {
  let coloured = 0;
  const slots = slotsToColour(
    read.models.map((model) => model.model),
    decisions,
    read.images.pictures,
  );
  const models: ReadModel[] = [];
  for (const [m, entry] of read.models.entries()) {
    if (slots[m].size === 0) {
      models.push(entry);
      continue;
    }
    scope.checkpoint();
    const { model } = entry;
    const wanted = new Map<Material, LevelSet | null>();
    for (const s of slots[m]) {
      const { look, material } = model.slots[s];
      const picture = look.baseColor && (await read.images.levels(look.baseColor.image, 'srgb', false, false));
      wanted.set(material as Material, picture);
    }
    coloured += wanted.size;
    coloursIntoVertices(model.document, wanted);
    models.push({ ...entry, model: rereadModel(model) });
  }
  return { models, coloured };
}
