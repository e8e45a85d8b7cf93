import { emptyMaps } from '@wembrel/core/bake/sheet-maps';
import { PROOF_DIVISOR } from '@wembrel/core/decisions/decisions';
import type { Recipe } from '@wembrel/core/decisions/recipe/recipe';
import { InputError } from '@wembrel/core/errors';
import { Names } from '@wembrel/core/handover/names';
import { limitColours } from '@wembrel/core/recipes/limited-colours';
import type { LookData } from '@wembrel/core/recipes/looks/look-data';
import { type FoundLooks, prepareLines, writtenChannels } from '@wembrel/core/recipes/prepare';
import { surfaceOfCell } from '@wembrel/core/recipes/surface';
import type { JobScope } from '../pool/job-scope.ts';
import { type OnProgress, stopwatch } from '../progress.ts';
import type { InputFile } from '../read/collect.ts';
import { mapPaths } from '../stages/write-sheet.ts';
import { Delivery } from '../write/delivery.ts';
import { jsonFile, TextureFiles } from '../write/write-models.ts';
import { evaluateRecipe } from './evaluate.ts';
import { layGround } from './ground.ts';
import { findInputs, NOTHING_BAKED } from './inputs.ts';
import { Looks } from './looks.ts';
import { manifestOf } from './manifest.ts';
import type { RecipeFault, RecipeReport } from './report.ts';
import { writeMaps } from './write.ts';

export interface CellOptions {
  recipe: Recipe;
  pictures: InputFile[];
  out: string;
  /** Width and height, px. */
  size: readonly [number, number];
  /** What they are on the ground, m. */
  metres: readonly [number, number];
  /** Samples of a texel along an axis. */
  grid: number;
  proof: boolean;
  /** Looks are read unblended, one sample a texel: for sheets that are read nearest. */
  nearest: boolean;
  /** Colours at the most; null: any. */
  colours: number | null;
  dithered: boolean;
  strict?: boolean;
  onProgress?: OnProgress;
}

/**
 * Lays a recipe on one cell, which wraps on its own edges, and writes its maps.
 * @throws InputError when no line can be laid, or with `strict` when one cannot @throws Cancelled
 */
export async function recipeCell(options: CellOptions, scope: JobScope): Promise<RecipeReport> {
  const { seconds, lap } = stopwatch(scope);
  const { recipe } = options;
  const px = options.size.map((v) => (options.proof ? Math.max(1, Math.round(v / PROOF_DIVISOR)) : v));
  const [width, height] = px;
  const name = new Names().claim(recipe.name, '').replace(/\s+/g, '_');
  const surface = surfaceOfCell(name, [width, height], options.metres);
  const looks = new Looks(scope, options.pictures);
  const found = await looks.ofRecipe(recipe);
  const read = options.nearest ? nearestLooks(found) : found;
  const inputs = await findInputs(recipe, surface, NOTHING_BAKED, { looks }, scope);
  const prepared = prepareLines(recipe, surface, read, inputs.inputs, inputs.missing);
  const faults = prepared.problems.map(
    ({ line, message, leftOut }): RecipeFault => ({
      code: leftOut ? 'cell' : 'line',
      subject: `${name}: ${line}`,
      message: leftOut ? `left out: ${message}` : message,
    }),
  );
  const stopped = prepared.problems.find(({ leftOut }) => leftOut);
  if (stopped && (options.strict || prepared.lines.length === 0))
    throw new InputError(recipe.name, `"${stopped.line}": ${stopped.message}`);
  lap('read');
  const written = writtenChannels(recipe, prepared.looks);
  const needs = {
    normal: written.has('normal'),
    emissive: written.has('emissive'),
    alpha: written.has('alpha'),
    emissiveStrength: 1,
    occlusion: written.has('occlusion'),
    masked: written.has('alpha'),
    maps: [],
  };
  const maps = emptyMaps(width, height, { ...needs, alpha: false });
  layGround(maps, recipe.ground);
  const grid = options.proof || options.nearest ? 1 : options.grid;
  const lines = await evaluateRecipe({ recipe, prepared, surface, inputs: inputs.inputs, maps, grid }, scope, (share) =>
    options.onProgress?.({ stage: 'bake', share: 0.1 + 0.8 * share, doing: `${recipe.name}: laying its lines` }),
  );
  maps.owner.fill(1);
  if (options.colours !== null) limitColours(maps.baseColor, width, options.colours, options.dithered);
  lap('recipe');
  const delivery = await Delivery.begin(options.out);
  try {
    const to = { delivery, textures: new TextureFiles(new Names(), delivery), embed: false };
    const files = await writeMaps(name, { sheet: { maps, needs, coverage: 1 }, needs }, 0, to, scope);
    const report: RecipeReport = {
      recipe: recipe.name,
      models: [
        {
          path: name,
          source: recipe.name,
          layout: 'cell',
          size: width,
          coverage: 1,
          density: Number((width / options.metres[0]).toFixed(1)),
          apart: [],
          lines,
          maps: mapPaths(files),
        },
      ],
      seconds,
      peakBytes: process.resourceUsage().maxRSS * 1024,
      written: [],
      faults,
      errors: [],
    };
    await delivery.write('manifest.json', jsonFile(manifestOf(report, recipe, delivery)));
    await delivery.commit(options.pictures.map((file) => file.path));
    report.written = delivery.list();
    lap('write');
    return report;
  } catch (error) {
    await delivery.discard();
    throw error;
  }
}

const nearestLooks = (found: FoundLooks): FoundLooks =>
  Object.fromEntries(
    Object.entries(found).map(([k, look]) => [
      k,
      typeof look === 'string' ? look : ({ ...look, nearest: true } satisfies LookData),
    ]),
  );
