import { cellBounds } from '@wembrel/core/compare/scene';
import { VIEWS } from '@wembrel/core/compare/views';
import { isAlike, type StandInView } from '@wembrel/core/stand-in/fidelity';
import type { JobScope } from '../pool/job-scope.ts';
import { freePlaces } from '../pool/places.ts';
import { type Original, type PicturedModels, pictureScene, textured } from '../stages/compare.ts';
import { standInTasks } from './stand-in-tasks.ts';

/** How a stand-in compares with its source from the viewing distance; the worst of twelve views, and all of them. */
export interface StandInFidelity {
  /** Side of the pictures, px. */
  picture: number;
  /** Least share of the outlines that lies within one px of each other. */
  outline: number;
  /** Whether all views look like the source; see `isAlike`. */
  alike: boolean;
  /** Least PSNR 2 px inside both outlines against the truth, dB; null where nothing differs. */
  base: number | null;
  lit: number | null;
  /** The view that is worst when lit. */
  worstView: string;
  views: StandInView[];
}

/** @throws Cancelled */
export async function standInFidelity(
  original: Original,
  result: PicturedModels,
  scope: JobScope,
  onView: (share: number) => void,
): Promise<StandInFidelity> {
  const pair = {
    original: await textured(original, original.scene, scope.threads),
    result: await textured(result, pictureScene(result, original.pictureSize), scope.threads),
    readers: freePlaces(scope.threads),
  };
  original.images.forgetLevels();
  const bounds = cellBounds(original.scene);
  let done = 0;
  const views = await Promise.all(
    VIEWS.map(async ({ name, eye }) => {
      const view = { eye, bounds, size: original.pictureSize };
      const one = await scope.run(standInTasks.compareView, { ...pair, name, view });
      onView(++done / VIEWS.length);
      return one;
    }),
  );
  const least = (values: (number | null)[]) =>
    values.reduce((a, b) => (a === null ? b : b === null ? a : Math.min(a, b)));
  const decibels = (view: StandInView) => view.lit ?? Infinity;
  return {
    picture: original.pictureSize,
    outline: Math.min(...views.map((view) => view.outline)),
    alike: views.every(isAlike),
    base: least(views.map((view) => view.base)),
    lit: least(views.map((view) => view.lit)),
    worstView: views.reduce((a, b) => (decibels(b) < decibels(a) ? b : a)).name,
    views,
  };
}
