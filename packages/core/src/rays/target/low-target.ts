import { binTriangles } from '../../bake/transfer.ts';
import type { CastMode } from '../../decisions/ray-decisions.ts';
import { InputError } from '../../errors.ts';
import { determinant3, linearPart, transformDirections } from '../../math/mat4.ts';
import { cornerNormals, cornerVectors } from '../../mesh/corner-frames.ts';
import { uvIslands } from '../../mesh/islands.ts';
import { cornerTangents } from '../../mesh/tangents.ts';
import type { Model } from '../../scene/model.ts';
import { castDirections } from './casting.ts';
import { meshCornerNormals, type RayMesh, rayMesh } from './ray-mesh.ts';
import type { SceneObject } from './scene-objects.ts';

/** The surface that is baked onto: a low-poly with its places on the sheet. Shared memory throughout. */
export interface LowTarget {
  mesh: RayMesh;
  /** x y of each corner, px of the sheet. */
  place: Float64Array;
  /** Triangles, by the name under which binning knows it. */
  count: number;
  /** Own normals, unit, three a corner. */
  normals: Float32Array;
  /** MikkTSpace frames on the baked UV set, x y z w a corner. */
  tangents: Float32Array;
  /** See `castDirections`, three a corner. */
  directions: Float32Array;
  /** Where rays start, relative to the surface, in lengths of `directions`: m, one a corner. */
  outward: Float32Array;
  /** Directions and reaches lead from the surface to a cage. */
  cage: boolean;
  /** Island of each triangle, numbered over the whole low-poly from 1. */
  island: Uint32Array;
  /** Triangles that lie outside 0 … 1 and are not baked: halves that are meant to be mirrored, mostly. */
  outside: number;
}

const shared = (n: number) => new Float32Array(new SharedArrayBuffer(n * 4));

export interface LowTargetOptions {
  size: readonly [number, number];
  uvSet: number;
  cast: CastMode;
  blend: number;
  firstIsland?: number;
}

/**
 * @param size width and height of the sheet, px @param firstIsland number of its first island less one
 * @throws InputError when a part has no UVs
 */
export function lowTarget(
  models: readonly Model[],
  objects: readonly SceneObject[],
  { size, uvSet, cast, blend, firstIsland = 0 }: LowTargetOptions,
): LowTarget {
  for (const object of objects)
    for (const id of object.parts)
      if (!models[object.model].parts[id].uvs[uvSet])
        throw new InputError(object.path, `"${object.name}" has no UV set ${uvSet} to bake onto; unwrap it first`);
  const mesh = rayMesh(models, objects);
  const uv = mesh.uvs[uvSet];
  const place = new Float64Array(new SharedArrayBuffer(mesh.triangles * 48));
  let outside = 0;
  for (let t = 0; t < mesh.triangles; t++) {
    let su = 0;
    let sv = 0;
    for (let k = 0; k < 3; k++) {
      const v = mesh.indices[t * 3 + k] * 2;
      place[t * 6 + k * 2] = uv[v] * size[0];
      place[t * 6 + k * 2 + 1] = uv[v + 1] * size[1];
      su += uv[v] / 3;
      sv += uv[v + 1] / 3;
    }
    if (su < 0 || su > 1 || sv < 0 || sv > 1) outside++;
  }
  const normals = meshCornerNormals(mesh);
  const sharedNormals = shared(normals.length);
  sharedNormals.set(normals);
  const island = new Uint32Array(new SharedArrayBuffer(mesh.triangles * 4));
  let islands = firstIsland;
  for (const source of mesh.sources) {
    const map = uvIslands(mesh.indices.subarray(source.from * 3, source.to * 3), mesh.positions, uv);
    for (let t = source.from; t < source.to; t++) island[t] = islands + map.ofTriangle[t - source.from] + 1;
    islands += map.count;
  }
  return {
    mesh,
    place,
    count: mesh.triangles,
    normals: sharedNormals,
    tangents: targetFrames(models, objects, mesh, uvSet),
    directions: castDirections(mesh, cast, blend),
    outward: shared(mesh.triangles * 3),
    cage: false,
    island,
    outside,
  };
}

/**
 * Sets where rays start.
 * @param outward m @param offsets by name of a object: its own share of that reach
 */
export function setOutward(target: LowTarget, outward: number, offsets: Readonly<Record<string, number>> = {}): void {
  for (const source of target.mesh.sources)
    target.outward.fill(outward * (offsets[source.object] ?? 1), source.from * 3, source.to * 3);
}

/**
 * Rays start on a cage: a mesh like the low-poly, triangle by triangle, in the same order.
 * @throws InputError when it has another number of triangles
 */
export function setCage(target: LowTarget, cage: RayMesh, name: string): void {
  const { mesh, directions, outward } = target;
  if (cage.triangles !== mesh.triangles)
    throw new InputError(
      cage.sources[0]?.path ?? name,
      `the cage "${name}" has ${cage.triangles} triangles, the low-poly has ${mesh.triangles}; it must be a copy of it, moved outward`,
    );
  for (let c = 0; c < mesh.triangles * 3; c++) {
    const v = mesh.indices[c] * 3;
    const w = cage.indices[c] * 3;
    const way = [0, 1, 2].map((k) => cage.positions[w + k] - mesh.positions[v + k]);
    const l = Math.sqrt(way[0] ** 2 + way[1] ** 2 + way[2] ** 2);
    outward[c] = l;
    if (l > 0) for (let k = 0; k < 3; k++) directions[c * 3 + k] = way[k] / l;
  }
  target.cage = true;
}

/** Frames as whoever draws the low-poly makes them: MikkTSpace in the part's own space, then placed. */
function targetFrames(
  models: readonly Model[],
  objects: readonly SceneObject[],
  mesh: RayMesh,
  uvSet: number,
): Float32Array {
  const out = shared(mesh.triangles * 12);
  const pieces = objects.flatMap((object) =>
    object.parts.map((id) => ({ b: object, part: models[object.model].parts[id] })),
  );
  mesh.sources.forEach((source, i) => {
    const { b: sceneObject, part } = pieces[i];
    const { world } = part.instances[sceneObject.instance];
    const local = part.tangents
      ? cornerVectors(part.tangents, part.indices, 4)
      : cornerTangents(
          cornerVectors(part.positions, part.indices, 3),
          cornerNormals(part),
          cornerVectors(part.uvs[uvSet] as Float32Array, part.indices, 2),
        );
    const mirrored = determinant3(world) < 0;
    const frames = transformDirections(local, linearPart(world), 4);
    const order = mirrored ? [0, 2, 1] : [0, 1, 2];
    for (let t = 0; t < source.to - source.from; t++)
      for (let k = 0; k < 3; k++) {
        const from = (t * 3 + order[k]) * 4;
        const to = ((source.from + t) * 3 + k) * 4;
        for (let c = 0; c < 3; c++) out[to + c] = frames[from + c];
        out[to + 3] = mirrored ? -local[from + 3] : local[from + 3];
      }
  });
  return out;
}

/** Triangles of each tile of the sheet. */
export const lowTiles = (target: LowTarget, width: number, height: number): Map<number, Uint32Array> =>
  binTriangles(target, width, height);
