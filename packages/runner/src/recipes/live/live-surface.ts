import type { SheetMaps } from '@wembrel/core/bake/transfer';
import { canonicalJson } from '@wembrel/core/canonical-json';
import type { Condition } from '@wembrel/core/decisions/recipe/condition';
import type { Recipe } from '@wembrel/core/decisions/recipe/recipe';
import type { MeasuredCondition } from '@wembrel/core/recipes/conditions/measure';
import { levelsOfDetail } from '@wembrel/core/recipes/evaluate';
import { recipeNeeds } from '@wembrel/core/recipes/inputs/needs';
import type { RecipeJob } from '@wembrel/core/recipes/job';
import { type PreparedLines, prepareLines, type RecipeProblem } from '@wembrel/core/recipes/prepare';
import { readTexel, type TexelReading } from '@wembrel/core/recipes/readings/at-texel';
import { TexelBatches } from '@wembrel/core/recipes/readings/batches';
import { type Coverage, lineCoverage } from '@wembrel/core/recipes/readings/coverage';
import { type MeasureHistogram, measureHistogram } from '@wembrel/core/recipes/readings/histogram';
import { measuredTexels } from '@wembrel/core/recipes/readings/measured';
import { pxSteps } from '@wembrel/core/recipes/samples';
import { metresPerPx, type RecipeSurface } from '@wembrel/core/recipes/surface';
import type { JobScope } from '../../pool/job-scope.ts';
import type { InputFile } from '../../read/collect.ts';
import { bakeTasks } from '../../stages/bake-tasks.ts';
import type { LineReport } from '../evaluate.ts';
import { type BakedInputs, type FoundInputs, findInputs, KnownInputs } from '../inputs.ts';
import type { Looks } from '../looks.ts';
import { RecipeSession } from '../session.ts';

/** Makes what conditions read of a surface, for the settings of a recipe; what was made before is taken again. */
export type InputSource = (recipe: Recipe) => Promise<BakedInputs>;

/** A recipe as it looks now. */
export interface LaidRecipe {
  maps: SheetMaps;
  lines: LineReport[];
  problems: RecipeProblem[];
  /** Position of the first line that was evaluated anew. */
  from: number;
  /** Texels of pictures of IDs that have the colour of no ID, by file. */
  odd: Readonly<Record<string, number>>;
  /** Colours of the IDs that were read, #rrggbb with their names, by file; those that are baked under ''. */
  ids: Readonly<Record<string, { colour: number; name: string | null }[]>>;
}

/** px by which the look of an island is carried on beyond its border, so that pictures drawn with it show no seams. */
const PADDING = 4;

/** A surface on which a recipe is tuned: everything that one change leaves alone is kept for the next. */
export class LiveSurface {
  private session: { key: string; session: RecipeSession } | null = null;
  private readonly known = new KnownInputs();
  private readonly batches: TexelBatches;
  private last: { key: string; job: RecipeJob } | null = null;

  /** @param base what is there before all lines */
  constructor(
    readonly surface: RecipeSurface,
    private readonly base: SheetMaps,
    private readonly looks: Looks,
    private readonly inputs: InputSource,
    private readonly scope: JobScope,
  ) {
    this.batches = new TexelBatches(surface);
  }

  /** @throws InputError @throws Cancelled */
  async lay(recipe: Recipe, pictures: readonly InputFile[]): Promise<LaidRecipe> {
    const { found, prepared } = await this.prepare(recipe, pictures);
    // How inputs are made is no part of any line.
    const key = canonicalJson(recipe.inputs);
    if (this.session?.key !== key)
      this.session = { key, session: new RecipeSession(this.surface, this.base, this.scope) };
    const { inputs } = found;
    const laid = await this.session.session.lay({ recipe, prepared, inputs, pictures: this.contentOf(pictures) });
    await this.scope.run(bakeTasks.pad, { maps: laid.maps, padding: PADDING });
    return {
      ...laid,
      problems: prepared.problems,
      odd: Object.fromEntries(found.odd),
      ids: Object.fromEntries(
        Object.entries(inputs.ids).map(([picture, map]) => [
          picture,
          map.colours.map((colour) => ({ colour, name: map.names[colour] ?? null })),
        ]),
      ),
    };
  }

  /** Where a line acts, whether it is on or off; null where it cannot be asked. @param name of the line */
  async coverageOfLine(recipe: Recipe, name: string, pictures: readonly InputFile[]): Promise<Coverage | null> {
    const number = recipe.lines.findIndex((line) => line.name === name);
    const lines = recipe.lines.map((line, i) => ({ ...line, off: i !== number }));
    const job = await this.jobOf({ ...recipe, lines }, pictures);
    return job.lines.includes(number) ? lineCoverage(job, number, this.batches) : null;
  }

  /** How often each value of what a condition measures is met. */
  async histogram(
    recipe: Recipe,
    condition: MeasuredCondition,
    pictures: readonly InputFile[],
  ): Promise<MeasureHistogram | null> {
    const job = await this.jobOf(asking(recipe, condition), pictures);
    return measureHistogram(condition, this.contextOf(job), this.batches);
  }

  /** What a condition measures at each texel; NaN where nothing is measured. */
  async measured(
    recipe: Recipe,
    condition: MeasuredCondition,
    pictures: readonly InputFile[],
  ): Promise<Float32Array | null> {
    const job = await this.jobOf(asking(recipe, condition), pictures);
    return measuredTexels(condition, this.contextOf(job), this.batches);
  }

  /** What is known of a texel, px. */
  async texel(recipe: Recipe, x: number, y: number, pictures: readonly InputFile[]): Promise<TexelReading | null> {
    return readTexel(await this.jobOf(recipe, pictures), this.batches, x, y);
  }

  private contextOf({ surface, inputs, recipe }: RecipeJob) {
    return { surface, inputs, shared: recipe.conditions, slot: 0 };
  }

  private async prepare(
    recipe: Recipe,
    pictures: readonly InputFile[],
  ): Promise<{ found: FoundInputs; prepared: PreparedLines }> {
    this.looks.setPictures(pictures);
    const looks = await this.looks.ofRecipe(recipe);
    const baked = await this.inputs(recipe);
    const { surface, scope, known } = this;
    const found = await findInputs(recipe, surface, baked, { looks: this.looks, known }, scope);
    return { found, prepared: prepareLines(recipe, this.surface, looks, found.inputs, found.missing) };
  }

  /** A recipe with all that it reads, on what is there before it. */
  private async jobOf(recipe: Recipe, pictures: readonly InputFile[]): Promise<RecipeJob> {
    const key = canonicalJson([recipe, pictures.map(({ path }) => path)]);
    if (this.last?.key === key) return this.last.job;
    const { found, prepared } = await this.prepare(recipe, pictures);
    const { surface } = this;
    const job: RecipeJob = {
      recipe,
      lines: prepared.lines,
      looks: prepared.looks,
      surface,
      steps: pxSteps(surface),
      lods: levelsOfDetail(metresPerPx(surface), 1),
      inputs: found.inputs,
      grid: 1,
      maps: this.base,
    };
    this.last = { key, job };
    return job;
  }

  private contentOf(pictures: readonly InputFile[]): (name: string) => string {
    return (name) => {
      const one = this.looks.picture(name);
      // A set of pictures is named by a pattern.
      return one ? one.path : pictures.map(({ name: file, path }) => `${file} ${path}`).join();
    };
  }
}

/** A recipe that reads what a condition does, and no more. */
function asking(recipe: Recipe, condition: Condition): Recipe {
  const line = { name: 'asked', off: false, what: { change: 'darken' as const, by: 0 }, where: condition };
  return { ...recipe, lines: [{ ...line, how: PLAIN_HOW }] };
}

const PLAIN_HOW: Recipe['lines'][number]['how'] = {
  mode: 'replace',
  strength: 1,
  normals: 'detail',
  relief: null,
  shadow: null,
};

/** Kinds of maps that a recipe reads and that are baked. */
export const bakedKinds = (recipe: Recipe) => {
  const needs = recipeNeeds(recipe);
  return [...needs.maps, ...(needs.bakedIds ? (['id'] as const) : [])];
};
