import { mkdir, rename, rm, stat, writeFile } from 'node:fs/promises';
import { join } from 'node:path';
import { serialize } from 'node:v8';
import {
  type PairingDecision,
  proofSettings,
  RAY_PROOF_DIVISOR,
  type RaySettings,
} from '@wembrel/core/decisions/ray-decisions';
import { InputError } from '@wembrel/core/errors';
import type { RayMaps } from '@wembrel/core/rays/maps/baked-maps';
import { bySheet } from '@wembrel/core/rays/pairing/pairings';
import { encodePng } from '@wembrel/runner/pictures/codec';
import type { JobScope } from '@wembrel/runner/pool/job-scope';
import { bakeRays, findReaches, type RayBake } from '@wembrel/runner/rays/bake-rays';
import { encodeMap, opacityLevels } from '@wembrel/runner/rays/encode-maps';
import { distanceHistogram } from '@wembrel/runner/rays/histogram';
import { lowModelOf } from '@wembrel/runner/rays/low-model';
import { checkSettings, stoppingFaults } from '@wembrel/runner/rays/proof-check';
import { fillReaches, groupIdsOf } from '@wembrel/runner/rays/ray-run';
import { faultPng, hexColour, previewBytes, viewPng } from '@wembrel/runner/rays/view-maps';
import { readFiles } from '@wembrel/runner/stages/read';
import type { RayResultView, RaySheetView, ReachesView } from '../../../contract/project.ts';
import type { Emit, JobOrder } from '../job-message.ts';
import { sheetStamp, takeOver } from './ray-reuse.ts';
import type { SectionScene, SectionTexels } from './ray-section.ts';

/** Side of the pictures of a running bake, px. */
const PREVIEW = 512;

/** Reads what the pairings of a project name; only those that have both sides count. */
async function readPairings(order: JobOrder, scope: JobScope, emit: Emit) {
  const { rays, reading, faces } = order.decisions;
  const pairings = rays.pairings.filter(
    (pairing) =>
      pairing.high.length > 0 && pairing.low.length > 0 && (order.sheet === null || pairing.name === order.sheet),
  );
  if (pairings.length === 0) throw new InputError('Bake', 'no pairing has both a high-poly and a low-poly yet');
  const named = new Set(
    pairings.flatMap((pairing) =>
      [...pairing.high, ...pairing.low, pairing.cage, pairing.surface].flatMap((object) =>
        object ? [object.path] : [],
      ),
    ),
  );
  const read = await readFiles(
    order.files.filter((file) => named.has(file.name)),
    scope,
    {
      textures: order.textures,
      reading,
      faces,
      onProgress: (progress) => emit({ type: 'progress', share: progress.share * 1.5, doing: progress.doing }),
    },
  );
  const [broken] = read.report.errors;
  if (broken) throw new InputError(broken.path, broken.message);
  return { pairings, read, models: read.models.map((model) => model.model) };
}

/** Tries reaches for all pairings of a project. */
export async function findProjectReaches(order: JobOrder, scope: JobScope, emit: Emit): Promise<void> {
  const { pairings, models } = await readPairings(order, scope, emit);
  const view: ReachesView = {
    pairings: await findReaches(models, pairings, order.decisions.rays.settings, scope, (share, doing) =>
      emit({ type: 'progress', share: 0.15 + 0.85 * share, doing }),
    ),
  };
  await writeFile(join(order.folder, 'reaches.json'), JSON.stringify(view));
}

/** Bytes of sources above which nothing is baked to no purpose, and how large it is, px. */
const WARM_BYTES = 64e6;
const WARM_SIDE = 256;

/**
 * Bakes a little of the first pairing and throws it away: what a proof runs through is compiled then, on all threads, and the first proof is
 * as quick as the next. @returns false where there was nothing to warm up with
 */
export async function warmUpRays(order: JobOrder, scope: JobScope): Promise<boolean> {
  const first = order.decisions.rays.pairings.find((pairing) => pairing.high.length > 0 && pairing.low.length > 0);
  if (!first) return false;
  const named = new Set([...first.high, ...first.low].map((object) => object.path));
  const files = order.files.filter((file) => named.has(file.name));
  const sizes = await Promise.all(files.map(async (file) => (await stat(file.path)).size));
  if (sizes.reduce((sum, size) => sum + size, 0) > WARM_BYTES) return false;
  const { pairings, read, models } = await readPairings({ ...order, sheet: first.name }, scope, () => {});
  const settings = { ...proofSettings(order.decisions.rays.settings), size: WARM_SIDE };
  await bakeRays({ models, pairings: pairings.slice(0, 1), settings, images: read.images }, scope, { keep: false });
  return true;
}

/** Bakes the pairings of a project; only the files that they name are read. */
export async function bakeProjectRays(order: JobOrder, scope: JobScope, emit: Emit): Promise<void> {
  const { rays } = order.decisions;
  // A part is baked just as the final will be: it has as few texels as a small proof of all.
  const proof = order.kind === 'ray-proof' && order.region === null;
  const began = performance.now();
  const found = await readPairings(order, scope, emit);
  const view: RayResultView = {
    sheets: [],
    rays: 0,
    raysPerSecond: 0,
    seconds: { read: (performance.now() - began) / 1000 },
    stopped: [],
  };
  const settings = proof ? proofSettings(rays.settings) : rays.settings;
  const bake = { order, found, settings, pxScale: proof ? 1 / RAY_PROOF_DIVISOR : 1, from: 0.15, to: 0.95 };
  await bakeSheets(bake, view, { scope, emit });
  await writeFile(join(order.folder, 'rays.json'), JSON.stringify(view));
}

/**
 * All in one: reaches are tried for pairings that have none, a proof is baked, and where that is good the final. A proof with too many faults is
 * the result itself; the job is of that kind then.
 */
export async function bakeAllRays(order: JobOrder, scope: JobScope, emit: Emit): Promise<void> {
  const { settings } = order.decisions.rays;
  const found = await readPairings(order, scope, emit);
  const view: RayResultView = { sheets: [], rays: 0, raysPerSecond: 0, seconds: {}, stopped: [] };
  await fillReaches(
    found.pairings,
    found.models,
    { settings, onProgress: ({ share, doing }) => emit({ type: 'progress', share, doing: `reaches: ${doing}` }) },
    scope,
  );
  const check = { order, found, settings: checkSettings(settings), pxScale: 1, from: 0.3, to: 0.45 };
  await bakeSheets(check, view, { scope, emit, doing: 'proof: ' });
  view.stopped = view.sheets.flatMap(stoppingFaults);
  if (view.stopped.length === 0) {
    // What the proof wrote goes: the final has files of the same names, and maybe of others.
    await Promise.all(
      ['delivery', 'views'].map((name) => rm(join(order.folder, name), { recursive: true, force: true })),
    );
    view.sheets = [];
    const final = {
      order: { ...order, kind: 'ray-final' as const },
      found,
      settings,
      pxScale: 1,
      from: 0.45,
      to: 0.95,
    };
    await bakeSheets(final, view, { scope, emit });
  }
  await writeFile(join(order.folder, 'rays.json'), JSON.stringify(view));
  emit({ type: 'became', kind: view.stopped.length > 0 ? 'ray-proof' : 'ray-final' });
}

interface SheetsToBake {
  order: JobOrder;
  found: Awaited<ReturnType<typeof readPairings>>;
  settings: RaySettings;
  /** See `RayBakeOptions`. */
  pxScale: number;
  /** Share of the job's progress with which it begins and ends. */
  from: number;
  to: number;
}

interface BakeTelling {
  scope: JobScope;
  emit: Emit;
  /** What stands before what is being done. */
  doing?: string;
}

/** Bakes and writes all sheets of some pairings, or takes them over from an earlier bake, and adds them to a result. */
async function bakeSheets(bake: SheetsToBake, view: RayResultView, { scope, emit, doing = '' }: BakeTelling) {
  const { order, found, settings, pxScale } = bake;
  const { pairings, read, models } = found;
  const preview = previews(order, emit);
  const began = performance.now();
  const sheets = bySheet(pairings);
  const tell = (done: number, what: string) =>
    emit({
      type: 'progress',
      share: bake.from + ((bake.to - bake.from) * done) / sheets.length,
      doing: `${doing}${what}`,
    });
  let castSeconds = 0;
  try {
    for (const [i, sheet] of sheets.entries()) {
      const stamp = sheetStamp(order, settings, sheet.pairings, settings.ao.sees === 'all' ? pairings : []);
      const known = await takeOver(order, stamp, sheet.name, i);
      if (known) {
        view.sheets.push(known);
        continue;
      }
      const baked = await bakeRays({ models, pairings: sheet.pairings, settings, images: read.images }, scope, {
        pxScale,
        keep: true,
        seen: pairings,
        region: order.region,
        groups: groupIdsOf(read, order.decisions.faces, settings),
        onMaps: preview.show,
        onProgress: (share, what) => tell(i + share * 0.9, what),
      });
      preview.show(null);
      tell(i + 0.95, `writing ${sheet.name}`);
      view.sheets.push({ stamp, ...(await writeSheet(order.folder, i, sheet, settings.uvSet, baked, scope)) });
      view.rays += baked.rays;
      castSeconds += baked.castSeconds;
    }
  } finally {
    preview.end();
  }
  view.seconds.bake = (performance.now() - began) / 1000;
  view.raysPerSecond = Math.round(view.rays / Math.max(1e-9, castSeconds));
  await rm(join(order.folder, 'preview.png'), { force: true });
}

/** Pictures of a running bake, twice a second. */
function previews(order: JobOrder, emit: Emit): { show: (maps: RayMaps | null) => void; end: () => void } {
  let maps: RayMaps | null = null;
  let count = 0;
  let busy = false;
  const draw = async () => {
    if (!maps || busy) return;
    busy = true;
    try {
      const { data, width, height } = previewBytes(maps, PREVIEW);
      const file = join(order.folder, 'preview.png');
      await writeFile(`${file}.partial`, await encodePng(data, width, height, 4));
      await rename(`${file}.partial`, file);
      emit({ type: 'preview', sheet: 'rays', count: ++count });
    } finally {
      busy = false;
    }
  };
  const timer = setInterval(() => void draw(), 500);
  return {
    show: (next) => {
      maps = next;
    },
    end: () => {
      clearInterval(timer);
      maps = null;
    },
  };
}

/** Writes the maps of a sheet, pictures of them, its low-polys and what sections need. */
async function writeSheet(
  folder: string,
  index: number,
  { name, pairings }: { name: string; pairings: readonly PairingDecision[] },
  uvSet: number,
  bake: RayBake,
  scope: JobScope,
): Promise<Omit<RaySheetView, 'stamp'>> {
  const delivery = join(folder, 'delivery');
  const views = join(folder, 'views');
  await mkdir(delivery, { recursive: true });
  await mkdir(views, { recursive: true });
  const written: RaySheetView['maps'] = [];
  const levels: string[] = [];
  for (const map of bake.maps.maps) {
    scope.checkpoint();
    const { bytes, ending, bits } = await encodeMap(bake.maps, map);
    const file = `${name}_${map.kind}.${ending}`;
    await writeFile(join(delivery, file), bytes);
    const view = `${index}-${map.kind}.png`;
    await writeFile(join(views, view), await viewPng(bake.maps, map));
    written.push({ kind: map.kind, file, bits, bytes: bytes.length, view });
    if (map.kind === 'opacity')
      for (const l of await opacityLevels(bake.maps, map)) {
        levels.push(`${name}_opacity_mip${l.level}.png`);
        await writeFile(join(delivery, `${name}_opacity_mip${l.level}.png`), l.bytes);
      }
  }
  await writeFile(join(views, `${index}-faults.png`), await faultPng(bake.maps));
  await writeFile(join(delivery, `${name}.glb`), await lowModelOf(name, bake, pairings, uvSet));
  await writeSections(folder, index, bake);
  return {
    name,
    size: bake.maps.width,
    maps: written,
    levels,
    model: `${name}.glb`,
    faultPicture: `${index}-faults.png`,
    spot: spotOf(bake.maps),
    pairings: bake.pairings.map((pairing, i) => ({ ...pairing, histogram: distanceHistogram(bake.maps, i, pairing) })),
    faults: bake.faults,
    legend: bake.legend.map((l) => ({ name: l.name, colour: hexColour(l.colour) })),
    scale: { ...bake.scale, box: [...bake.scale.box] },
  };
}

/** Where a detail stands out most from what lies around it on its island, without a fault: what a section shows best. */
function spotOf({ width, height, distance, hit, faults, island }: RayMaps): [number, number] | null {
  const away = Math.max(3, Math.round(width / 100));
  const around = [-away, away, -away * width, away * width];
  let best = -1;
  let most = Number.NEGATIVE_INFINITY;
  for (let i = 0; i < distance.length; i++) {
    if (!hit[i] || faults[i] || !around.every((d) => island[i + d] === island[i] && hit[i + d])) continue;
    const stands = distance[i] - Math.max(...around.map((d) => distance[i + d]));
    if (stands <= most) continue;
    most = stands;
    best = i;
  }
  return best < 0 ? null : [((best % width) + 0.5) / width, (Math.floor(best / width) + 0.5) / height];
}

/** What cutting through a picked texel needs, so that it can be asked for at any time. */
async function writeSections(folder: string, index: number, bake: RayBake): Promise<void> {
  const { maps } = bake;
  const texels: SectionTexels = {
    width: maps.width,
    height: maps.height,
    pairing: maps.pairing.slice(),
    triangle: maps.triangle.slice(),
    distance: maps.distance.slice(),
    faults: maps.faults.slice(),
  };
  await writeFile(join(folder, `texels-${index}.bin`), serialize(texels));
  for (const [i, { job }] of bake.jobs.entries()) {
    const lowTarget = job.target;
    const scene: SectionScene = {
      name: bake.pairings[i].name,
      outward: bake.pairings[i].outward,
      inward: bake.pairings[i].inward,
      high: { positions: job.high.positions.slice(), indices: job.high.indices.slice() },
      low: { positions: lowTarget.mesh.positions.slice(), indices: lowTarget.mesh.indices.slice() },
      place: lowTarget.place.slice(),
      directions: lowTarget.directions.slice(),
      reach: lowTarget.outward.slice(),
      density: job.density.slice(),
      localReaches: [...job.localReaches],
    };
    await writeFile(join(folder, `scene-${index}-${i}.bin`), serialize(scene));
  }
}
