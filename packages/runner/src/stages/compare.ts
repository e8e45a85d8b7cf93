import { changedCells, onlyCells } from '@wembrel/core/compare/changed';
import { type DistanceName, farView } from '@wembrel/core/compare/distances';
import {
  ALIKE,
  DISTANCE_NAMES,
  type Fidelity,
  fidelityFrom,
  type PictureFidelity,
  summarise,
  type ViewFidelity,
} from '@wembrel/core/compare/fidelity';
import type { View } from '@wembrel/core/compare/project';
import { cellBounds, channelEncoding, type DrawScene, drawScene, textureKey } from '@wembrel/core/compare/scene';
import { VIEWS } from '@wembrel/core/compare/views';
import { type Difference, differencePicture } from '@wembrel/core/image/metrics';
import { IMAGE_CHANNELS, READERS } from '@wembrel/core/scene/material';
import type { Model } from '@wembrel/core/scene/model';
import type { LevelSet } from '@wembrel/kernels/sample';
import { freePlaces } from '../pool/places.ts';
import type { Images } from '../read/images.ts';
import type { StageContext } from './context.ts';
import type { ReadFiles } from './read.ts';
import { type ScenePair, type TexturedScene, viewTasks } from './view-tasks.ts';

/** Pictures of the worst view, three bytes a pixel. */
export interface WorstPictures {
  view: string;
  size: number;
  original: Uint8Array;
  result: Uint8Array;
  difference: Uint8Array;
}

async function textureTable(
  { models, images }: PicturedModels,
  scene: DrawScene,
  threads: number,
): Promise<Map<string, LevelSet>> {
  const table = new Map<string, Promise<LevelSet>>();
  const shown = new Set(scene.draws.flatMap(({ textures }) => Object.values(textures)));
  for (const model of models)
    for (const part of model.parts) {
      const { look } = model.slots[part.slot];
      for (const channel of IMAGE_CHANNELS) {
        const use = look[channel];
        if (!use) continue;
        const key = textureKey(use.image, channel, look);
        if (table.has(key) || !shown.has(key)) continue;
        const weighted = channel === 'baseColor' && look.alphaMode !== 'OPAQUE';
        table.set(key, images.levels(use.image, channelEncoding(channel), weighted, true, READERS * threads));
      }
    }
  return new Map(await Promise.all([...table].map(async ([k, v]) => [k, await v] as const)));
}

/** A scene with the textures that it shows, read once for all views. */
export async function textured(pictured: PicturedModels, scene: DrawScene, threads: number): Promise<TexturedScene> {
  return { scene, textures: await textureTable(pictured, scene, threads) };
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

/** What models draw, each in a cell of a picture. @param side of the picture, px */
export const pictureScene = ({ models }: PicturedModels, side: number): DrawScene => drawScene(models, side);

/** Originals as they will be compared, captured before their documents are changed. */
export interface Original extends PicturedModels {
  scene: DrawScene;
  /** Side of the pictures that are compared, px. */
  pictureSize: number;
}

/** @param pictureSize side of the pictures, px */
export function captureOriginal(pictured: PicturedModels, pictureSize: number): Original {
  return { ...pictured, scene: pictureScene(pictured, pictureSize), pictureSize };
}

/** How alike original and result are, and the pictures of the worst view. */
export interface Comparison {
  fidelity: Fidelity;
  worst: WorstPictures;
}

/**
 * The last stage: renders original and result from the twelve views at three distances and measures the difference.
 * Models that are drawn from the same data as before are left out.
 * @param result the files as they were read again @param leftOut models that are meant to look otherwise, by their position @throws Cancelled
 */
export async function compare(
  original: Original,
  result: PicturedModels,
  { scope, report }: StageContext,
  leftOut: ReadonlySet<number> = new Set(),
): Promise<Comparison> {
  const { pictureSize } = original;
  const whole = pictureScene(result, pictureSize);
  const changed = changedCells(original.scene, whole).filter((cell) => !leftOut.has(cell));
  if (changed.length === 0) return unchanged(original, { scope, report });
  const shown = changed;
  const pair: ScenePair = {
    original: await textured(original, onlyCells(original.scene, shown, pictureSize), scope.threads),
    result: await textured(result, onlyCells(whole, shown, pictureSize), scope.threads),
    readers: freePlaces(scope.threads),
  };
  original.images.forgetLevels();
  const bounds = cellBounds(pair.original.scene);
  const views: ViewFidelity[] = new Array(VIEWS.length);
  const pictures = new Map<string, Omit<WorstPictures, 'difference'>>();
  /** The view from each distance, by name of the view. */
  const seen = new Map<string, Record<DistanceName, View>>();
  let done = 0;
  await Promise.all(
    VIEWS.map(async ({ name, eye }, i) => {
      const view = { eye, bounds, size: pictureSize };
      const { difference, near, far, nearer, ...drawn } = await scope.run(viewTasks.compareView, { ...pair, view });
      views[i] = { name, ...difference, near, far };
      seen.set(name, { near: nearer, framed: view, far: farView(view) });
      const kind = worseKind(difference);
      pictures.set(name, { view: name, size: pictureSize, original: drawn.original[kind], result: drawn.result[kind] });
      done++;
      report('compare', done / VIEWS.length, `comparing, ${done} of ${VIEWS.length} views`);
    }),
  );
  const fidelity = summarise(views, pictureSize, shown.length);
  await Promise.all(
    fidelity.distances.map(async (distance, i) => {
      if (distance.psnr === null || distance.psnr >= ALIKE) return;
      const name = DISTANCE_NAMES[i];
      const view = seen.get(distance.worstView)?.[name] as View;
      const kind = worseKind(fidelityFrom(views.find((v) => v.name === distance.worstView) as ViewFidelity, name));
      const truth = await scope.run(viewTasks.compareWithTruth, { ...pair, view });
      distance.truth = { original: decibels(truth.original[kind]), result: decibels(truth.result[kind]) };
    }),
  );
  const worst = pictures.get(fidelity.worstView) as Omit<WorstPictures, 'difference'>;
  return { fidelity, worst: { ...worst, difference: differencePicture(worst.original, worst.result) } };
}

const EQUAL: Difference = { psnr: null, ssim: 1 };
const EQUAL_PICTURES: PictureFidelity = { unlit: EQUAL, lit: EQUAL };

/** Where all models are drawn from the same data as before, one view of one of them is drawn, so that there is something to look at. */
async function unchanged(
  original: Original,
  { scope, report }: Pick<StageContext, 'scope' | 'report'>,
): Promise<Comparison> {
  const { pictureSize } = original;
  const [{ name, eye }] = VIEWS;
  const { scene, textures } = await textured(original, onlyCells(original.scene, [0], pictureSize), 1);
  const view = { eye, bounds: cellBounds(scene), size: pictureSize };
  const picture = await scope.run(viewTasks.viewPicture, { scene, textures, view });
  report('compare', 1, 'nothing looks different');
  const views = VIEWS.map((one) => ({ name: one.name, ...EQUAL_PICTURES, near: EQUAL_PICTURES, far: EQUAL_PICTURES }));
  return {
    fidelity: summarise(views, pictureSize, 1),
    worst: {
      view: name,
      size: pictureSize,
      original: picture,
      result: picture,
      difference: differencePicture(picture, picture),
    },
  };
}

/** Which of both pictures differs more. */
const worseKind = ({ unlit, lit }: PictureFidelity): 'lit' | 'unlit' =>
  (lit.psnr ?? Infinity) <= (unlit.psnr ?? Infinity) ? 'lit' : 'unlit';

/** PSNR as a number: equal pictures stand at 100 dB. */
const decibels = ({ psnr }: Difference): number => psnr ?? 100;
