import { mkdir, mkdtemp, readFile, rm, writeFile } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { emptyMaps } from '@wembrel/core/bake/sheet-maps';
import { Recipe } from '@wembrel/core/decisions/recipe/recipe';
import { NO_INPUTS, type RecipeInputs } from '@wembrel/core/recipes/inputs/input-maps';
import { prepareLines } from '@wembrel/core/recipes/prepare';
import { surfaceOfCell } from '@wembrel/core/recipes/surface';
import { buildLampPosts } from '@wembrel/demo/dressed/lamp-posts';
import { DEMO_RECIPES } from '@wembrel/demo/dressed/recipes';
import type { JobScope } from '@wembrel/runner/pool/job-scope';
import { collectModels } from '@wembrel/runner/read/collect';
import { applyRecipe } from '@wembrel/runner/recipes/apply';
import { evaluateRecipe } from '@wembrel/runner/recipes/evaluate';
import { Looks } from '@wembrel/runner/recipes/looks';
import { jobScope } from '../run.ts';
import { tuningOf } from './tuning.ts';
import { type BenchRow, median, round } from './turns.ts';

const stock = (look: string) => ({ look: { from: 'stock', look } });

/** What a texel is dressed with in practice: four looks, three changes, conditions of every price. */
const EIGHT = [
  { name: 'enamel', what: stock('enamel') },
  { name: 'green', what: { change: 'tint', color: '#2f6b58' } },
  { name: 'edges', what: stock('zinc'), where: { of: 'ao', from: 0.7, soft: 0.2 } },
  { name: 'patches', what: stock('rust'), where: { of: 'noise', size: 50, from: 0.6, soft: 0.1 } },
  { name: 'crevices', what: stock('grime'), where: { of: 'ao', to: 0.3, soft: 0.2 }, how: { mode: 'multiply' } },
  { name: 'darker', what: { change: 'darken', by: 0.2 }, where: { of: 'position', axis: 'y', to: 300, soft: 100 } },
  { name: 'lower third', what: stock('moss'), where: { of: 'position', axis: 'y', to: 330, soft: 60 } },
  { name: 'rough', what: { change: 'roughen', by: 0.1 }, where: { of: 'noise', kind: 'ridged', size: 20 } },
];

const THREE = [
  { name: 'oak', what: stock('oak') },
  { name: 'rust', what: stock('rust'), where: { of: 'noise', size: 50, from: 0.5, soft: 0.1 } },
  { name: 'grime', what: stock('grime'), where: { of: 'ao', to: 0.6, soft: 0.3 } },
];

/** A map of AO that goes from dark to light. */
function ramp(side: number): RecipeInputs {
  const data = new Uint8Array(new SharedArrayBuffer(side * side));
  for (let i = 0; i < data.length; i++) data[i] = Math.floor(((i % side) * 255) / side);
  return { ...NO_INPUTS, maps: { ao: { data, scale: 1 / 255, offset: 0 } } };
}

/** Milliseconds of laying lines on a square that is all covered, once everything is read. */
async function layingOf(lines: unknown[], side: number, rounds: number, scope: JobScope): Promise<number> {
  const recipe = Recipe.parse({ recipe: 1, name: 'bench', lines });
  // As a surface, so that nothing wraps.
  const surface = { ...surfaceOfCell('square', [side, side], [1, 1]), wraps: null };
  const inputs = ramp(side);
  const prepared = prepareLines(recipe, surface, await new Looks(scope, []).ofRecipe(recipe), inputs, new Map());
  const maps = emptyMaps(side, side, { normal: true, emissive: false, alpha: false, emissiveStrength: 1 });
  const times: number[] = [];
  for (let k = 0; k <= rounds; k++) {
    const began = performance.now();
    await evaluateRecipe({ recipe, prepared, surface, inputs, maps, grid: 1 }, scope);
    if (k > 0 || rounds === 1) times.push(performance.now() - began);
  }
  return median(times);
}

const peak = () => process.resourceUsage().maxRSS / 1024;

/** Forty lamp posts at once, and whether each is what it is alone. @returns ms of all, and how many of a sample differ */
async function fortyPosts(scope: JobScope): Promise<{ ms: number; different: number; tried: number }> {
  const folder = await mkdtemp(join(tmpdir(), 'wembrel-bench-'));
  const recipe = Recipe.parse(DEMO_RECIPES['lamp-posts.recipe.json']);
  const apply = async (from: string, out: string) => {
    const { files } = await collectModels([from]);
    const common = { high: [], maps: [], pictures: [], grid: 1, margin: 4, embed: true, separate: false, proof: false };
    return applyRecipe({ ...common, files, out, recipe, size: 256 }, scope);
  };
  try {
    await mkdir(join(folder, 'all'));
    const posts = Object.entries(buildLampPosts(40));
    for (const [name, bytes] of posts) await writeFile(join(folder, 'all', name), bytes);
    const began = performance.now();
    await apply(join(folder, 'all'), join(folder, 'out'));
    const ms = performance.now() - began;
    let different = 0;
    const sample = posts.filter((_, i) => i % 8 === 0);
    for (const [name] of sample) {
      await apply(join(folder, 'all', name), join(folder, name));
      const [one, all] = await Promise.all(
        [join(folder, name, name), join(folder, 'out', name)].map((path) => readFile(path)),
      );
      different += Number(!one.equals(all));
    }
    return { ms, different, tried: sample.length };
  } finally {
    await rm(folder, { recursive: true, force: true });
  }
}

/** Recipes against what was wished for. */
export async function recipeBenches(): Promise<BenchRow[]> {
  const scope = jobScope({});
  const row = (name: string, ours: number, wish: number | null, note?: string): BenchRow => ({
    name,
    unit: 'ms',
    ours: round(ours),
    reference: wish,
    against: 'wished for',
    ratio: wish === null ? null : round(ours / wish),
    note,
  });
  try {
    const eight = await layingOf(EIGHT, 512, 5, scope);
    const before = peak();
    const three = await layingOf(THREE, 4096, 1, scope);
    const note = `peak ${Math.round(peak())} MiB, of which ${Math.round(before)} were there before; 1 GB wished for`;
    const forty = await fortyPosts(scope);
    const { first, changes } = await tuningOf(scope);
    const change = (side: 256 | 512) =>
      row(
        `a change while fifteen lines are tuned, ${side}²`,
        changes[side].median,
        500,
        `of one line, in the middle; the longest ${Math.round(changes[side].most)} ms`,
      );
    return [
      row('recipe of eight lines, 512²', eight, 500),
      row('recipe of three box-projected lines, 4096², one sample', three, 20_000, note),
      row(
        'one recipe on forty lamp posts, 256² each',
        forty.ms,
        null,
        `${forty.different} of ${forty.tried} differ from their own single run`,
      ),
      row('first picture of a recipe that is tuned, from the file on, 256²', first, null),
      change(256),
      change(512),
    ];
  } finally {
    await scope.close();
  }
}
