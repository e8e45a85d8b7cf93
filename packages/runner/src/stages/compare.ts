import { cellBounds, channelEncoding, type DrawScene, drawScene, textureKey } from '@wembrel/core/compare/scene';
import { VIEWS } from '@wembrel/core/compare/views';
import { differencePicture, type Fidelity, summarise, type ViewFidelity } from '@wembrel/core/image/metrics';
import { IMAGE_CHANNELS } from '@wembrel/core/scene/material';
import type { Model } from '@wembrel/core/scene/model';
import type { LevelSet } from '@wembrel/kernels/sample';
import type { Images } from '../read/images.ts';
import type { StageContext } from './context.ts';
import type { ReadFiles } from './read.ts';
import { viewTasks } from './view-tasks.ts';

/** Pictures of the worst view, three bytes a pixel. */
export interface WorstPictures {
  view: string;
  size: number;
  original: Uint8Array;
  result: Uint8Array;
  difference: Uint8Array;
}

async function textureTable({ models, images }: PicturedModels, scene: DrawScene): Promise<Map<string, LevelSet>> {
  const table = new Map<string, Promise<LevelSet>>();
  for (const model of models)
    for (const part of model.parts) {
      const { look } = model.slots[part.slot];
      for (const channel of IMAGE_CHANNELS) {
        const use = look[channel];
        if (!use) continue;
        const key = textureKey(use.image, channel, look);
        if (table.has(key) || !scene.draws.some((draw) => draw.textures[channel] === key)) continue;
        const weighted = channel === 'baseColor' && look.alphaMode !== 'OPAQUE';
        table.set(key, images.levels(use.image, channelEncoding(channel), weighted, true));
      }
    }
  return new Map(await Promise.all([...table].map(async ([k, v]) => [k, await v] as const)));
}

/** Models with the pictures that they show. */
export interface PicturedModels {
  models: Model[];
  images: Images;
}

export const picturedModels = ({ models, images }: ReadFiles): PicturedModels => ({
  models: models.map((model) => model.model),
  images,
});

/** Originals as they will be compared, captured before their documents are changed. */
export interface Original extends PicturedModels {
  scene: DrawScene;
  /** Side of the pictures that are compared, px. */
  pictureSize: number;
}

/** @param pictureSize side of the pictures, px */
export function captureOriginal(pictured: PicturedModels, pictureSize: number): Original {
  return { ...pictured, scene: drawScene(pictured.models, pictureSize), pictureSize };
}

/** How alike original and result are, and the pictures of the worst view. */
export interface Comparison {
  fidelity: Fidelity;
  worst: WorstPictures;
}

/**
 * The last stage: renders original and result from the twelve views and measures the difference.
 * @param result the files as they were read again @throws Cancelled
 */
export async function compare(
  original: Original,
  result: PicturedModels,
  { scope, report }: StageContext,
): Promise<Comparison> {
  const { pictureSize } = original;
  const resultScene = drawScene(result.models, pictureSize);
  const message = {
    original: original.scene,
    result: resultScene,
    originalTextures: await textureTable(original, original.scene),
    resultTextures: await textureTable(result, resultScene),
    bounds: cellBounds(original.scene),
    size: pictureSize,
  };
  const views: ViewFidelity[] = new Array(VIEWS.length);
  const pictures = new Map<string, Omit<WorstPictures, 'difference'>>();
  let done = 0;
  await Promise.all(
    VIEWS.map(async ({ name, eye }, i) => {
      const r = await scope.run(viewTasks.compareView, { ...message, eye });
      views[i] = { name, unlit: r.unlit, lit: r.lit };
      const kind = (r.lit.psnr ?? Infinity) <= (r.unlit.psnr ?? Infinity) ? 'lit' : 'unlit';
      pictures.set(name, { view: name, size: pictureSize, original: r.original[kind], result: r.result[kind] });
      done++;
      report('compare', done / VIEWS.length, `comparing, ${done} of ${VIEWS.length} views`);
    }),
  );
  const fidelity = summarise(views, pictureSize);
  const worst = pictures.get(fidelity.worstView) as Omit<WorstPictures, 'difference'>;
  return { fidelity, worst: { ...worst, difference: differencePicture(worst.original, worst.result) } };
}
