import type { StandInSpec } from '@wembrel/core/decisions/stand-in';
import { Cancelled, InputError, sentence } from '@wembrel/core/errors';
import { placesOf } from '@wembrel/core/rays/target/casting';
import { boxOf } from '@wembrel/core/rays/target/mesh-box';
import { type RayMesh, rayMesh } from '@wembrel/core/rays/target/ray-mesh';
import { sceneObjects } from '@wembrel/core/rays/target/scene-objects';
import type { Model } from '@wembrel/core/scene/model';
import { collapsed } from '@wembrel/core/stand-in/hull/collapse';
import { emptyField } from '@wembrel/core/stand-in/hull/field';
import { hullFrom, hullGridOf } from '@wembrel/core/stand-in/hull/hull';
import { joinedMeshes, type LightMesh, lightMesh } from '@wembrel/core/stand-in/light-mesh';
import {
  framingDistance,
  type Outlines,
  outlineError,
  outlinesOf,
  pxPerMetre,
} from '@wembrel/core/stand-in/outline-error';
import { withNeighbours } from '@wembrel/core/stand-in/seen';
import { simplified, simplifierReady } from '@wembrel/core/stand-in/simplify';
import { buildBvh } from '@wembrel/kernels/bvh';
import type { JobScope } from '../pool/job-scope.ts';
import { standInTasks } from './stand-in-tasks.ts';

/** The source of a stand-in, as triangles. */
export interface HeavySurface {
  mesh: RayMesh;
  /** Its outlines, for whatever is held against it. */
  outlines: Outlines;
  /** m */
  diagonal: number;
}

/** Side of the pictures in which outlines are compared, px. */
const PICTURE = 1024;

/** Shares by which a goal in metres is tried anew until the outline that is measured fits. */
const TRIES = [1, 0.5, 1.6, 0.3, 0.8, 0.2, 0.1];

export function heavySurface(model: Model): HeavySurface {
  const mesh = rayMesh([model], sceneObjects([model]));
  if (mesh.triangles === 0) throw new InputError(model.path, 'it draws no triangles');
  const box = boxOf([mesh]);
  const diagonal = Math.hypot(box[3] - box[0], box[4] - box[1], box[5] - box[2]);
  if (!(diagonal > 0)) throw new InputError(model.path, 'all of it lies in one point');
  return { mesh, outlines: outlinesOf(mesh, PICTURE), diagonal };
}

/** From where a source is seen when nothing else is said, m. */
export const viewingDistance = ({ diagonal }: HeavySurface, given: number | null): number =>
  given ?? framingDistance(diagonal);

/** Which triangles are kept: those that are seen from outside, and what touches them. */
export async function seenFromOutside({ mesh }: HeavySurface, scope: JobScope): Promise<Uint8Array> {
  const bvh = await scope.run(standInTasks.hidingBvh, { mesh, slots: scope.threads });
  const seen = new Uint8Array(new SharedArrayBuffer(mesh.triangles));
  const step = Math.ceil(mesh.triangles / scope.threads);
  await Promise.all(
    Array.from({ length: scope.threads }, (_, slot) => {
      const range = [slot * step, Math.min(mesh.triangles, (slot + 1) * step)] as const;
      return scope.run(standInTasks.markSeen, { mesh, bvh, slot, range, seen, cancel: scope.cancel });
    }),
  );
  scope.checkpoint();
  return withNeighbours(mesh, placesOf(mesh), seen);
}

/** A shape, and how far its outline is off, m. */
export interface Shape {
  mesh: LightMesh;
  /** Of 99 % of the outline. */
  error: number;
}

/** Reduces the source to what is asked. @param keep triangles that count; null: all */
export async function simplifiedShape(
  heavy: HeavySurface,
  keep: Uint8Array | null,
  spec: StandInSpec,
  scope: JobScope,
): Promise<Shape> {
  await simplifierReady;
  const shells = spec.keepGroups ? shellsOf(heavy.mesh) : null;
  return reduced(heavy, lightMesh(heavy.mesh, keep, shells), spec, (mesh, to) => simplified(mesh, to), scope);
}

/** Number of the object of each source of a mesh. */
function shellsOf({ sources }: RayMesh): number[] {
  const numbers = new Map<string, number>();
  return sources.map(({ object, world }) => {
    const key = `${object} ${world.join()}`;
    if (!numbers.has(key)) numbers.set(key, numbers.size);
    return numbers.get(key) as number;
  });
}

type Reduce = (mesh: LightMesh, to: { triangles: number } | { metres: number }) => LightMesh;

/** Reduces a mesh to triangles, or as far as its measured outline stays within px: the lightest of some tries that does. */
async function reduced(
  heavy: HeavySurface,
  mesh: LightMesh,
  { goal, distance }: Pick<StandInSpec, 'goal' | 'distance'>,
  reduce: Reduce,
  scope: JobScope,
): Promise<Shape> {
  const measure = (one: LightMesh): Shape => ({
    mesh: one,
    error: outlineError(heavy.outlines, outlinesOf(one, PICTURE, heavy.outlines)).most,
  });
  if ('triangles' in goal) return measure(reduce(mesh, goal));
  const allowed = goal.px / pxPerMetre(viewingDistance(heavy, distance));
  let best = measure(mesh);
  // What is off before it is reduced, as hulls of thin things are, is no reason to keep every triangle.
  const limit = Math.max(allowed, best.error);
  for (const share of TRIES) {
    scope.checkpoint();
    const tried = reduce(mesh, { metres: allowed * share });
    if (tried.indices.length >= best.mesh.indices.length) continue;
    const shape = measure(tried);
    if (shape.error <= limit && tried.indices.length > 0) best = shape;
  }
  return best;
}

/**
 * One watertight hull around the source, or one around each of its objects, reduced to what is asked.
 * @param keep triangles that count; null: all @throws InputError where there is nothing to wrap
 */
export async function hullShape(
  { path }: Model,
  heavy: HeavySurface,
  keep: Uint8Array | null,
  spec: StandInSpec,
  scope: JobScope,
): Promise<Shape> {
  const shells = spec.keepGroups ? shellsOf(heavy.mesh) : heavy.mesh.sources.map(() => 0);
  const hulls: LightMesh[] = [];
  for (const shell of new Set(shells)) {
    const mine = Uint8Array.from({ length: heavy.mesh.triangles }, (_, t) =>
      Number(shells[heavy.mesh.sourceOf[t]] === shell && (keep === null || keep[t] > 0)),
    );
    const source = lightMesh(heavy.mesh, mine, null);
    if (source.indices.length > 0) hulls.push(await hullAround(path, source, spec, scope));
  }
  if (hulls.length === 0) throw new InputError(path, 'there is nothing that a hull could be put around');
  const reduce: Reduce = (mesh, to) => collapsed(mesh, { ...to, checkpoint: () => scope.checkpoint() });
  return reduced(heavy, joinedMeshes(hulls), spec, reduce, scope);
}

async function hullAround(path: string, source: LightMesh, spec: StandInSpec, scope: JobScope): Promise<LightMesh> {
  try {
    const grid = hullGridOf(source, spec.cell);
    const bvh = buildBvh(source.positions, source.indices);
    const field = emptyField(grid);
    const next = new Int32Array(new SharedArrayBuffer(4));
    const task = { source, grid, bvh, field, next, cancel: scope.cancel };
    await Promise.all(Array.from({ length: scope.threads }, () => scope.run(standInTasks.measureLayers, task)));
    scope.checkpoint();
    return hullFrom({ source, grid, bvh }, field, spec.keepCavities);
  } catch (error) {
    if (error instanceof Cancelled) throw error;
    throw new InputError(path, sentence(error));
  }
}
