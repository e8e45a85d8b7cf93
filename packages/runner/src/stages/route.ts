import type { MergeDecisions } from '@wembrel/core/decisions/decisions';
import { type Routing, route } from '@wembrel/core/plan/route';
import { withColouredLooks } from '@wembrel/core/predict/colour-plan';
import type { Model } from '@wembrel/core/scene/model';
import type { Images } from '../read/images.ts';
import { colourModels } from './colour.ts';
import type { StageContext } from './context.ts';
import { type Cut, cutModels } from './cut.ts';
import type { ReadFiles, ReadModel } from './read.ts';

/** Models, and where each of their slots goes. */
export interface Routed {
  models: Model[];
  images: Images;
  routing: Routing;
}

/** What a plan does to models before their slots are routed. */
export interface Reshaped extends ReadFiles {
  /** Slots whose colour went into vertices. */
  coloured: number;
  cut: Cut;
}

const routedModels = (models: Model[], images: Images, decisions: MergeDecisions): Routed => ({
  models,
  images,
  routing: route(models, decisions, images.pictures),
});

const modelsOf = (read: { models: readonly ReadModel[] }): Model[] => read.models.map((model) => model.model);

/**
 * Puts colours into vertices and cuts at repeats where the plan says so. It uses up the documents of its input.
 * @throws InputError when something would be cut into too many pieces @throws Cancelled
 */
export async function reshape(read: ReadFiles, decisions: MergeDecisions, { scope }: StageContext): Promise<Reshaped> {
  const { models: colouredModels, coloured } = await colourModels(read, decisions, scope);
  const { models, cut } = cutModels({ ...read, models: colouredModels }, decisions, scope);
  return { ...read, models, coloured, cut };
}

/** The third stage: where each slot goes. Where none is merged, models are handed over as they are. */
export function routeModels(reshaped: Reshaped, decisions: MergeDecisions): Routed {
  return routedModels(modelsOf(reshaped), reshaped.images, decisions);
}

/**
 * The same without changing any document, for what is only looked at: slots look as they will once their colour is in vertices, and nothing is
 * cut, since packing needs no cut.
 */
export function routePlanned(read: ReadFiles, decisions: MergeDecisions): Routed {
  return routedModels(withColouredLooks(modelsOf(read), decisions, read.images.pictures), read.images, decisions);
}
