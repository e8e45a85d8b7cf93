import { InputError } from '@wembrel/core/errors';
import { type Body, bodiesOf } from '@wembrel/core/rays/bodies';
import { bodyBox } from '@wembrel/core/rays/body-facts';
import {
  type FoundPairings,
  fileStem,
  pairByNames,
  pairByPlace,
  pairing,
  splitByWeight,
} from '@wembrel/core/rays/pairings';
import { RayDecisions, type RayRecipe } from '@wembrel/core/rays/ray-decisions';
import type { Model } from '@wembrel/core/scene/model';
import type { Pool } from '../pool/pool.ts';
import { type OnProgress, stopwatch } from '../progress.ts';
import type { InputFile } from '../read/collect.ts';
import { type ReadFiles, type SurveyOptions, surveyFiles } from '../survey.ts';
import { Delivery } from '../write/delivery.ts';
import { bakeRays, type RayBake } from './bake-rays.ts';
import { encodeMap } from './encode-maps.ts';

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
  recipe: RayRecipe;
  /** Reaches of all pairings; null: measured. */
  outward: number | null;
  inward: number | null;
  /** Files with a cage and with a casting surface: their bodies have the names of the low-poly's. */
  cage?: InputFile[];
  surface?: InputFile[];
  name?: string;
  reading?: SurveyOptions['reading'];
  onProgress?: OnProgress;
}

/** The document of `wembrel bake --json`. */
export interface RayReport {
  pairings: {
    name: string;
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
  }[];
  maps: { kind: string; path: string; bits: number; channels: number; metres?: [number, number] }[];
  /** What the values of some maps mean. */
  scale: { box: number[]; curvatureRadius: number; thicknessDistance: number };
  legend: { name: string; colour: string }[];
  alone: { high: string[]; low: string[] };
  rays: number;
  raysPerSecond: number;
  seconds: Record<string, number>;
  peakBytes: number;
  faults: RayBake['faults'];
  written: string[];
  errors: { path: string; message: string }[];
}

const shown = (r: { path: string; name: string }) => `${r.path}: ${r.name}`;

/** Pairs the bodies of files that were given as high-polys and as low-polys. */
export function pairFiles(
  models: readonly Model[],
  high: ReadonlySet<string>,
  low: ReadonlySet<string>,
  rule: PairingRule,
): FoundPairings {
  const bodies = bodiesOf(models);
  const highs = bodies.filter((b) => high.has(b.path));
  const lows = bodies.filter((b) => low.has(b.path));
  if (rule.by === 'place') {
    // Files that were given as both hold both: the heavy bodies are the high-polys.
    const weight = (b: Body) => b.parts.reduce((n, id) => n + models[b.model].parts[id].indices.length, 0);
    const shared = highs.filter((b) => low.has(b.path));
    const split = splitByWeight(shared, weight);
    const heavy = highs.filter((b) => !split.low.includes(b));
    const light = lows.filter((b) => !split.high.includes(b));
    const box = (b: Body) => [b, bodyBox(models[b.model], b)] as const;
    return pairByPlace(heavy, light, new Map([...heavy, ...light].map(box)), rule.move ?? null);
  }
  const all = (): FoundPairings => ({
    pairings: highs.length > 0 && lows.length > 0 ? [pairing(fileStem(lows[0].path), highs, lows)] : [],
    aloneHigh: [],
    aloneLow: [],
  });
  if (rule.by === 'all') return all();
  const endings = rule.endings ?? RayDecisions.parse({}).endings;
  const found = pairByNames(bodies, endings, (b) =>
    high.has(b.path) === low.has(b.path) ? null : high.has(b.path) ? 'high' : 'low',
  );
  // One of each needs no names to be partners.
  return found.pairings.length === 0 && lows.length === 1 ? all() : found;
}

/**
 * Bakes files: reads, pairs, casts, and writes the maps.
 * @throws InputError when nothing can be baked @throws Cancelled
 */
export async function runRays(options: RayRunOptions, pool: Pool): Promise<RayReport> {
  const { recipe, onProgress } = options;
  const { seconds, lap } = stopwatch(pool);
  const extra = [...(options.cage ?? []), ...(options.surface ?? [])];
  const files = [...new Map([...options.high, ...options.low, ...extra].map((f) => [f.path, f])).values()];
  const read: ReadFiles = await surveyFiles(files, pool, {
    reading: options.reading,
    onProgress: (p) => onProgress?.({ ...p, share: p.share * 2 }),
  });
  lap('read');
  const { errors } = read.report;
  const models = read.models.map((m) => m.model);
  if (models.length === 0)
    throw new InputError(errors[0]?.path ?? 'bake', errors[0]?.message ?? 'there is no model that can be read');
  const names = (list: readonly InputFile[]) => new Set(list.map((f) => f.name));
  const found = pairFiles(models, names(options.high), names(options.low), options.rule);
  if (found.pairings.length === 0)
    throw new InputError(
      options.low[0]?.name ?? 'bake',
      'no high-poly and low-poly could be paired; see --pair, --endings and --move',
    );
  for (const p of found.pairings) {
    p.outward = options.outward;
    p.inward = options.inward;
    if (options.cage?.length) p.cage = twinOf(models, options.cage, p.low[0].name, 'cage');
    if (options.surface?.length) p.surface = twinOf(models, options.surface, p.low[0].name, 'casting surface');
  }
  const delivery = await Delivery.begin(options.out);
  try {
    const bake = await bakeRays(models, found.pairings, recipe, read.images, pool, {
      onProgress: (share, doing) => onProgress?.({ stage: 'bake', share: 0.2 + 0.7 * share, doing }),
    });
    lap('bake');
    const stem = options.name ?? fileStem(options.low[0].name);
    const maps: RayReport['maps'] = [];
    for (const map of bake.maps.maps) {
      pool.checkpoint();
      const { bytes, ending, bits } = await encodeMap(bake.maps, map);
      const path = `${stem}_${map.kind}.${ending}`;
      await delivery.write(path, bytes);
      maps.push({ kind: map.kind, path, bits, channels: map.channels });
    }
    lap('write');
    await delivery.commit(files.map((f) => f.path));
    return {
      pairings: bake.pairings.map((p, i) => ({
        name: p.name,
        high: found.pairings[i].high.map(shown),
        low: found.pairings[i].low.map(shown),
        texels: p.texels,
        missed: p.missed,
        stray: p.stray,
        skewed: p.skewed,
        clash: p.clash,
        thin: p.thin,
        outward: p.outward,
        inward: p.inward,
        highTriangles: p.highTriangles,
        lowTriangles: p.lowTriangles,
      })),
      maps,
      scale: { ...bake.scale, box: [...bake.scale.box] },
      legend: bake.legend.map((l) => ({ name: l.name, colour: hex(l.colour) })),
      alone: { high: found.aloneHigh.map(shown), low: found.aloneLow.map(shown) },
      rays: bake.rays,
      raysPerSecond: Math.round(bake.rays / Math.max(1e-9, bake.castSeconds)),
      seconds,
      peakBytes: process.resourceUsage().maxRSS * 1024,
      faults: bake.faults,
      written: delivery.list(),
      errors,
    };
  } catch (error) {
    await delivery.discard();
    throw error;
  }
}

const hex = (c: number) =>
  `#${[c & 255, (c >> 8) & 255, c >> 16].map((v) => v.toString(16).padStart(2, '0')).join('')}`;

/** The body of some files that has a name, or the only one there. */
function twinOf(
  models: readonly Model[],
  files: readonly InputFile[],
  name: string,
  what: string,
): { path: string; name: string } {
  const paths = new Set(files.map((f) => f.name));
  const bodies = bodiesOf(models).filter((b) => paths.has(b.path));
  const found = bodies.find((b) => b.name === name) ?? (bodies.length === 1 ? bodies[0] : undefined);
  if (!found) throw new InputError(files[0].name, `holds no ${what} named "${name}"`);
  return { path: found.path, name: found.name };
}
