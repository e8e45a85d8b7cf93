import { totalmem } from 'node:os';
import { channelEncoding } from '@wembrel/core/compare/scene';
import type { PairingDecision, RaySettings } from '@wembrel/core/decisions/ray-decisions';
import { InputError } from '@wembrel/core/errors';
import { tangentsReady } from '@wembrel/core/mesh/tangents';
import { type AlphaOccluder, isAlphaOccluder, joinedMesh } from '@wembrel/core/rays/cast/alpha-occluders';
import {
  jobTiles,
  type PairingMeshes,
  pairingMeshes,
  pairingReaches,
  type Region,
  rayJob,
  rayScale,
  thicknessOf,
} from '@wembrel/core/rays/cast/prepare';
import { planRayMemory, type RayMemory } from '@wembrel/core/rays/cast/ray-memory';
import { KIND_CHANNELS, type RayJob } from '@wembrel/core/rays/cast/tile-cast';
import type { MeshFault } from '@wembrel/core/rays/faults/edge-faults';
import { countTexels, type FaultSource, listFaults, type TexelCounts } from '@wembrel/core/rays/faults/fault-list';
import { emptyRayMaps, heightsOf, type RayMaps } from '@wembrel/core/rays/maps/baked-maps';
import type { RayFault } from '@wembrel/core/rays/maps/fault-kinds';
import type { GroupIds } from '@wembrel/core/rays/maps/group-ids';
import { idsOf } from '@wembrel/core/rays/maps/id-colours';
import { measureReaches, type Reaches } from '@wembrel/core/rays/pairing/measure';
import type { Sweep } from '@wembrel/core/rays/pairing/sweep';
import type { SourceTextures } from '@wembrel/core/rays/target/hit-surface';
import { type RayMesh, rayMesh } from '@wembrel/core/rays/target/ray-mesh';
import { type SceneObject, sceneObjects } from '@wembrel/core/rays/target/scene-objects';
import type { Model } from '@wembrel/core/scene/model';
import type { Bvh } from '@wembrel/kernels/bvh-layout';
import type { JobScope } from '../pool/job-scope.ts';
import type { Images } from '../read/images.ts';
import { rayTasks } from './ray-tasks.ts';

/** What was baked of one pairing. */
export interface BakedPairing extends TexelCounts, Reaches {
  name: string;
  /** Reaches that were measured, when some were not given. */
  measured: Reaches | null;
  highTriangles: number;
  lowTriangles: number;
  /** Triangles of the low-poly outside 0 … 1 of its UVs. */
  outside: number;
  /** What counts as thick, m. */
  thicknessDistance: number;
  /** How far the high-poly lies above the low-poly at the least and at the most, m; null where nothing was hit. */
  heights: [number, number] | null;
}

export interface RayBake {
  maps: RayMaps;
  pairings: BakedPairing[];
  faults: RayFault[];
  /** Names of the colours of an ID map. */
  legend: { name: string; colour: number }[];
  /** m; see `RayScale`. */
  scale: ReturnType<typeof rayScale>;
  rays: number;
  /** Seconds in which rays were cast. */
  castSeconds: number;
  /** What was reserved. */
  memory: RayMemory;
  /** What was baked, for looking closer. */
  jobs: { job: RayJob; high: Bvh; low: Bvh }[];
}

export interface RayBakeOptions {
  /** px of this bake per px of the settings: 1, or less for a proof. */
  pxScale?: number;
  onProgress?: (share: number, doing: string) => void;
  onMaps?: (maps: RayMaps) => void;
  /** Pairings whose high-polys AO sees when it sees everything; those that are baked, if not given. */
  seen?: readonly PairingDecision[];
  /** For IDs by face group. */
  groups?: GroupIds | null;
  /** Bytes that may be taken; those of the machine, if not given. */
  available?: number;
  /** Low x y and high x y of the part of the sheet that is baked, shares of its sides; all of it, if not given. Whole tiles are baked. */
  region?: Region | null;
  /** Keep what was baked in `jobs`. */
  keep?: boolean;
}

/** What is baked onto one sheet. */
export interface RayScene {
  models: readonly Model[];
  pairings: readonly PairingDecision[];
  settings: RaySettings;
  images: Images;
}

/**
 * Bakes pairings onto one sheet, one after another, each by all threads. The result does not depend on their number.
 * @throws InputError about the first pairing that does not fit @throws Cancelled
 */
export async function bakeRays(scene: RayScene, scope: JobScope, options: RayBakeOptions = {}): Promise<RayBake> {
  const { settings } = scene;
  if (scene.pairings.length === 0) throw new InputError('bake', 'there is no pairing of a high-poly and a low-poly');
  await tangentsReady;
  const px = options.pxScale ?? 1;
  const side = Math.max(1, Math.round(settings.size * px));
  const prepared = await prepareScene(scene, side, scope, options);
  const maps = emptyRayMaps(side, side, settings.maps, settings.bits, settings.normalY === 'down');
  options.onMaps?.(maps);
  const { meshes, scale, legend, memory } = prepared;
  const out: RayBake = {
    maps,
    pairings: [],
    faults: [],
    legend,
    scale,
    rays: 0,
    castSeconds: 0,
    memory,
    jobs: [],
  };
  const sources: FaultSource[] = [];
  const reaches: Awaited<ReturnType<typeof pairingReaches>>[] = [];
  const triangles = meshes.reduce((sum, mesh) => sum + mesh.target.count, 0);
  let before = 0;
  for (const [i, mesh] of meshes.entries()) {
    const share = (within: number) => (before + within * mesh.target.count) / Math.max(1, triangles);
    const baked = await bakePairing(scene, prepared, i, scope, {
      maps,
      region: options.region ?? null,
      progress: (within, doing) => options.onProgress?.(share(within), doing),
    });
    out.rays += baked.rays;
    out.castSeconds += baked.seconds;
    reaches.push(baked.reaches);
    sources.push(baked.source);
    if (options.keep) out.jobs.push(baked.job);
    before += mesh.target.count;
  }
  scope.checkpoint();
  await scope.run(rayTasks.finishRays, { maps, settings, scale: px });
  out.pairings = describePairings(meshes, reaches, maps, settings);
  out.faults = listFaults(maps, sources);
  return out;
}

/** What the bakes of all pairings have in common. */
interface PreparedScene {
  memory: RayMemory;
  meshes: PairingMeshes[];
  scale: ReturnType<typeof rayScale>;
  ids: readonly (ReturnType<typeof idsOf>['ids'][number] | null)[];
  legend: RayBake['legend'];
  /** All that AO sees when it sees everything. */
  all: { occluders: AlphaOccluder[] | undefined; bvh: Bvh } | null;
}

async function prepareScene(
  { models, pairings, settings, images }: RayScene,
  side: number,
  scope: JobScope,
  options: RayBakeOptions,
): Promise<PreparedScene> {
  const objects = sceneObjects(models);
  const available = options.available ?? totalmem();
  const memory = planRayMemory(models, objects, { pairings, settings, side, slots: scope.threads, available });
  const meshes = prepareMeshes(models, objects, pairings, { settings, side }, () => scope.checkpoint());
  const scale = rayScale(
    meshes.map((mesh) => mesh.target.mesh),
    settings,
  );
  const named = settings.maps.includes('id')
    ? idsOf(
        meshes.map((mesh) => mesh.high),
        settings.id.by,
        options.groups ?? null,
      )
    : { ids: meshes.map(() => null), legend: [] };
  const seen = options.seen ?? pairings;
  const seesAll = settings.maps.includes('ao') && settings.ao.sees === 'all' && seen.length > 1;
  const all = seesAll ? await everything(models, objects, seen, meshes, images) : null;
  return {
    memory,
    meshes,
    scale,
    ...named,
    all: all ? { occluders: all.occluders, bvh: await build(all, scope) } : null,
  };
}

/** Bakes one pairing into the maps. */
async function bakePairing(
  { settings, images }: RayScene,
  { meshes, scale, ids, all }: PreparedScene,
  index: number,
  scope: JobScope,
  to: { maps: RayMaps; region: Region | null; progress: (within: number, doing: string) => void },
) {
  const mesh = meshes[index];
  const { name } = mesh.pairing;
  to.progress(0, `building "${name}"`);
  const [high, low, textures] = await Promise.all([
    build(mesh.high, scope),
    build(mesh.target.mesh, scope),
    texturesOf(mesh.high, settings.maps, images),
  ]);
  const reaches = pairingReaches(mesh, high, low);
  const job = rayJob({
    index,
    pairingMeshes: mesh,
    reaches,
    settings,
    scale,
    textures,
    ids: ids[index],
    occluders: all?.occluders,
  });
  const faults: Promise<MeshFault[]> = scope.run(rayTasks.meshFaults, { target: job.target, uvSet: settings.uvSet });
  // Thrown where it is awaited; a bake that is cancelled before does not come there.
  faults.catch(() => {});
  const began = performance.now();
  const rays = await cast(job, {
    high,
    low,
    all: all?.bvh ?? null,
    maps: to.maps,
    region: to.region,
    scope,
    progress: (within) => to.progress(within, `casting "${name}"`),
  });
  const seconds = (performance.now() - began) / 1000;
  const source: FaultSource = { name, target: job.target, density: job.density, mesh: await faults };
  return { rays, seconds, reaches, source, job: { job, high, low } };
}

/** Meshes of all pairings; islands are numbered through. */
function prepareMeshes(
  models: readonly Model[],
  objects: readonly SceneObject[],
  pairings: readonly PairingDecision[],
  { settings, side }: { settings: RaySettings; side: number },
  checkpoint: () => void,
): PairingMeshes[] {
  const meshes: PairingMeshes[] = [];
  let islands = 0;
  for (const pairing of pairings) {
    checkpoint();
    const m = pairingMeshes(models, objects, { pairing, settings, size: [side, side], firstIsland: islands });
    for (const i of m.target.island) islands = Math.max(islands, i);
    meshes.push(m);
  }
  return meshes;
}

function describePairings(
  meshes: readonly PairingMeshes[],
  reaches: readonly ReturnType<typeof pairingReaches>[],
  maps: RayMaps,
  settings: RaySettings,
): BakedPairing[] {
  const counts = countTexels(maps, meshes.length);
  const heights = heightsOf(maps, meshes.length);
  return meshes.map((mesh, i) => ({
    name: mesh.pairing.name,
    ...counts[i],
    outward: reaches[i].outward,
    inward: reaches[i].inward,
    measured: reaches[i].measured,
    highTriangles: mesh.high.triangles,
    lowTriangles: mesh.target.count,
    outside: mesh.target.outside,
    thicknessDistance: thicknessOf(mesh.target.mesh, settings),
    heights: heights[i],
  }));
}

/**
 * Tries reaches for each pairing, whatever is decided of them.
 * @throws InputError @throws Cancelled
 */
export async function findReaches(
  models: readonly Model[],
  pairings: readonly PairingDecision[],
  settings: RaySettings,
  scope: JobScope,
  onProgress?: (share: number, doing: string) => void,
): Promise<{ name: string; sweep: Sweep; measured: Reaches }[]> {
  await tangentsReady;
  const objects = sceneObjects(models);
  const out: { name: string; sweep: Sweep; measured: Reaches }[] = [];
  for (const [i, pairing] of pairings.entries()) {
    scope.checkpoint();
    onProgress?.(i / pairings.length, `trying reaches of "${pairing.name}"`);
    const { high, target } = pairingMeshes(models, objects, {
      pairing,
      settings,
      size: [settings.size, settings.size],
      firstIsland: 0,
    });
    const [highBvh, lowBvh] = await Promise.all([build(high, scope), build(target.mesh, scope)]);
    const measured = measureReaches(high, highBvh, target.mesh, lowBvh);
    out.push({
      name: pairing.name,
      measured,
      sweep: await scope.run(rayTasks.sweep, { target, high, highBvh, lowBvh, measured }),
    });
  }
  return out;
}

const build = (rayMesh: Pick<RayMesh, 'positions' | 'indices'>, scope: JobScope): Promise<Bvh> =>
  scope.run(rayTasks.buildBvh, { positions: rayMesh.positions, indices: rayMesh.indices, slots: scope.threads });

/** All high-polys, for AO that sees everything; one that has been moved stands where it was moved to. @param ready those that are baked */
async function everything(
  models: readonly Model[],
  objects: readonly SceneObject[],
  pairings: readonly PairingDecision[],
  ready: readonly PairingMeshes[],
  images: Images,
): Promise<Pick<RayMesh, 'positions' | 'indices'> & { occluders: AlphaOccluder[] }> {
  const each = pairings.map(
    (pairing) =>
      ready.find((pairingMeshes) => pairingMeshes.pairing === pairing)?.high ??
      rayMesh(
        models,
        objects.filter((object) => pairing.high.some((r) => r.path === object.path && r.name === object.name)),
        pairing.move,
      ),
  );
  const { from, ...joined } = joinedMesh(each);
  const occluders = each.flatMap((mesh, i) =>
    isAlphaOccluder(mesh) ? [{ mesh, from: from[i], to: from[i] + mesh.triangles }] : [],
  );
  const looks = await Promise.all(occluders.map(({ mesh }) => texturesOf(mesh, [], images)));
  return { ...joined, occluders: occluders.map((v, i) => ({ ...v, textures: looks[i] })) };
}

/** Pictures of the high-poly's materials, as far as some map reads them. */
async function texturesOf(high: RayMesh, maps: RaySettings['maps'], images: Images): Promise<SourceTextures> {
  const wanted = new Set(maps.flatMap((k) => KIND_CHANNELS[k] ?? []));
  return Promise.all(
    high.sources.map(async ({ look }) => {
      const out: SourceTextures[number] = {};
      // Alpha-tested faces are looked through, whatever is baked.
      for (const channel of look.alphaMode === 'MASK' ? new Set([...wanted, 'baseColor' as const]) : wanted) {
        const use = look[channel];
        if (!use) continue;
        const weighted = channel === 'baseColor' && look.alphaMode !== 'OPAQUE';
        out[channel] = await images.levels(use.image, channelEncoding(channel), weighted, false);
      }
      return out;
    }),
  );
}

interface CastInput {
  high: Bvh;
  low: Bvh;
  all: Bvh | null;
  maps: RayMaps;
  region: Region | null;
  scope: JobScope;
  progress: (share: number) => void;
}

async function cast(job: RayJob, { high, low, all, maps, region, scope, progress }: CastInput): Promise<number> {
  const counter = () => new Int32Array(new SharedArrayBuffer(4));
  const { tiles, lists, surfaceLists } = jobTiles(job, maps.width, maps.height, region);
  const work = { job, high, low, all, maps, tiles, lists, surfaceLists, next: counter(), done: counter() };
  const tick = setInterval(() => progress(work.done[0] / Math.max(1, tiles.length)), 100);
  try {
    const workers = Math.min(scope.threads, Math.max(1, tiles.length));
    const rays = await Promise.all(
      Array.from({ length: workers }, (_, slot) =>
        scope.run(rayTasks.castTiles, { ...work, cancel: scope.cancel, slot }),
      ),
    );
    scope.checkpoint();
    return rays.reduce((sum, ray) => sum + ray, 0);
  } finally {
    clearInterval(tick);
  }
}
