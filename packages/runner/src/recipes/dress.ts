import { totalmem } from 'node:os';
import { FILLED_MAPS } from '@wembrel/core/bake/fill';
import { emptyMaps } from '@wembrel/core/bake/sheet-maps';
import type { SheetMaps } from '@wembrel/core/bake/transfer';
import { PROOF_DIVISOR } from '@wembrel/core/decisions/decisions';
import type { MapKind } from '@wembrel/core/decisions/map-kinds';
import type { Recipe } from '@wembrel/core/decisions/recipe/recipe';
import { type RaySheetNeeds, raySheetNeeds, sheetMapsOf } from '@wembrel/core/rays/maps/sheet-maps';
import { lowTarget } from '@wembrel/core/rays/target/low-target';
import { sceneObjects } from '@wembrel/core/rays/target/scene-objects';
import { recipeNeeds } from '@wembrel/core/recipes/inputs/needs';
import { planRecipeMemory } from '@wembrel/core/recipes/memory';
import { prepareLines, type RecipeProblem, writtenChannels } from '@wembrel/core/recipes/prepare';
import { meanMetresPerPx, surfaceOfTarget } from '@wembrel/core/recipes/surface';
import type { Model } from '@wembrel/core/scene/model';
import type { JobScope } from '../pool/job-scope.ts';
import { type PartOfJob, within } from '../progress.ts';
import { bakedLooks } from '../rays/whole-model.ts';
import type { InputFile } from '../read/collect.ts';
import type { BakedSheet } from '../stages/bake.ts';
import { bakeTasks } from '../stages/bake-tasks.ts';
import { type BakeSettings, bakeOnto, type Undressed } from './bake-onto.ts';
import { evaluateRecipe, type LineReport } from './evaluate.ts';
import { givenMaps } from './given-maps.ts';
import { type BakedInputs, findInputs, NOTHING_BAKED } from './inputs.ts';
import type { Looks } from './looks.ts';
import { placedOnce } from './own-uvs.ts';

export interface DressSettings {
  /** Side of the sheet, px. */
  size: number;
  /** Samples of a texel along an axis. */
  grid: number;
  /** Least gap between islands, px. */
  margin: number;
  /** A quarter of the side, one sample. */
  proof: boolean;
  /** Pictures of what conditions read, see `givenMaps`; none: it is baked. */
  maps: readonly InputFile[];
}

/** A sheet with its recipe laid. */
export interface Dressed {
  sheet: BakedSheet;
  needs: RaySheetNeeds;
  lines: LineReport[];
  problems: RecipeProblem[];
  /** px per metre, in the mean. */
  density: number;
  /** Texels of pictures of IDs that are of no ID, by file. */
  odd: ReadonlyMap<string, number>;
}

/** Bakes what is there and what the recipe asks for, and lays the recipe over it. @throws InputError @throws Cancelled */
export async function dress(
  model: Undressed,
  recipe: Recipe,
  looks: Looks,
  settings: DressSettings,
  part: PartOfJob,
): Promise<Dressed> {
  const { scope, progress } = part;
  const { low, apart } = model;
  const side = settings.proof ? Math.max(16, Math.round(settings.size / PROOF_DIVISOR)) : settings.size;
  const reads = recipeNeeds(recipe);
  const triangles = low.parts.reduce((sum, part) => sum + part.indices.length / 3, 0);
  planRecipeMemory(low.path, { side, triangles, needs: reads }, totalmem());
  const found = await looks.ofRecipe(recipe);
  const once = placedOnce(low, apart);
  const sources = model.high.length > 0 ? model.high : [model.source];
  const needs = neededMaps(
    raySheetNeeds(sources.flatMap((one) => bakedLooks(one, model.high.length > 0 ? new Set() : apart))),
    recipe,
    found,
  );
  const bakeSettings = { ...settings, side, asked: recipe };
  const basePart = within(part, 0, 0.35, 'baking what is there');
  const base = await bakeOnto(model, once, needs.maps, { ...bakeSettings, bits: 8 }, basePart);
  const kinds: MapKind[] = [...reads.maps, ...(reads.bakedIds ? (['id'] as const) : [])];
  // Conditions are read between texels: one sample of each is enough.
  const inputSettings = { ...bakeSettings, bits: 16 as const, grid: 1, looks };
  const inputPart = within(part, 0.35, 0.65, `baking ${kinds.join(', ')}`);
  const baked = await inputMaps(model, once, kinds, inputSettings, inputPart);
  const target = lowTarget([once], sceneObjects([once]), { size: [side, side], uvSet: 0, cast: 'smoothed', blend: 0 });
  const surface = surfaceOfTarget(target, [side, side], model.groups);
  progress(0.65, 'reading its pictures');
  const inputs = await findInputs(recipe, surface, baked, { looks }, scope);
  const prepared = prepareLines(recipe, surface, found, inputs.inputs, inputs.missing);
  const maps = withEmissive(sheetMapsOf(base.maps, needs), needs);
  const grid = settings.proof ? 1 : settings.grid;
  const lines = await evaluateRecipe({ recipe, prepared, surface, inputs: inputs.inputs, maps, grid }, scope, (share) =>
    progress(0.7 + 0.25 * share, 'laying its lines'),
  );
  await finish(maps, settings.margin, scope);
  const coverage = coverageOf(maps);
  const metres = meanMetresPerPx(surface);
  return {
    sheet: { maps, needs, coverage },
    needs,
    lines,
    problems: prepared.problems,
    density: metres > 0 ? 1 / metres : 0,
    odd: inputs.odd,
  };
}

/** What conditions read of a surface: from pictures that were given, else baked. */
async function inputMaps(
  model: Undressed,
  low: Model,
  kinds: readonly MapKind[],
  settings: BakeSettings & Pick<DressSettings, 'maps'> & { looks: Looks },
  part: PartOfJob,
): Promise<BakedInputs> {
  if (kinds.length === 0) return NOTHING_BAKED;
  if (settings.maps.length > 0)
    return { maps: await givenMaps(low.path, kinds, settings.maps, settings.side, settings.looks), legend: [] };
  const { maps, legend } = await bakeOnto(model, low, kinds, settings, part);
  return { maps: maps.maps, legend };
}

/** Maps that the sheet has, with those that only the recipe writes. */
function neededMaps(
  needs: RaySheetNeeds,
  recipe: Recipe,
  found: Awaited<ReturnType<Looks['ofRecipe']>>,
): RaySheetNeeds {
  const read = Object.fromEntries(
    Object.entries(found).flatMap(([k, look]) => (typeof look === 'string' ? [] : [[k, look]])),
  );
  const written = writtenChannels(recipe, read);
  return {
    ...needs,
    alpha: needs.alpha || written.has('alpha'),
    masked: needs.masked || written.has('alpha'),
    emissive: needs.emissive || written.has('emissive'),
    occlusion: needs.occlusion || written.has('occlusion'),
  };
}

function withEmissive(maps: SheetMaps, needs: RaySheetNeeds): SheetMaps {
  if (maps.emissive || !needs.emissive) return maps;
  return { ...maps, emissive: emptyMaps(maps.width, maps.height, needs).emissive };
}

/** Padding, and what lies beyond it. */
async function finish(maps: SheetMaps, margin: number, scope: JobScope): Promise<void> {
  const known = await scope.run(bakeTasks.pad, { maps, padding: Math.ceil(margin) });
  const filled = FILLED_MAPS.filter((map) => maps[map]);
  await Promise.all(filled.map((map) => scope.run(bakeTasks.fill, { maps, map, known })));
}

function coverageOf({ owner }: SheetMaps): number {
  let covered = 0;
  for (const o of owner) if (o !== 0) covered++;
  return covered / owner.length;
}
