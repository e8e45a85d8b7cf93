import { mkdtemp, rm, writeFile } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { FaceDecisions } from '@wembrel/core/decisions/face-decisions';
import { ReadingDecisions } from '@wembrel/core/decisions/reading';
import { Recipe } from '@wembrel/core/decisions/recipe/recipe';
import { buildLocker, lockerIds } from '@wembrel/demo/dressed/parcel-locker';
import { parcelEmblem, stopName } from '@wembrel/demo/dressed/pictures';
import { DEMO_RECIPES } from '@wembrel/demo/dressed/recipes';
import type { JobScope } from '@wembrel/runner/pool/job-scope';
import { collectModels } from '@wembrel/runner/read/collect';
import { LiveModel } from '@wembrel/runner/recipes/live/live-model';
import type { LiveSurface } from '@wembrel/runner/recipes/live/live-surface';
import { median } from './turns.ts';

export interface Tuning {
  /** ms until the first picture of 256² is there, from the files on. */
  first: number;
  /** ms of a change of each line in turn, the middle one and the longest, at a side of 256 and 512. */
  changes: Record<256 | 512, { median: number; most: number }>;
}

/** The demo's locker and its fifteen lines, as the application has them tuned. */
export async function tuningOf(scope: JobScope): Promise<Tuning> {
  const folder = await mkdtemp(join(tmpdir(), 'wembrel-bench-'));
  const pictures = {
    'locker-ids.png': lockerIds(),
    'emblem_basecolor.png': parcelEmblem(),
    'stop-name_basecolor.png': stopName(),
  };
  try {
    await writeFile(join(folder, 'locker.glb'), buildLocker());
    const named = Object.entries(pictures).map(([name, bytes]) => ({ name, bytes, path: join(folder, name) }));
    for (const { path, bytes } of named) await writeFile(path, bytes);
    const { files } = await collectModels([join(folder, 'locker.glb')]);
    const recipe = Recipe.parse(DEMO_RECIPES['parcel-locker.recipe.json']);
    const began = performance.now();
    const model = await LiveModel.open(
      {
        file: files[0],
        high: [],
        others: [],
        textures: [],
        reading: ReadingDecisions.parse({}),
        faces: FaceDecisions.parse({}),
        sheet: 1024,
        margin: 8,
        progress: () => {},
      },
      scope,
    );
    const small = await model.at(256);
    await small.lay(recipe, named);
    const first = performance.now() - began;
    const large = await model.at(512);
    await large.lay(recipe, named);
    const of = async (surface: LiveSurface) => changesOf(surface, recipe, named);
    return { first, changes: { 256: await of(small), 512: await of(large) } };
  } finally {
    await rm(folder, { recursive: true, force: true });
  }
}

async function changesOf(surface: LiveSurface, recipe: Recipe, pictures: Parameters<LiveSurface['lay']>[1]) {
  const times: number[] = [];
  for (let changed = 0; changed < recipe.lines.length; changed++) {
    // Back to what it was, so that only this line is another one.
    await surface.lay(recipe, pictures);
    const lines = recipe.lines.map((line, i) =>
      i === changed ? { ...line, how: { ...line.how, strength: 0.6 } } : line,
    );
    const began = performance.now();
    await surface.lay({ ...recipe, lines }, pictures);
    times.push(performance.now() - began);
  }
  return { median: median(times), most: Math.max(...times) };
}
