import { createWriteStream } from 'node:fs';
import { readFile, rename, rm } from 'node:fs/promises';
import { Readable } from 'node:stream';
import { pipeline } from 'node:stream/promises';
import { MergeDecisions } from '@wembrel/core/decisions/decisions';
import { withPlanFile } from '@wembrel/core/decisions/plan-file';
import { mergeRoutes, routeSlots } from '@wembrel/core/decisions/routes';
import { APART, addRule } from '@wembrel/core/decisions/rules';
import { sheetInputs } from '@wembrel/core/decisions/sheets';
import { shippedSheets } from '@wembrel/core/handover/grow';
import { merge as runMerge } from '@wembrel/runner/merge/merge';
import type { MergeReport } from '@wembrel/runner/merge/report';
import type { DefaultPlanOptions } from '@wembrel/runner/plans/default-plan';
import { collectModels } from '@wembrel/runner/read/collect';
import { zipFiles } from '@wembrel/runner/write/zip';
import { choice, helpText, type OptionSpec, parse, UsageError, type Values, whole } from './arguments.ts';
import { COLLISION, collisionFrom } from './collide.ts';
import { failed, refused } from './failures.ts';
import { MERGE_RECIPES, mergeRecipes } from './merge-recipes.ts';
import { COPIES, copiesFrom } from './model-copies.ts';
import { apartLines, count, editLines, progressLine, size, table } from './output.ts';
import { keptApart, readPlanFile } from './plan.ts';
import { PROFILES, profilesFrom } from './profiles.ts';
import { facesFrom, READING, readingFrom } from './reading.ts';
import { jobScope, watchSignals } from './run.ts';

export const mergeOptions: Record<string, OptionSpec> = {
  out: { type: 'string', value: 'DIR', help: 'folder for the results (needed)' },
  size: {
    type: 'string',
    value: 'auto|PX',
    help: 'side of a sheet, a power of two; auto (default): the least at full sharpness, within the memory of the sources',
  },
  margin: { type: 'string', value: 'PX', help: 'least gap between islands (default 12, which protects mip 2)' },
  padding: { type: 'string', value: 'PX', help: 'how far island colours are carried outward (default: the margin)' },
  samples: { type: 'string', value: 'N', help: 'samples per texel in all: 1, 4, 9 or 16 (default 4)' },
  sheets: {
    type: 'string',
    value: 'N',
    help: 'number of sheets (default 1); for --size auto at most so many (default one, or more where that is not enough)',
  },
  name: { type: 'string', value: 'NAME', help: 'name of the sheet (default "sheet")' },
  'keep-apart': {
    type: 'string',
    multiple: true,
    value: 'SLOT',
    help: 'a slot that is not merged, by exact name; repeatable',
  },
  only: {
    type: 'string',
    multiple: true,
    value: 'OBJECT',
    help: 'merge only this object, and leave the rest as it is; MODEL/OBJECT, * for any letters; repeatable',
  },
  leave: {
    type: 'string',
    multiple: true,
    value: 'OBJECT',
    help: 'leave this object as it is, whatever its slots share with others; as for --only; repeatable',
  },
  'each-object': { type: 'boolean', help: 'each object of the scene gets a sheet of its own, called after it' },
  'keep-part': { type: 'string', multiple: true, value: 'PART', help: 'a part that --join leaves alone; repeatable' },
  rotate: { type: 'string', value: 'none|quarter|free', help: 'how islands may be turned (default quarter)' },
  scale: {
    type: 'string',
    value: 'relative|even|detail',
    help: 'as sharp as the sources, the same px/m everywhere, or as sharp as their pictures really are (default relative)',
  },
  'max-repeats': { type: 'string', value: 'N', help: 'repeats of a tiling texture that are baked in (default 4)' },
  effort: {
    type: 'string',
    value: 'N',
    help: 'how long a tighter layout is looked for: so many rounds for up to 100 islands, fewer for more (default 6)',
  },
  all: { type: 'boolean', help: 'merge slots as well by which nothing is gained' },
  snap: { type: 'boolean', help: 'islands stand on whole texels, for pictures made of texels' },
  join: {
    type: 'boolean',
    help: 'join parts of a model that then share a slot across nodes; primitives of one mesh are joined in any case',
  },
  embed: { type: 'boolean', help: 'put the textures inside each GLB' },
  'compare-at': {
    type: 'string',
    value: 'PX',
    help: 'side of the pictures by which the result is compared: 256, 512, 1024 or 2048 (default 1024; a proof half)',
  },
  'no-compare': { type: 'boolean', help: 'do not compare the result with its sources once it is delivered' },
  proof: { type: 'boolean', help: 'bake a quarter of the side, same layout' },
  zip: { type: 'string', value: 'FILE', help: 'also write everything as one ZIP' },
  'same-names': { type: 'boolean', help: 'materials that look the same get one name in all models' },
  ...MERGE_RECIPES,
  ...COPIES,
  ...COLLISION,
  ...PROFILES,
  format: { type: 'string', value: 'png', help: 'file format of the maps (png)' },
  grow: {
    type: 'string',
    value: 'MANIFEST',
    help: 'grow the sheets of an earlier delivery: its bays stay where they are, new slots take free room',
  },
  ...READING,
  plan: {
    type: 'string',
    value: 'FILE',
    help: 'a plan file, as `wembrel plan propose` writes it; other options change it',
  },
};

/** No size is given, and nothing that says what the sheets are. */
const isAuto = (values: Values): boolean =>
  (values.size === undefined || values.size === 'auto') && values.plan === undefined && values.grow === undefined;

/** What is said of the plan that is made for the files. */
const autoFrom = (values: Values, { scale }: MergeDecisions): DefaultPlanOptions => ({
  ...(values.sheets === undefined ? {} : { sheets: whole(values, 'sheets', 1, 1, 16) }),
  ...(values.scale === undefined ? {} : { scale }),
  eachObject: Boolean(values['each-object']),
});

function decisionsFrom(values: Values): MergeDecisions {
  if (values['each-object'] && !isAuto(values))
    throw new UsageError('--each-object finds the size of each sheet; leave out --size, --plan and --grow');
  choice(values, 'format', 'png', ['png'], ['webp', 'ktx2']);
  const margin = values.margin === undefined ? 12 : Number(values.margin);
  const parsed = MergeDecisions.safeParse({
    sheets: sheetInputs(
      whole(values, 'sheets', 1, 1, 16),
      typeof values.name === 'string' ? values.name : 'sheet',
      isAuto(values) ? 2048 : whole(values, 'size', 2048, 64, 8192),
      margin,
    ),
    routes: routeSlots([], keptApart(values), APART),
    padding: values.padding === undefined ? null : whole(values, 'padding', 0, 0, 512),
    samples: whole(values, 'samples', 4, 1, 16),
    compareAt: whole(values, 'compare-at', 1024, 256, 2048),
    rotate: choice(values, 'rotate', 'quarter', ['none', 'quarter', 'free']),
    scale: choice(values, 'scale', 'relative', ['relative', 'even', 'detail']),
    only: values.only ?? [],
    rules: leaving([], values),
    keepParts: values['keep-part'] ?? [],
    maxRepeats: whole(values, 'max-repeats', 4, 1, 64),
    effort: whole(values, 'effort', 6, 0, 100_000),
    seed: whole(values, 'seed', 1, 0, 0x7fffffff),
    snap: Boolean(values.snap),
    mergeAll: Boolean(values.all),
    join: Boolean(values.join),
    embed: Boolean(values.embed),
  });
  if (parsed.success) return parsed.data;
  const issue = parsed.error.issues[0];
  const option = issue.path[0] === 'sheets' ? issue.path[2] : issue.path[0];
  throw new UsageError(`--${String(option)}: ${issue.message}`);
}

/** Patterns of objects that stay as they are. */
const left = (values: Values): string[] => (values.leave as string[] | undefined) ?? [];

/** Rules with those that keep objects apart, before all others. */
function leaving(rules: MergeDecisions['rules'], values: Values): MergeDecisions['rules'] {
  const all = left(values).reduce((list, pattern) => addRule(list, { kind: 'object', pattern }, APART), rules);
  return [...all.slice(rules.length), ...rules];
}

/** Options that say what a plan file says. */
const OF_PLAN = [
  'size',
  'margin',
  'sheets',
  'name',
  'padding',
  'rotate',
  'scale',
  'max-repeats',
  'effort',
  'snap',
  'seed',
];

/** Decisions of a plan file; slots can be kept apart on top, parts joined, textures embedded. @throws UsageError */
async function planDecisions(values: Values): Promise<MergeDecisions> {
  const twice = OF_PLAN.find((o) => values[o] !== undefined);
  if (twice) throw new UsageError(`--${twice} is said by the plan file; change it there`);
  const decisions = withPlanFile(MergeDecisions.parse({}), await readPlanFile(values.plan as string));
  decisions.routes = routeSlots(decisions.routes, keptApart(values), APART);
  decisions.only.push(...((values.only as string[] | undefined) ?? []));
  decisions.rules = leaving(decisions.rules, values);
  decisions.keepParts.push(...((values['keep-part'] as string[] | undefined) ?? []));
  return {
    ...decisions,
    compareAt: decisionsFrom({ 'compare-at': values['compare-at'] }).compareAt,
    samples: values.samples === undefined ? decisions.samples : decisionsFrom({ samples: values.samples }).samples,
    join: decisions.join || Boolean(values.join),
    embed: decisions.embed || Boolean(values.embed),
  };
}

/** Options that a manifest says what to grow by. */
const OF_MANIFEST = ['size', 'margin', 'sheets', 'name'];

/** Decisions with the sheets of an earlier delivery in place of those of the same name, all their bays held. @throws UsageError */
async function grown(decisions: MergeDecisions, values: Values): Promise<MergeDecisions> {
  if (values.grow === undefined) return decisions;
  const twice = OF_MANIFEST.find((o) => values[o] !== undefined);
  if (twice) throw new UsageError(`--${twice} is said by the manifest; a sheet that grows keeps its size`);
  try {
    const { sheets, routes } = shippedSheets(
      JSON.parse(await readFile(values.grow as string, 'utf8')),
      values.plan === undefined ? [] : decisions.sheets,
    );
    const names = new Set(sheets.map((sheet) => sheet.name));
    const others = values.plan === undefined ? [] : decisions.sheets.filter((sheet) => !names.has(sheet.name));
    return MergeDecisions.parse({
      ...decisions,
      sheets: [...sheets, ...others],
      routes: mergeRoutes(routes, decisions.routes),
    });
  } catch (error) {
    throw new UsageError(`--grow ${values.grow}: ${(error as Error).message.split('\n')[0]}`);
  }
}

/** `wembrel merge`: all materials of all inputs onto shared sheets. */
export async function merge(args: string[]): Promise<number> {
  const { values, inputs } = parse(args, mergeOptions);
  if (values.help) {
    process.stdout.write(
      helpText(
        'wembrel merge INPUT… --out DIR',
        'Bakes the materials of all inputs onto shared sheets, repacks UVs and merges slots. Writes one GLB for each input,\nthe textures, manifest.json and report.json. Sources are never written to.',
        mergeOptions,
        [
          'wembrel merge stop.glb --out merged --size 2048 --keep-apart ShelterGlass',
          'wembrel merge stop.glb --out merged --only "bench*" --only lamp',
          'wembrel merge signs/ --out pack --size 1024 --margin 24 --join --json',
        ],
      ),
    );
    return 0;
  }
  if (inputs.length === 0) throw new UsageError('merge needs at least one file or folder');
  if (typeof values.out !== 'string' || values.out === '') throw new UsageError('merge needs --out DIR');
  const planned = typeof values.plan === 'string' ? await planDecisions(values) : decisionsFrom(values);
  const decisions = await grown(planned, values);
  decisions.profiles = await profilesFrom(values);
  decisions.sameNames = Boolean(values['same-names']);
  decisions.collision = collisionFrom(values);
  decisions.modelCopies = copiesFrom(values);
  const { recipes, pictures: recipePictures, close: closePictures } = await mergeRecipes(values);
  decisions.recipes = recipes;
  const { files, textures, problems, close } = await collectModels(inputs);
  const early = problems.map((problem) => ({ path: problem.path, message: problem.reason }));
  const progress = progressLine(Boolean(values.quiet));
  const scope = jobScope(values);
  watchSignals(scope);
  try {
    if (early.length > 0 && (values.strict || files.length === 0)) return failed(early, Boolean(values.json));
    decisions.reading = await readingFrom(values, [...files, ...textures]);
    decisions.faces = await facesFrom(values);
    const { report } = await runMerge(
      {
        files,
        textures,
        out: values.out,
        decisions,
        proof: Boolean(values.proof),
        strict: Boolean(values.strict),
        compare: !values['no-compare'],
        mustFit: left(values),
        recipePictures,
        ...(isAuto(values) ? { auto: autoFrom(values, decisions) } : {}),
        onProgress: progress.on,
      },
      scope,
    );
    progress.end();
    report.errors.unshift(...early);
    if (typeof values.zip === 'string') await writeZip(values.zip, values.out, report.written);
    for (const error of report.errors) process.stderr.write(`${error.path}: ${error.message}\n`);
    process.stdout.write(values.json ? `${JSON.stringify(report, null, 2)}\n` : human(report, values.out));
    return report.errors.length > 0 ? 1 : 0;
  } catch (error) {
    progress.end();
    return refused(error, early, Boolean(values.json));
  } finally {
    await scope.close();
    await close();
    await closePictures();
  }
}

async function writeZip(file: string, folder: string, names: string[]): Promise<void> {
  const partial = `${file}.partial`;
  try {
    await pipeline(Readable.from(zipFiles(folder, names)), createWriteStream(partial));
    await rename(partial, file);
  } catch (error) {
    await rm(partial, { force: true });
    throw error;
  }
}

function human(report: MergeReport, out: string): string {
  const { before, after } = report;
  const lines = [
    table([
      ['', 'before', 'after'],
      ['draw calls', count(before.drawCalls), count(after.drawCalls)],
      ['slots', count(before.slots), count(after.slots)],
      ['textures', count(before.textures), count(after.textures)],
      ['texture memory (BC7)', size(before.textureBytes.bc7), size(after.textureBytes.bc7)],
      ['GPU vertices', count(before.gpuVertices), count(after.gpuVertices)],
      ['triangles', count(before.triangles), count(after.triangles)],
    ]),
    '',
  ];
  for (const sheet of report.sheets)
    lines.push(
      `${sheet.name}: ${sheet.size} px, ${(sheet.coverage * 100).toFixed(1)} % covered, ${(sheet.scale * 100).toFixed(0)} % of the sources' sharpness, mips 0–${sheet.protectedMip} protected`,
    );
  for (const { sheet, recipe, lines: reached } of report.recipes)
    lines.push(
      `${sheet}: recipe "${recipe}": ${reached.map(({ line, mean, texels }) => `${line} (${count(texels)} texels, ${(mean * 100).toFixed(0)} %)`).join(', ')}`,
    );
  lines.push(...editLines(report.edited));
  lines.push(...apartLines(report.keptApart));
  if (report.joinOffer) {
    const { now, then } = report.joinOffer;
    lines.push(
      `to be gained: ${count(now)} → ${count(then)} draw calls with --join: parts of several nodes become one, which is culled as one; their nodes go`,
    );
  }
  if (report.density)
    lines.push(
      `texel density: median ${report.density.median.toFixed(0)} px/m, lowest (5 %) ${report.density.p5.toFixed(0)} px/m`,
    );
  if (report.fidelity) {
    const { worstView, psnr, ssim, distances } = report.fidelity;
    const decibels = (value: number | null) => (value === null ? 'identical' : `${value.toFixed(1)} dB`);
    lines.push(`fidelity, worst view "${worstView}": PSNR ${decibels(psnr)}, SSIM ${ssim.toFixed(4)}`);
    const elsewhere = distances.filter(({ distance }) => distance !== 1);
    lines.push(`  at ${elsewhere.map((d) => `${d.distance} × that distance ${decibels(d.psnr)}`).join(', ')}`);
  }
  for (const fault of report.faults) lines.push(`${fault.code}: ${fault.subject}: ${fault.message}`);
  lines.push(`${report.written.length} files written to ${out}`);
  return `${lines.join('\n')}\n`;
}
