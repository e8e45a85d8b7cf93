import { type PairingDecision, RayDecisions, type RaySettings } from '@wembrel/core/decisions/ray-decisions';
import { InputError } from '@wembrel/core/errors';
import { type GroupIds, groupIds } from '@wembrel/core/rays/maps/group-ids';
import { objectBox } from '@wembrel/core/rays/pairing/object-facts';
import {
  bySheet,
  type FoundPairings,
  fileStem,
  pairByNames,
  pairByPlace,
  pairing,
  splitByWeight,
} from '@wembrel/core/rays/pairing/pairings';
import { type SceneObject, sceneObjects } from '@wembrel/core/rays/target/scene-objects';
import type { Model } from '@wembrel/core/scene/model';
import type { JobScope } from '../pool/job-scope.ts';
import { type OnProgress, stopwatch } from '../progress.ts';
import type { InputFile } from '../read/collect.ts';
import { type ReadFiles, type ReadOptions, readFiles } from '../stages/read.ts';
import { Delivery } from '../write/delivery.ts';
import { bakeRays, findReaches, type RayBake, type RayBakeOptions } from './bake-rays.ts';
import { encodeMap, opacityLevels } from './encode-maps.ts';
import { lowModelOf } from './low-model.ts';
import { checkSettings, stoppingFaults } from './proof-check.ts';
import { hexColour } from './view-maps.ts';

/** How high-polys and low-polys find each other. */
export interface PairingRule {
  by: 'names' | 'place' | 'all';
  endings?: RayDecisions['endings'];
  /** From low-poly to high-poly, m, for `place`; null: found. */
  move?: [number, number, number] | null;
}

export interface RayRunOptions {
  high: InputFile[];
  low: InputFile[];
  out: string;
  rule: PairingRule;
  /** Pairings as a project has them; `rule` does not count then. */
  pairings?: PairingDecision[] | null;
  /** See `RayBakeOptions`. */
  region?: RayBakeOptions['region'];
  settings: RaySettings;
  /** Reaches of all pairings; null: measured. */
  outward: number | null;
  inward: number | null;
  /** Those that are not given are tried instead of measured, see `sweepReaches`. */
  findReaches?: boolean;
  /** A proof is baked first; where more than a few texels of it are wrong, that is reported and nothing is written. */
  proofFirst?: boolean;
  /** Files with a cage and with a casting surface: their objects have the names of the low-poly's. */
  cage?: InputFile[];
  surface?: InputFile[];
  name?: string;
  /** The low-polys are written as GLB with their maps as well. */
  model?: boolean;
  reading?: ReadOptions['reading'];
  /** What is done to faces first, and the groups by which IDs may go. */
  faces?: ReadOptions['faces'];
  onProgress?: OnProgress;
}

/** The document of `wembrel bake --json`. */
export interface RayReport {
  sheets: {
    name: string;
    size: number;
    /** What the values of some maps mean, m. */
    scale: { box: number[]; curvatureRadius: number };
    /** Bytes that were reserved for it. */
    memory: RayBake['memory'];
    /** Colours of its ID map. */
    legend: { name: string; colour: string }[];
  }[];
  pairings: {
    name: string;
    sheet: string;
    high: string[];
    low: string[];
    texels: number;
    missed: number;
    stray: number;
    skewed: number;
    clash: number;
    thin: number;
    outward: number;
    inward: number;
    highTriangles: number;
    lowTriangles: number;
    /** What counts as thick, and how far the high-poly lies above the low-poly at the least and at the most, m. */
    thicknessDistance: number;
    heights: [number, number] | null;
  }[];
  maps: { sheet: string; kind: string; path: string; bits: number; channels: number }[];
  alone: { high: string[]; low: string[] };
  /** High-polys that fit two low-polys nearly as well, paired by place; each was given to the first. */
  ambiguous: { high: string; low: string[] }[];
  /** It ended with a proof, for its faults. */
  stopped: boolean;
  rays: number;
  raysPerSecond: number;
  seconds: Record<string, number>;
  peakBytes: number;
  faults: RayBake['faults'];
  written: string[];
  errors: { path: string; message: string }[];
}

const shown = (object: { path: string; name: string }) => `${object.path}: ${object.name}`;

/** Pairs the objects of files that were given as high-polys and as low-polys. */
function pairFiles(
  models: readonly Model[],
  high: ReadonlySet<string>,
  low: ReadonlySet<string>,
  rule: PairingRule,
): FoundPairings {
  const objects = sceneObjects(models);
  const highs = objects.filter((object) => high.has(object.path));
  const lows = objects.filter((object) => low.has(object.path));
  if (rule.by === 'place') {
    // Files that were given as both hold both: the heavy objects are the high-polys.
    const weight = (sceneObject: SceneObject) =>
      sceneObject.parts.reduce((sum, id) => sum + models[sceneObject.model].parts[id].indices.length, 0);
    const shared = highs.filter((high) => low.has(high.path));
    const split = splitByWeight(shared, weight);
    const heavy = highs.filter((high) => !split.low.includes(high));
    const light = lows.filter((low) => !split.high.includes(low));
    const box = (sceneObject: SceneObject) => [sceneObject, objectBox(models[sceneObject.model], sceneObject)] as const;
    return pairByPlace(heavy, light, new Map([...heavy, ...light].map(box)), rule.move ?? null);
  }
  const all = (): FoundPairings => ({
    pairings: highs.length > 0 && lows.length > 0 ? [pairing(fileStem(lows[0].path), highs, lows)] : [],
    aloneHigh: [],
    aloneLow: [],
  });
  if (rule.by === 'all') return all();
  const endings = rule.endings ?? RayDecisions.parse({}).endings;
  const found = pairByNames(objects, endings, (sceneObject) =>
    high.has(sceneObject.path) === low.has(sceneObject.path) ? null : high.has(sceneObject.path) ? 'high' : 'low',
  );
  // One of each needs no names to be partners.
  return found.pairings.length === 0 && lows.length === 1 ? all() : found;
}

/**
 * Bakes files: reads, pairs, casts, and writes the maps.
 * @throws InputError when nothing can be baked @throws Cancelled
 */
export async function runRays(options: RayRunOptions, scope: JobScope): Promise<RayReport> {
  const { settings, onProgress } = options;
  const { seconds, lap } = stopwatch(scope);
  const extra = [...(options.cage ?? []), ...(options.surface ?? [])];
  const files = [
    ...new Map([...options.high, ...options.low, ...extra].map((inputFile) => [inputFile.path, inputFile])).values(),
  ];
  const read: ReadFiles = await readFiles(files, scope, {
    reading: options.reading,
    faces: options.faces,
    onProgress: (progress) => onProgress?.({ ...progress, share: progress.share * 2 }),
  });
  lap('read');
  const { errors } = read.report;
  const models = read.models.map((model) => model.model);
  if (models.length === 0)
    throw new InputError(errors[0]?.path ?? 'bake', errors[0]?.message ?? 'there is no model that can be read');
  const found = pairInputs(options, models, errors);
  if (options.findReaches) {
    await fillReaches(found.pairings, models, options, scope);
    lap('reaches');
  }
  const groups = groupIdsOf(read, options.faces, settings);
  const sheets = bySheet(found.pairings);
  if (options.proofFirst) {
    const faults = await proofFaults(models, found.pairings, read, options, scope);
    lap('proof');
    if (faults.length > 0) return { ...emptyReport(found, seconds, errors), faults, stopped: true };
  }
  const delivery = await Delivery.begin(options.out);
  try {
    const report = emptyReport(found, seconds, errors);
    let castSeconds = 0;
    for (const [i, sheet] of sheets.entries()) {
      const bake = await bakeRays({ models, pairings: sheet.pairings, settings, images: read.images }, scope, {
        seen: found.pairings,
        groups,
        region: options.region,
        keep: options.model,
        onProgress: (share, doing) =>
          onProgress?.({ stage: 'bake', share: 0.3 + (0.6 * (i + share)) / sheets.length, doing }),
      });
      const name = !options.name ? sheet.name : sheets.length === 1 ? options.name : `${options.name}_${sheet.name}`;
      await addSheet(report, { name, pairings: sheet.pairings, bake, delivery, scope });
      if (options.model)
        await delivery.write(`${name}.glb`, await lowModelOf(name, bake, sheet.pairings, settings.uvSet));
      report.rays += bake.rays;
      castSeconds += bake.castSeconds;
    }
    lap('bake');
    report.raysPerSecond = Math.round(report.rays / Math.max(1e-9, castSeconds));
    await delivery.commit(files.map((file) => file.path));
    report.written = delivery.list();
    report.peakBytes = process.resourceUsage().maxRSS * 1024;
    lap('write');
    return report;
  } catch (error) {
    await delivery.discard();
    throw error;
  }
}

function emptyReport(found: FoundPairings, seconds: RayReport['seconds'], errors: RayReport['errors']): RayReport {
  return {
    sheets: [],
    pairings: [],
    maps: [],
    alone: { high: found.aloneHigh.map(shown), low: found.aloneLow.map(shown) },
    ambiguous: (found.ambiguous ?? []).map(({ high, low }) => ({ high: shown(high), low: low.map(shown) })),
    stopped: false,
    rays: 0,
    raysPerSecond: 0,
    seconds,
    peakBytes: 0,
    faults: [],
    written: [],
    errors,
  };
}

/** What a proof of all sheets finds that is more than bearable. */
async function proofFaults(
  models: readonly Model[],
  pairings: readonly PairingDecision[],
  { images }: ReadFiles,
  { settings, onProgress }: RayRunOptions,
  scope: JobScope,
): Promise<RayBake['faults']> {
  const proof = checkSettings(settings);
  const faults: RayBake['faults'] = [];
  for (const sheet of bySheet(pairings)) {
    const bake = await bakeRays({ models, pairings: sheet.pairings, settings: proof, images }, scope, {
      seen: pairings,
      groups: null,
      onProgress: (share, doing) => onProgress?.({ stage: 'bake', share: 0.3 * share, doing: `proof: ${doing}` }),
    });
    faults.push(...stoppingFaults(bake));
  }
  return faults;
}

/** Pairings as they were given or are found, with the reaches, cages and surfaces of the options. @throws InputError when there are none */
function pairInputs(options: RayRunOptions, models: readonly Model[], errors: RayReport['errors']): FoundPairings {
  const names = (list: readonly InputFile[]) => new Set(list.map((inputFile) => inputFile.name));
  const found = options.pairings
    ? { pairings: options.pairings, aloneHigh: [], aloneLow: [] }
    : pairFiles(models, names(options.high), names(options.low), options.rule);
  if (found.pairings.length === 0 && errors.length > 0) throw new InputError(errors[0].path, errors[0].message);
  if (found.pairings.length === 0)
    throw new InputError(
      options.low[0]?.name ?? 'bake',
      'no high-poly and low-poly could be paired; see --pair, --endings and --move',
    );
  for (const pairing of found.pairings) {
    pairing.outward = options.outward ?? pairing.outward;
    pairing.inward = options.inward ?? pairing.inward;
    if (options.cage?.length) pairing.cage = counterpartOf(models, options.cage, pairing.low[0].name, 'cage');
    if (options.surface?.length)
      pairing.surface = counterpartOf(models, options.surface, pairing.low[0].name, 'casting surface');
  }
  return found;
}

/** Tries reaches for pairings that have none. */
export async function fillReaches(
  pairings: readonly PairingDecision[],
  models: readonly Model[],
  { settings, onProgress }: Pick<RayRunOptions, 'settings' | 'onProgress'>,
  scope: JobScope,
): Promise<void> {
  const tried = await findReaches(models, pairings, settings, scope, (share, doing) =>
    onProgress?.({ stage: 'bake', share: 0.2 + 0.1 * share, doing }),
  );
  pairings.forEach((pairing, i) => {
    pairing.outward ??= tried[i].sweep.best.outward;
    pairing.inward ??= tried[i].sweep.best.inward;
  });
}

interface BakedSheet {
  name: string;
  pairings: readonly PairingDecision[];
  bake: RayBake;
  delivery: Delivery;
  scope: JobScope;
}

/** Writes the maps of one sheet, and what is to be said of them. */
async function addSheet(report: RayReport, { name, pairings, bake, delivery, scope }: BakedSheet): Promise<void> {
  for (const map of bake.maps.maps) {
    scope.checkpoint();
    const { bytes, ending, bits } = await encodeMap(bake.maps, map);
    const path = `${name}_${map.kind}.${ending}`;
    await delivery.write(path, bytes);
    report.maps.push({ sheet: name, kind: map.kind, path, bits, channels: map.channels });
    if (map.kind === 'opacity')
      for (const l of await opacityLevels(bake.maps, map))
        await delivery.write(`${name}_opacity_mip${l.level}.png`, l.bytes);
  }
  report.sheets.push({
    name,
    size: bake.maps.width,
    scale: { ...bake.scale, box: [...bake.scale.box] },
    memory: bake.memory,
    legend: bake.legend.map((l) => ({ name: l.name, colour: hexColour(l.colour) })),
  });
  bake.pairings.forEach((pairing, i) => {
    report.pairings.push({
      name: pairing.name,
      sheet: name,
      high: pairings[i].high.map(shown),
      low: pairings[i].low.map(shown),
      texels: pairing.texels,
      missed: pairing.missed,
      stray: pairing.stray,
      skewed: pairing.skewed,
      clash: pairing.clash,
      thin: pairing.thin,
      outward: pairing.outward,
      inward: pairing.inward,
      highTriangles: pairing.highTriangles,
      lowTriangles: pairing.lowTriangles,
      thicknessDistance: pairing.thicknessDistance,
      heights: pairing.heights,
    });
  });
  report.faults.push(...bake.faults);
}

/** Face groups of what was read, when IDs go by them. */
export function groupIdsOf(read: ReadFiles, faces: ReadOptions['faces'], settings: RaySettings): GroupIds | null {
  if (!settings.maps.includes('id') || settings.id.by !== 'group') return null;
  const edited = new Set(read.models.flatMap((model) => (model.edited ? [model.model.path] : [])));
  return groupIds(
    read.models.map((model) => model.model),
    faces?.groups ?? [],
    edited,
  );
}

/** The object of some files that has a name, or the only one there. */
function counterpartOf(
  models: readonly Model[],
  files: readonly InputFile[],
  name: string,
  what: string,
): { path: string; name: string } {
  const paths = new Set(files.map((file) => file.name));
  const objects = sceneObjects(models).filter((sceneObject) => paths.has(sceneObject.path));
  const found = objects.find((object) => object.name === name) ?? (objects.length === 1 ? objects[0] : undefined);
  if (!found) throw new InputError(files[0].name, `holds no ${what} named "${name}"`);
  return { path: found.path, name: found.name };
}
