import { Recipe } from '@wembrel/core/decisions/recipe/recipe';
import { InputError } from '@wembrel/core/errors';
import { collectModels, collectPictures } from '@wembrel/runner/read/collect';
import { applyRecipe } from '@wembrel/runner/recipes/apply';
import { recipeCell } from '@wembrel/runner/recipes/cell';
import type { RecipeReport } from '@wembrel/runner/recipes/report';
import { z } from 'zod';
import { helpText, type OptionSpec, parse, UsageError, type Values, whole } from './arguments.ts';
import { pictureFolders } from './merge-recipes.ts';
import { count, failedWhole, progressLine, size, table } from './output.ts';
import { facesFrom, jsonFile } from './reading.ts';
import { jobScope, watchSignals } from './run.ts';

export const recipeOptions: Record<string, OptionSpec> = {
  recipe: { type: 'string', value: 'FILE', help: 'the recipe, as JSON (needed)' },
  out: { type: 'string', value: 'DIR', help: 'folder for the results (needed)' },
  pictures: {
    type: 'string',
    multiple: true,
    value: 'DIR',
    help: 'where the pictures lie that the recipe names; repeatable (default: beside the recipe)',
  },
  high: {
    type: 'string',
    multiple: true,
    value: 'FILE',
    help: 'high-polys that are baked across; for several models, each whose file name begins as that of the model',
  },
  maps: {
    type: 'string',
    value: 'DIR',
    help: 'curvature, AO, … of the models from pictures there, named MODEL_curvature and so on, instead of baking them',
  },
  size: { type: 'string', value: 'PX', help: 'side of the sheet of each model (default 2048)' },
  margin: { type: 'string', value: 'PX', help: 'gap between islands where a model is laid out anew (default 8)' },
  samples: { type: 'string', value: 'N', help: 'samples per texel: 1, 4, 16 (default 4)' },
  faces: {
    type: 'string',
    value: 'FILE',
    help: 'face groups, for conditions by group, as `wembrel faces` reads them',
  },
  separate: { type: 'boolean', help: 'islands that lie over each other get places of their own' },
  cell: { type: 'string', value: 'PX', help: 'no models: one cell of so many px that wraps on its own edges' },
  metres: { type: 'string', value: 'M', help: 'side of the cell on the ground, metres (default 1)' },
  nearest: { type: 'boolean', help: 'of a cell: looks are read unblended, for sheets that are read nearest' },
  colours: { type: 'string', value: 'N', help: 'of a cell: colours at the most' },
  dither: { type: 'boolean', help: 'of a cell with few colours: an ordered pattern of them' },
  embed: { type: 'boolean', help: 'put the textures inside each GLB' },
  proof: { type: 'boolean', help: 'a quick look: a quarter of the size, one sample' },
};

const WAYS = ['apply', 'schema'] as const;

/** `wembrel recipe apply | schema`. */
export async function recipe(args: string[]): Promise<number> {
  const { values, inputs } = parse(args, recipeOptions);
  if (values.help) {
    process.stdout.write(
      helpText(
        'wembrel recipe apply MODEL… --recipe FILE --out DIR | apply --cell PX --recipe FILE --out DIR | schema',
        'Lays a recipe on models, each on one sheet and with one material, or on a cell. What its conditions read (curvature, AO, IDs, …) is baked\nfrom the model itself or from its high-poly. `schema` prints the JSON Schema of recipes; docs/recipes.md has one picture for each condition.',
        recipeOptions,
        [
          'wembrel recipe apply post.glb --recipe weathered.json --out dressed',
          'wembrel recipe apply locker_low.glb --high locker_high.glb --recipe locker.json --out dressed',
          'wembrel recipe apply --cell 256 --metres 2 --recipe moss-paving.json --out cells',
        ],
      ),
    );
    return 0;
  }
  const [way, ...models] = inputs;
  if (way === 'schema') {
    process.stdout.write(`${JSON.stringify(z.toJSONSchema(Recipe, { io: 'input', reused: 'ref' }), null, 2)}\n`);
    return 0;
  }
  if (way !== 'apply') throw new UsageError(`recipe takes ${WAYS.join(' or ')}`);
  return apply(models, values);
}

async function apply(models: string[], values: Values): Promise<number> {
  if (typeof values.recipe !== 'string' || values.recipe === '')
    throw new UsageError('recipe apply needs --recipe FILE');
  if (typeof values.out !== 'string' || values.out === '') throw new UsageError('recipe apply needs --out DIR');
  if (values.cell !== undefined && models.length > 0)
    throw new UsageError('recipe apply takes models or --cell, not both');
  if (values.cell === undefined && models.length === 0)
    throw new UsageError('recipe apply needs at least one model, or --cell');
  const recipe = await jsonFile('recipe', values.recipe, Recipe);
  const given = pictureFolders(values, [values.recipe], [recipe]);
  const [pictures, maps] = [
    await collectPictures(given),
    await collectPictures(values.maps ? [String(values.maps)] : []),
  ];
  const [sources, highs] = [
    await collectModels(models),
    await collectModels((values.high as string[] | undefined) ?? []),
  ];
  const all = [pictures, maps, sources, highs];
  const found = [sources, highs].flatMap(({ problems }) =>
    problems.map(({ path, reason }) => ({ path, message: reason })),
  );
  const scope = jobScope(values);
  watchSignals(scope);
  const line = progressLine(Boolean(values.quiet));
  const common = {
    recipe,
    pictures: [...pictures.files, ...pictures.textures],
    out: values.out,
    grid: gridOf(values),
    proof: Boolean(values.proof),
    strict: Boolean(values.strict),
    onProgress: line.on,
  };
  try {
    const report =
      values.cell === undefined
        ? await applyRecipe(
            {
              ...common,
              files: sources.files,
              high: highs.files,
              maps: [...maps.files, ...maps.textures],
              size: sheetSide(values),
              margin: whole(values, 'margin', 8, 0, 256),
              embed: Boolean(values.embed),
              separate: Boolean(values.separate),
              faces: await facesFrom(values),
            },
            scope,
          )
        : await recipeCell({ ...common, ...cellOf(values) }, scope);
    line.end();
    report.errors.unshift(...found);
    for (const error of report.errors) process.stderr.write(`${error.path}: ${error.message}\n`);
    process.stdout.write(values.json ? `${JSON.stringify(report, null, 2)}\n` : humanReport(report));
    return report.errors.length > 0 ? 1 : 0;
  } catch (error) {
    line.end();
    if (!(error instanceof InputError)) throw error;
    return failedWhole(error, Boolean(values.json), found);
  } finally {
    await scope.close();
    for (const one of all) await one.close();
  }
}

function cellOf(values: Values) {
  const px = whole(values, 'cell', 256, 1, 8192);
  const metres = Number(values.metres ?? 1);
  if (!(metres > 0 && metres <= 1e6)) throw new UsageError('--metres takes a length above 0');
  if (values.dither && values.colours === undefined) throw new UsageError('--dither needs --colours');
  return {
    size: [px, px] as const,
    metres: [metres, metres] as const,
    nearest: Boolean(values.nearest),
    colours: values.colours === undefined ? null : whole(values, 'colours', 16, 2, 256),
    dithered: Boolean(values.dither),
  };
}

function gridOf(values: Values): number {
  const samples = whole(values, 'samples', 4, 1, 16);
  if (![1, 4, 16].includes(samples)) throw new UsageError('--samples takes 1, 4, 16');
  return Math.sqrt(samples);
}

function sheetSide(values: Values): number {
  const side = whole(values, 'size', 2048, 16, 8192);
  if ((side & (side - 1)) !== 0) throw new UsageError('--size takes a power of two from 16 to 8192');
  return side;
}

function humanReport({ models, faults, written, peakBytes }: RecipeReport): string {
  const rows = models.flatMap((model) => [
    [
      model.path,
      `${model.size} px`,
      `${model.density.toFixed(0)} px/m`,
      model.layout === 'own' ? 'own UVs' : model.layout,
    ],
    ...model.lines.map((line) => [
      `  ${line.line}`,
      `${count(line.texels)} texels`,
      `${(line.mean * 100).toFixed(0)} %`,
      '',
    ]),
  ]);
  return [
    table([['', 'size, reach', 'density, mean', 'layout'], ...rows]),
    ...(faults.length > 0 ? ['', ...faults.map((fault) => `${fault.subject}: ${fault.message}`)] : []),
    '',
    `${count(written.length)} files; ${size(peakBytes)} at most`,
    '',
  ].join('\n');
}
