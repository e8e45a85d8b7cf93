import { decodingLimit, type JobScope } from '../pool/job-scope.ts';
import type { Composition } from './compose.ts';
import { compositionTasks, type ToMetalRough, type ToPng } from './composition-tasks.ts';

/** Work on pictures while files are read; in a job's worker threads it runs side by side. */
export interface PictureWork {
  compose(composition: Composition): Promise<Uint8Array>;
  toPng(m: ToPng): Promise<Uint8Array>;
  toMetalRough(m: ToMetalRough): Promise<{ baseColor: Uint8Array; metallicRoughness: Uint8Array }>;
}

/** In this thread. */
export const HERE: PictureWork = {
  compose: compositionTasks.compose.run,
  toPng: compositionTasks.toPng.run,
  toMetalRough: compositionTasks.toMetalRough.run,
};

const bytesOf = (...pictures: ({ bytes: Uint8Array } | null)[]): number =>
  pictures.reduce((sum, picture) => sum + (picture?.bytes.length ?? 0), 0);

/** In the worker threads of a job, each with a limit in time. */
export function pictureWork(scope: JobScope): PictureWork {
  const { compose, toPng, toMetalRough } = compositionTasks;
  return {
    compose: (composition) => scope.run(compose, composition, decodingLimit(bytesOf(...composition.pictures))),
    toPng: (m) => scope.run(toPng, m, decodingLimit(bytesOf(m))),
    toMetalRough: (m) => scope.run(toMetalRough, m, decodingLimit(bytesOf(m.diffuse, m.specular))),
  };
}
