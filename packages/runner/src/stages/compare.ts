import { cellBounds, channelEncoding, type DrawScene, drawScene, textureKey } from '@wembrel/core/compare/scene';
import { VIEWS } from '@wembrel/core/compare/views';
import { differencePicture, type Fidelity, summarise, type ViewFidelity } from '@wembrel/core/image/metrics';
import { IMAGE_CHANNELS } from '@wembrel/core/scene/material';
import type { Model } from '@wembrel/core/scene/model';
import type { LevelSet } from '@wembrel/kernels/sample';
import type { JobScope } from '../pool/job-scope.ts';
import type { Images } from '../read/images.ts';
import { viewTasks } from './view-tasks.ts';

/** Pictures of the worst view, three bytes a pixel. */
export interface WorstPictures {
  view: string;
  size: number;
  original: Uint8Array;
  result: Uint8Array;
  difference: Uint8Array;
}

async function textureTable(models: Model[], scene: DrawScene, images: Images): Promise<Map<string, LevelSet>> {
  const table = new Map<string, Promise<LevelSet>>();
  for (const model of models)
    for (const part of model.parts) {
      const { look } = model.slots[part.slot];
      for (const channel of IMAGE_CHANNELS) {
        const use = look[channel];
        if (!use) continue;
        const key = textureKey(use.image, channel, look);
        if (table.has(key) || !scene.draws.some((d) => d.textures[channel] === key)) continue;
        const weighted = channel === 'baseColor' && look.alphaMode !== 'OPAQUE';
        table.set(key, images.levels(use.image, channelEncoding(channel), weighted, true));
      }
    }
  return new Map(await Promise.all([...table].map(async ([k, v]) => [k, await v] as const)));
}

/** What is needed of the originals, taken before the documents are rebuilt. */
export function captureOriginal(models: Model[], picture: number): DrawScene {
  return drawScene(models, picture);
}

/**
 * Renders original and result from the twelve views and measures the difference; the pictures of the worst view are kept.
 * @param original scene captured before the documents were rebuilt, for the same `picture` size @param results the files as re-read
 */
export async function compareModels(
  original: DrawScene,
  originals: Model[],
  originalImages: Images,
  results: Model[],
  resultImages: Images,
  scope: JobScope,
  progress: (share: number, doing: string) => void,
  picture: number,
): Promise<{ fidelity: Fidelity; worst: WorstPictures }> {
  const result = drawScene(results, picture);
  const originalTextures = await textureTable(originals, original, originalImages);
  const resultTextures = await textureTable(results, result, resultImages);
  const bounds = cellBounds(original);
  const views: ViewFidelity[] = new Array(VIEWS.length);
  const pictures = new Map<string, Omit<WorstPictures, 'difference'>>();
  let done = 0;
  await Promise.all(
    VIEWS.map(async ({ name, eye }, i) => {
      const r = await scope.run(viewTasks.compareView, {
        original,
        result,
        originalTextures,
        resultTextures,
        eye,
        bounds,
        size: picture,
      });
      views[i] = { name, unlit: r.unlit, lit: r.lit };
      const lit = (r.lit.psnr ?? Infinity) <= (r.unlit.psnr ?? Infinity);
      pictures.set(name, {
        view: name,
        size: picture,
        original: lit ? r.original.lit : r.original.unlit,
        result: lit ? r.result.lit : r.result.unlit,
      });
      done++;
      progress(done / VIEWS.length, `comparing, ${done} of ${VIEWS.length} views`);
    }),
  );
  const fidelity = summarise(views, picture);
  const worst = pictures.get(fidelity.worstView) as Omit<WorstPictures, 'difference'>;
  return { fidelity, worst: { ...worst, difference: differencePicture(worst.original, worst.result) } };
}
