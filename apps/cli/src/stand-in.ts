import { chosenProfiles } from '@wembrel/core/decisions/profiles';
import { RAY_SAMPLES } from '@wembrel/core/decisions/ray-decisions';
import { STAND_IN_KINDS, StandInLevels, type StandInSpec } from '@wembrel/core/decisions/stand-in';
import { InputError } from '@wembrel/core/errors';
import { collectModels } from '@wembrel/runner/read/collect';
import { makeStandIns } from '@wembrel/runner/stand-in/make';
import type { StandInReport } from '@wembrel/runner/stand-in/report';
import { choice, helpText, type OptionSpec, parse, real, UsageError, type Values, whole } from './arguments.ts';
import { count, failedWhole, progressLine, size, table } from './output.ts';
import { PROFILES, profilesFrom } from './profiles.ts';
import { facesFrom, jsonFile, READING, readingFrom } from './reading.ts';
import { jobScope, watchSignals } from './run.ts';

export const standInOptions: Record<string, OptionSpec> = {
  out: { type: 'string', value: 'DIR', help: 'folder for the results (needed)' },
  as: {
    type: 'string',
    value: 'simplified|hull',
    help: 'the source reduced, or one watertight hull around it (default simplified)',
  },
  triangles: { type: 'string', value: 'N', help: 'triangles at the most' },
  'error-px': {
    type: 'string',
    value: 'PX',
    help: 'px by which 99 % of the outline may be off from the viewing distance, on a screen 1080 px high (default 1)',
  },
  distance: {
    type: 'string',
    value: 'M',
    help: 'from where it is seen, metres (default: from where it fills the height of the screen)',
  },
  resolution: { type: 'string', value: 'MM', help: 'of a hull: width of its cells, millimetres (default: found)' },
  'keep-cavities': { type: 'boolean', help: 'of a hull: cavities inside stay (default: filled)' },
  'keep-groups': { type: 'boolean', help: 'objects stay shells of their own (default: what touches joins)' },
  'keep-hidden': { type: 'boolean', help: 'faces that nothing from outside sees are kept as well' },
  apart: {
    type: 'string',
    multiple: true,
    value: 'SLOT',
    help: 'a slot that stays as it is; repeatable (alpha-blended ones always do)',
  },
  size: { type: 'string', value: 'PX', help: 'side of the sheet of each model (default 2048)' },
  margin: { type: 'string', value: 'PX', help: 'gap between charts (default 8)' },
  samples: { type: 'string', value: 'N', help: 'samples per texel: 1, 4, 16, 64 (default 4)' },
  lods: {
    type: 'string',
    value: 'N|FILE',
    help: 'levels of detail beyond the first: so many, each with 2/5 of the triangles, or a JSON list of shares (default 3)',
  },
  cards: {
    type: 'string',
    value: '0|1|2',
    help: 'flat cards for the farthest level: none, one, or two that cross (default 0)',
  },
  embed: { type: 'boolean', help: 'put the textures inside each GLB' },
  proof: { type: 'boolean', help: 'a quick look: a quarter of the size, one sample, no levels, not compared' },
  'no-compare': { type: 'boolean', help: 'do not hold the result against its source' },
  ...PROFILES,
  ...READING,
};

/** Triangles of each level, as a share of those of the level before. */
const STEP = 0.4;

/** `wembrel stand-in`. */
export async function standIn(args: string[]): Promise<number> {
  const { values, inputs } = parse(args, standInOptions);
  if (values.help) {
    process.stdout.write(
      helpText(
        'wembrel stand-in INPUT… --out DIR --triangles N|--error-px PX',
        'Makes one light model with one slot from each heavy one: reduced or wrapped, unwrapped, packed, every channel of all materials baked\nacross with their own normal maps, with levels of detail on the same sheet. The sources stay as they are.',
        standInOptions,
        [
          'wembrel stand-in kiosk.glb --out light --triangles 25000',
          'wembrel stand-in kiosk.glb --out light --as hull --error-px 1 --distance 8 --lods 4',
        ],
      ),
    );
    return 0;
  }
  if (inputs.length === 0) throw new UsageError('stand-in needs at least one file or folder');
  if (typeof values.out !== 'string' || values.out === '') throw new UsageError('stand-in needs --out DIR');
  const spec = await specFrom(values);
  const profiles = chosenProfiles(await profilesFrom(values));
  const { files, problems, close } = await collectModels(inputs);
  const found = problems.map(({ path, reason }) => ({ path, message: reason }));
  const scope = jobScope(values);
  watchSignals(scope);
  const line = progressLine(Boolean(values.quiet));
  try {
    const report = await makeStandIns(
      {
        files,
        out: values.out,
        spec,
        profiles,
        embed: Boolean(values.embed),
        proof: Boolean(values.proof),
        compare: !values['no-compare'],
        strict: Boolean(values.strict),
        reading: await readingFrom(values, files),
        faces: await facesFrom(values),
        onProgress: line.on,
      },
      scope,
    );
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
    await close();
  }
}

async function specFrom(values: Values): Promise<StandInSpec> {
  const triangles = values.triangles === undefined ? null : whole(values, 'triangles', 0, 4, 20_000_000);
  const px = real(values, 'error-px', 0.01, 1000);
  if (triangles !== null && px !== null) throw new UsageError('stand-in takes --triangles or --error-px, not both');
  const samples = whole(values, 'samples', 4, 1, 64);
  if (!RAY_SAMPLES.includes(samples as 1)) throw new UsageError(`--samples takes ${RAY_SAMPLES.join(', ')}`);
  const resolution = real(values, 'resolution', 1e-3, 1e7);
  return {
    as: choice(values, 'as', 'simplified', STAND_IN_KINDS),
    goal: triangles === null ? { px: px ?? 1 } : { triangles },
    distance: real(values, 'distance', 1e-6, 1e9),
    cell: resolution === null ? null : resolution / 1000,
    keepCavities: Boolean(values['keep-cavities']),
    keepGroups: Boolean(values['keep-groups']),
    keepHidden: Boolean(values['keep-hidden']),
    apart: (values.apart as string[] | undefined) ?? [],
    size: sheetSide(values),
    margin: real(values, 'margin', 0, 256) ?? 8,
    samples: samples as StandInSpec['samples'],
    levels: await levelsFrom(values),
    cards: whole(values, 'cards', 0, 0, 2) as StandInSpec['cards'],
  };
}

function sheetSide(values: Values): number {
  const side = whole(values, 'size', 2048, 64, 8192);
  if ((side & (side - 1)) !== 0) throw new UsageError('--size takes a power of two from 64 to 8192');
  return side;
}

async function levelsFrom(values: Values): Promise<number[]> {
  const text = values.lods;
  if (typeof text === 'string' && !/^\d+$/.test(text)) return jsonFile('lods', text, StandInLevels);
  return Array.from({ length: whole(values, 'lods', 3, 0, 8) }, (_, i) => STEP ** (i + 1));
}

const metres = (m: number): string => `${m.toPrecision(3)} m`;
const decibels = (v: number | null | undefined): string =>
  v === undefined ? '–' : v === null ? 'equal' : `${v.toFixed(1)} dB`;

function humanReport({ models, written, peakBytes }: StandInReport): string {
  const rows = models.map((model) => [
    model.path,
    `${count(model.before.triangles)} → ${count(model.after.triangles)}`,
    `${model.before.slots} → ${model.after.slots}`,
    `${model.before.drawCalls} → ${model.after.drawCalls}`,
    `${model.outlinePx.toFixed(2)} px at ${metres(model.distance)}`,
    decibels(model.fidelity?.base),
    decibels(model.fidelity?.lit),
  ]);
  const levels = models.flatMap((model) =>
    model.lods.map((lod) => [
      lod.path,
      count(lod.triangles),
      `${lod.errorPx.toFixed(2)} px`,
      `from ${metres(lod.distance)}`,
      `${(lod.screen * 100).toFixed(0)} % of the screen`,
    ]),
  );
  return [
    table([['', 'triangles', 'slots', 'draw calls', 'outline', 'base', 'lit'], ...rows]),
    '',
    table([['level', 'triangles', 'error', 'distance', 'height'], ...levels]),
    '',
    `${count(written.length)} files; ${size(peakBytes)} at most`,
    '',
  ].join('\n');
}
