import type { Bvh } from '@wembrel/kernels/bvh-layout';
import type { PairingDecision, RaySettings } from '../../decisions/ray-decisions.ts';
import { InputError } from '../../errors.ts';
import type { Model } from '../../scene/model.ts';
import { measureReaches, piecesOf, type Reaches, trianglesDensity } from '../pairing/measure.ts';
import { type LowTarget, lowTarget, lowTiles, setCage, setOutward } from '../target/low-target.ts';
import { boxOf, largestSide } from '../target/mesh-box.ts';
import { type RayMesh, rayMesh } from '../target/ray-mesh.ts';
import type { ObjectRef, SceneObject } from '../target/scene-objects.ts';
import type { RayJob } from './tile-cast.ts';
import { tileFrame } from './tile-samples.ts';

/** Part of a sheet: low x y and high x y, shares of its sides. */
export type Region = readonly [number, number, number, number];

/** The meshes of a pairing, before its hierarchies are built. */
export interface PairingMeshes {
  pairing: PairingDecision;
  high: RayMesh;
  target: LowTarget;
  surface: LowTarget | null;
  cage: RayMesh | null;
}

/** Bodies by their references. @throws InputError when one is not there any more */
export function findObjects(
  objects: readonly SceneObject[],
  refs: readonly ObjectRef[],
  pairing: string,
): SceneObject[] {
  return refs.flatMap((ref) => {
    const found = objects.filter((object) => object.path === ref.path && object.name === ref.name);
    if (found.length === 0)
      throw new InputError(ref.path, `"${ref.name}", which the pairing "${pairing}" names, was not found`);
    return found;
  });
}

export interface PairingInput {
  pairing: PairingDecision;
  settings: RaySettings;
  size: readonly [number, number];
  firstIsland: number;
}

/**
 * Gathers the triangles of a pairing.
 * @param size of the sheet, px @param firstIsland number of its first island less one
 * @throws InputError when a object is missing, has no UVs, or the cage or casting surface does not fit
 */
export function pairingMeshes(
  models: readonly Model[],
  objects: readonly SceneObject[],
  { pairing, settings, size, firstIsland }: PairingInput,
): PairingMeshes {
  const find = (refs: readonly ObjectRef[]) => findObjects(objects, refs, pairing.name);
  const target = (refs: readonly ObjectRef[]) =>
    lowTarget(models, find(refs), {
      size,
      uvSet: settings.uvSet,
      cast: settings.cast,
      blend: settings.blend,
      firstIsland,
    });
  const low = target(pairing.low);
  if (low.count === 0)
    throw new InputError(pairing.low[0]?.path ?? pairing.name, `the low-poly of "${pairing.name}" has no triangles`);
  const high = rayMesh(models, find(pairing.high), pairing.move);
  if (high.triangles === 0)
    throw new InputError(pairing.high[0]?.path ?? pairing.name, `the high-poly of "${pairing.name}" has no triangles`);
  return {
    pairing,
    high,
    target: low,
    surface: pairing.surface ? target([pairing.surface]) : null,
    cage: pairing.cage ? rayMesh(models, find([pairing.cage])) : null,
  };
}

/** Reaches as decided, or measured. */
export function pairingReaches(
  pairingMeshes: PairingMeshes,
  highBvh: Bvh,
  lowBvh: Bvh,
): Reaches & { measured: Reaches | null } {
  const { outward, inward } = pairingMeshes.pairing;
  const measured =
    outward === null || inward === null
      ? measureReaches(pairingMeshes.high, highBvh, pairingMeshes.target.mesh, lowBvh)
      : null;
  return {
    outward: outward ?? (measured as Reaches).outward,
    inward: inward ?? (measured as Reaches).inward,
    measured,
  };
}

/** Lengths and boxes that all pairings of one sheet have in common. */
export interface RayScale {
  box: readonly number[];
  curvatureRadius: number;
}

export function rayScale(lows: readonly RayMesh[], settings: RaySettings): RayScale {
  const box = boxOf(lows);
  const side = largestSide(box);
  return {
    box,
    curvatureRadius: settings.curvature.radius ?? Math.max(1e-9, side / 100),
  };
}

/** What counts as thick, m: half of the largest side of a pairing's own low-poly, wherever others of the sheet stand. */
export const thicknessOf = (low: RayMesh, settings: RaySettings): number =>
  settings.thickness.distance ?? Math.max(1e-9, largestSide(boxOf([low])) / 2);

export interface RayJobInput {
  index: number;
  pairingMeshes: PairingMeshes;
  reaches: Reaches;
  settings: RaySettings;
  scale: RayScale;
  textures: RayJob['textures'];
  ids: Uint32Array | null;
  occluders?: RayJob['occluders'];
}

/** A pairing ready to be cast: reaches are set on its surfaces. */
export function rayJob({
  index,
  pairingMeshes,
  reaches,
  settings,
  scale,
  textures,
  ids,
  occluders = [],
}: RayJobInput): RayJob {
  for (const lowTarget of [pairingMeshes.target, pairingMeshes.surface])
    if (lowTarget) setOutward(lowTarget, reaches.outward, pairingMeshes.pairing.offsets);
  if (pairingMeshes.cage && pairingMeshes.pairing.cage)
    setCage(pairingMeshes.target, pairingMeshes.cage, pairingMeshes.pairing.cage.name);
  return {
    pairing: index,
    target: pairingMeshes.target,
    surface: pairingMeshes.surface,
    high: pairingMeshes.high,
    textures,
    inward: reaches.inward,
    localReaches: pairingMeshes.pairing.localReaches,
    settings,
    curvatureRadius: scale.curvatureRadius,
    thicknessDistance: thicknessOf(pairingMeshes.target.mesh, settings),
    aoDistance: settings.ao.distance ?? 1e9,
    box: scale.box,
    ids,
    pieces: piecesOf(pairingMeshes.target.mesh).of,
    density: trianglesDensity(pairingMeshes.target),
    occluders,
  };
}

/** Tiles of a job, in order, with the triangles of both surfaces. @param region only tiles that reach into it */
export function jobTiles(
  job: RayJob,
  width: number,
  height: number,
  region: Region | null = null,
): { tiles: Uint32Array; lists: Uint32Array[]; surfaceLists: (Uint32Array | undefined)[] } {
  const lists = lowTiles(job.target, width, height);
  const other = job.surface ? lowTiles(job.surface, width, height) : null;
  const inside = (tile: number) => {
    if (!region) return true;
    const f = tileFrame(tile, width, height);
    return (
      f.x < region[2] * width &&
      f.x + f.width > region[0] * width &&
      f.y < region[3] * height &&
      f.y + f.height > region[1] * height
    );
  };
  const tiles = Uint32Array.from([...lists.keys()].filter(inside).sort((a, b) => a - b));
  return {
    tiles,
    lists: Array.from(tiles, (tile) => lists.get(tile) as Uint32Array),
    surfaceLists: Array.from(tiles, (tile) => other?.get(tile)),
  };
}
