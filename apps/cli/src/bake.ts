import { MAP_FORMS, MAP_KINDS, type MapKind } from '@wembrel/core/decisions/map-kinds';
import {
  CAST_MODES,
  ID_KINDS,
  type PairingDecision,
  RAY_SAMPLES,
  RayDecisions,
  RaySettings,
} from '@wembrel/core/decisions/ray-decisions';
import { InputError } from '@wembrel/core/errors';
import type { Region } from '@wembrel/core/rays/cast/prepare';
import { type RayReport, runRays } from '@wembrel/runner/rays/ray-run';
import { collectModels, type InputFile } from '@wembrel/runner/read/collect';
import { choice, helpText, type OptionSpec, parse, real, UsageError, type Values, whole } from './arguments.ts';
import { count, failedWhole, progressLine, size, table } from './output.ts';
import { facesFrom, jsonFile, READING, readingFrom } from './reading.ts';
import { jobScope, watchSignals } from './run.ts';

export const bakeOptions: Record<string, OptionSpec> = {
  high: { type: 'string', multiple: true, value: 'FILE…', help: 'high-polys (needed)' },
  low: { type: 'string', multiple: true, value: 'FILE…', help: 'low-polys, with UVs in 0 … 1 (needed)' },
  out: { type: 'string', value: 'DIR', help: 'folder for the maps (needed)' },
  maps: { type: 'string', value: 'KIND,…', help: `what to bake (default normal,ao): ${MAP_KINDS.join(', ')}` },
  size: { type: 'string', value: 'PX', help: 'side of the maps (default 1024)' },
  samples: { type: 'string', value: 'N', help: `samples per texel: ${RAY_SAMPLES.join(', ')} (default 4)` },
  outward: { type: 'string', value: 'M', help: 'outward reach, metres (default: measured)' },
  inward: { type: 'string', value: 'M', help: 'inward reach, metres (default: measured)' },
  cast: { type: 'string', value: CAST_MODES.join('|'), help: 'normals that rays follow (default smoothed)' },
  blend: { type: 'string', value: '0…1', help: 'of blended: 0 smoothed, 1 own (default 0.5)' },
  hit: { type: 'string', value: 'outside|nearest', help: 'which hit counts (default outside: the first from outside)' },
  'back-faces': { type: 'boolean', help: 'back faces of the high-poly count too' },
  pair: {
    type: 'string',
    value: 'names|place|all',
    help: 'how they find each other: by name endings, by standing beside each other, or all as one (default names)',
  },
  endings: { type: 'string', value: 'HIGH,LOW', help: 'endings of names, for instance _high,_low' },
  move: {
    type: 'string',
    value: 'X,Y,Z',
    help: 'with --pair place: from low-poly to high-poly, metres (default: found)',
  },
  pairings: {
    type: 'string',
    value: 'FILE',
    help: 'pairings as a project has them, as JSON: with reaches, local reaches and shares of their own',
  },
  region: {
    type: 'string',
    value: 'X0,Y0,X1,Y1',
    help: 'bake only this part of the maps, shares of their side from the upper left; the rest stays empty',
  },
  all: {
    type: 'boolean',
    help: 'in one go: pair, find reaches, bake a proof, and where few of its texels are wrong the maps and finished models',
  },
  'find-reaches': { type: 'boolean', help: 'try reaches and take those with the fewest faults' },
  cage: {
    type: 'string',
    multiple: true,
    value: 'FILE',
    help: 'a copy of the low-poly, moved out, from which rays start',
  },
  surface: {
    type: 'string',
    multiple: true,
    value: 'FILE',
    help: 'a denser copy of the low-poly with its UVs, to cast from',
  },
  'normal-y': { type: 'string', value: 'up|down', help: 'direction of Y in the normal map (default up)' },
  bits: { type: 'string', value: '8|16|32', help: 'bits of a channel (default 8; 32: float EXR, as height always is)' },
  padding: { type: 'string', value: 'PX', help: 'how far colours are carried outward (default 16)' },
  margin: { type: 'string', value: 'PX', help: 'gap between islands below which it is a fault (default 4)' },
  'uv-set': { type: 'string', value: 'N', help: 'UV set to bake onto (default 0)' },
  'ao-rays': { type: 'string', value: 'N', help: 'AO rays a texel (default 64)' },
  'ao-distance': { type: 'string', value: 'M', help: 'how far AO looks, metres (default: without limit)' },
  'ao-sees': { type: 'string', value: 'own|all', help: "the pairing's own high-poly, or all (default own)" },
  radius: {
    type: 'string',
    value: 'M',
    help: 'curvature of 1/radius is white (default: a hundredth of the largest side)',
  },
  thick: { type: 'string', value: 'M', help: 'what counts as thick (default: half of the largest side)' },
  'id-by': { type: 'string', value: ID_KINDS.join('|'), help: 'what ID colours tell apart (default material)' },
  soften: { type: 'string', value: 'PX', help: 'width over which two ID colours are mixed (default 0)' },
  model: { type: 'boolean', help: 'write the low-polys as GLB with their maps as well' },
  name: { type: 'string', value: 'NAME', help: "name of the maps (default: the low-poly's file)" },
  ...READING,
};

/** `--high a b c` is `--high a --high b --high c`. */
function spreadLists(args: readonly string[]): string[] {
  const out: string[] = [];
  let list: string | null = null;
  for (const arg of args) {
    if (arg.startsWith('--')) {
      list = ['--high', '--low', '--cage', '--surface'].includes(arg) ? arg : null;
      if (!list) out.push(arg);
    } else if (list) out.push(list, arg);
    else out.push(arg);
  }
  return out;
}

function settingsFrom(values: Values): RaySettings {
  const kinds = typeof values.maps === 'string' ? values.maps.split(',').map((k) => k.trim()) : ['normal', 'ao'];
  for (const k of kinds)
    if (!Object.hasOwn(MAP_FORMS, k)) throw new UsageError(`--maps knows no "${k}"; there are ${MAP_KINDS.join(', ')}`);
  const samples = whole(values, 'samples', 4, 1, 64);
  if (!RAY_SAMPLES.includes(samples as 1)) throw new UsageError(`--samples takes ${RAY_SAMPLES.join(', ')}`);
  return RaySettings.parse({
    maps: MAP_KINDS.filter((k) => kinds.includes(k as MapKind)),
    size: whole(values, 'size', 1024, 16, 8192),
    samples,
    cast: choice(values, 'cast', 'smoothed', CAST_MODES),
    blend: real(values, 'blend', 0, 1) ?? 0.5,
    hit: choice(values, 'hit', 'outside', ['outside', 'nearest']),
    backFaces: Boolean(values['back-faces']),
    normalY: choice(values, 'normal-y', 'up', ['up', 'down']),
    bits: Number(choice(values, 'bits', '8', ['8', '16', '32'])),
    padding: whole(values, 'padding', 16, 0, 512),
    margin: whole(values, 'margin', 4, 0, 256),
    uvSet: whole(values, 'uv-set', 0, 0, 7),
    ao: {
      rays: whole(values, 'ao-rays', 64, 4, 4096),
      distance: real(values, 'ao-distance', 1e-9, 1e9),
      sees: choice(values, 'ao-sees', 'own', ['own', 'all']),
    },
    curvature: { radius: real(values, 'radius', 1e-9, 1e9) },
    thickness: { distance: real(values, 'thick', 1e-9, 1e9) },
    id: {
      by: choice(values, 'id-by', 'material', ID_KINDS),
      soften: real(values, 'soften', 0, 16) ?? 0,
    },
  });
}

function endingsFrom(values: Values): RayDecisions['endings'] {
  const { endings } = RayDecisions.parse({});
  if (typeof values.endings !== 'string') return endings;
  const [high, low, more] = values.endings.split(',');
  if (!high || !low || more !== undefined) throw new UsageError('--endings takes HIGH,LOW');
  return { high: [high], low: [low] };
}

function moveFrom(values: Values): [number, number, number] | null {
  return numbersOf(values, 'move', 'X,Y,Z') as [number, number, number] | null;
}

/** Numbers between commas. */
function numbersOf(values: Values, name: string, form: string): number[] | null {
  const text = values[name];
  if (typeof text !== 'string') return null;
  const v = text.split(',').map(Number);
  if (v.length !== form.split(',').length || !v.every(Number.isFinite)) throw new UsageError(`--${name} takes ${form}`);
  return v;
}

function regionFrom(values: Values): Region | null {
  const v = numbersOf(values, 'region', 'X0,Y0,X1,Y1');
  if (!v) return null;
  if (v.some((x) => x < 0 || x > 1) || v[0] >= v[2] || v[1] >= v[3])
    throw new UsageError('--region takes shares from 0 to 1, the upper left corner first');
  return v as unknown as Region;
}

async function pairingsFrom(values: Values): Promise<PairingDecision[] | null> {
  const file = values.pairings;
  if (typeof file !== 'string') return null;
  const { pairings } = await jsonFile('pairings', file, RayDecisions.pick({ pairings: true }));
  if (pairings.length === 0) throw new UsageError(`--pairings ${file}: there is no pairing`);
  return pairings;
}

/** Files by option and the folder for the results. @throws UsageError where they, or the name of the maps, will not do */
function checked(values: Values, inputs: readonly string[]): { list: (name: string) => string[]; out: string } {
  if (inputs.length > 0) throw new UsageError(`bake takes files by --high and --low, not "${inputs[0]}"`);
  const list = (name: string) => (values[name] as string[] | undefined) ?? [];
  if (list('high').length === 0 || list('low').length === 0)
    throw new UsageError('bake needs --high FILE… and --low FILE…');
  if (typeof values.out !== 'string' || values.out === '') throw new UsageError('bake needs --out DIR');
  if (typeof values.name === 'string' && !/^[A-Za-z0-9][A-Za-z0-9_. -]{0,60}$/.test(values.name))
    throw new UsageError('--name takes letters, digits, space, _ . -');
  return { list, out: values.out };
}

/** `wembrel bake`: shape and materials of high-polys into maps for low-polys. */
export async function bake(args: string[]): Promise<number> {
  const { values, inputs } = parse(spreadLists(args), bakeOptions);
  if (values.help) {
    process.stdout.write(
      helpText(
        'wembrel bake --high FILE… --low FILE… --out DIR',
        'Casts rays from low-polys to high-polys and writes what they meet as maps on the UVs of the low-polys. High-polys and low-polys\nare paired by their names (post_high, post_low); each low-poly sees only its own partner. Reaches are measured unless they are given.',
        bakeOptions,
        [
          'wembrel bake --high post_high.glb --low post_low.glb --out maps --maps normal,ao,curvature',
          'wembrel bake --high parts_high/ --low parts_low/ --out maps --all',
          'wembrel bake --high lamps.glb --low lamps.glb --pair place --out maps --size 2048 --samples 16',
        ],
      ),
    );
    return 0;
  }
  const { list, out } = checked(values, inputs);
  const settings = settingsFrom(values);
  const rule = {
    by: choice(values, 'pair', 'names', ['names', 'place', 'all']),
    endings: endingsFrom(values),
    move: moveFrom(values),
  };
  const region = regionFrom(values);
  const pairings = await pairingsFrom(values);
  const [high, low, cage, surface] = await Promise.all(
    ['high', 'low', 'cage', 'surface'].map((k) => collectModels(list(k))),
  );
  const sets = [high, low, cage, surface];
  const problems = sets.flatMap((set) =>
    set.problems.map((problem) => ({ path: problem.path, message: problem.reason })),
  );
  const scope = jobScope(values);
  watchSignals(scope);
  const line = progressLine(Boolean(values.quiet));
  try {
    const everything: InputFile[] = sets.flatMap((set) => set.files);
    if (problems.length > 0 && values.strict) throw new InputError(problems[0].path, problems[0].message);
    const report = await runRays(
      {
        high: high.files,
        low: low.files,
        cage: cage.files,
        surface: surface.files,
        out,
        rule,
        pairings,
        region,
        settings,
        outward: real(values, 'outward', 0, 1e6),
        inward: real(values, 'inward', 0, 1e6),
        findReaches: Boolean(values['find-reaches'] || values.all),
        proofFirst: Boolean(values.all),
        model: Boolean(values.model || values.all),
        name: typeof values.name === 'string' ? values.name : undefined,
        reading: await readingFrom(values, everything),
        faces: await facesFrom(values),
        onProgress: line.on,
      },
      scope,
    );
    line.end();
    report.errors.unshift(...problems);
    for (const error of report.errors) process.stderr.write(`${error.path}: ${error.message}\n`);
    if (!values.quiet)
      for (const a of [...report.alone.high, ...report.alone.low]) process.stderr.write(`${a}: found no partner\n`);
    if (!values.quiet)
      for (const { high, low } of report.ambiguous)
        process.stderr.write(`${high}: fits ${low.join(' and ')} nearly as well; it was given to the first\n`);
    process.stdout.write(values.json ? `${JSON.stringify(report, null, 2)}\n` : humanReport(report));
    if (report.stopped)
      process.stderr.write('too many texels of the proof are wrong, so that nothing was baked after it\n');
    return report.errors.length > 0 || report.stopped ? 1 : 0;
  } catch (error) {
    line.end();
    if (!(error instanceof InputError)) throw error;
    return failedWhole(error, Boolean(values.json), problems);
  } finally {
    await scope.close();
    await Promise.all(sets.map((set) => set.close()));
  }
}

const mm = (m: number) => `${(m * 1000).toPrecision(3)} mm`;

function humanReport(report: RayReport): string {
  const rows = report.pairings.map((pairing) => [
    pairing.name,
    count(pairing.texels),
    count(pairing.missed),
    count(pairing.stray),
    count(pairing.skewed),
    mm(pairing.outward),
    mm(pairing.inward),
    count(pairing.highTriangles),
    count(pairing.lowTriangles),
  ]);
  return [
    table([['pairing', 'texels', 'missed', 'stray', 'skewed', 'outward', 'inward', 'high-poly', 'low-poly'], ...rows]),
    '',
    ...report.faults.map(
      (fault) =>
        `${fault.kind}: "${fault.pairing}": ${count(fault.count)} ${fault.of}, most at ${fault.sheet.map((v) => v.toFixed(0)).join(', ')} px`,
    ),
    ...report.maps.map((map) => `${map.path}  ${map.bits} bit`),
    `${count(report.rays)} rays, ${count(report.raysPerSecond)} a second; ${size(report.peakBytes)} at most`,
    '',
  ].join('\n');
}
