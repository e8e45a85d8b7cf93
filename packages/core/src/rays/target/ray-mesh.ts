import { InputError } from '../../errors.ts';
import {
  determinant3,
  linearPart,
  type Mat4,
  normalMatrix,
  transformDirections,
  transformPoints,
} from '../../math/mat4.ts';
import { crossOf } from '../../math/triangle.ts';
import { cornerNormals, cornerVectors, sourceFrames } from '../../mesh/corner-frames.ts';
import type { MaterialLook } from '../../scene/material.ts';
import type { Model, Part, Slot } from '../../scene/model.ts';
import type { SceneObject } from './scene-objects.ts';

/** What the triangles of a stretch of a `RayMesh` come from. */
interface RaySource {
  path: string;
  object: string;
  /** Part of its model. */
  part: number;
  slot: string;
  look: MaterialLook;
  /** Local to world. */
  world: Mat4;
  /** Normals, UV sets and colours are there; where not, their numbers are 0 (colours 1). */
  hasNormals: boolean;
  uvSets: number;
  hasColors: boolean;
  /** First triangle, and the one after the last. */
  from: number;
  to: number;
}

/** Triangles of several objects in world space, m; all arrays are shared memory. Mirrored placings have their corners turned, so that fronts are fronts. */
export interface RayMesh {
  triangles: number;
  indices: Uint32Array;
  positions: Float32Array;
  /** Unit, three a vertex; 0 where the source has none: such faces are flat. */
  normals: Float32Array;
  /** u v a vertex, of each UV set that any source has. */
  uvs: Float32Array[];
  /** Linear R G B A a vertex; null when no source has any. */
  colors: Float32Array | null;
  /** Frames of the sources' normal maps, x y z w a corner; null when no source has a normal map. */
  tangents: Float32Array | null;
  /** Source of each triangle. */
  sourceOf: Uint16Array;
  sources: RaySource[];
}

/** Parts that their numbers can tell apart. */
const MOST_PARTS = 65_535;

const floats = (n: number) => new Float32Array(new SharedArrayBuffer(n * 4));

/** Bytes of a mesh of so many triangles and vertices, without normal maps. */
export const rayMeshBytes = (triangles: number, vertices: number, uvSets: number): number =>
  triangles * 14 + vertices * (24 + 8 * uvSets);

/**
 * @param objects of `models`, in the order in which equal hits are preferred @param move of everything, m
 * @throws InputError when there are more parts than can be distinguished
 */
export function rayMesh(
  models: readonly Model[],
  objects: readonly SceneObject[],
  move: readonly [number, number, number] = [0, 0, 0],
): RayMesh {
  const pieces = objects.flatMap((object) =>
    object.parts.map((id) => ({ object: object, part: models[object.model].parts[id] })),
  );
  if (pieces.length > MOST_PARTS)
    throw new InputError(
      pieces[0].object.path,
      `is placed in ${pieces.length} parts; at most ${MOST_PARTS} are baked together`,
    );
  const { vertices, triangles, sets, colored, mapped } = measurePieces(models, pieces);
  const mesh: RayMesh = {
    triangles,
    indices: new Uint32Array(new SharedArrayBuffer(triangles * 12)),
    positions: floats(vertices * 3),
    normals: floats(vertices * 3),
    uvs: Array.from({ length: sets }, () => floats(vertices * 2)),
    colors: colored ? floats(vertices * 4).fill(1) : null,
    tangents: mapped ? floats(triangles * 12) : null,
    sourceOf: new Uint16Array(new SharedArrayBuffer(triangles * 2)),
    sources: [],
  };
  let v = 0;
  let t = 0;
  for (const piece of pieces) {
    addPiece(mesh, piece, models[piece.object.model].slots[piece.part.slot], move, [v, t]);
    v += piece.part.positions.length / 3;
    t += piece.part.indices.length / 3;
  }
  return mesh;
}

/** A part as an object places it. */
interface Piece {
  object: SceneObject;
  part: Part;
}

/** What has to be reserved for all pieces. */
function measurePieces(models: readonly Model[], pieces: readonly Piece[]) {
  const out = { vertices: 0, triangles: 0, sets: 0, colored: false, mapped: false };
  for (const { object, part } of pieces) {
    out.vertices += part.positions.length / 3;
    out.triangles += part.indices.length / 3;
    out.sets = Math.max(out.sets, part.uvs.length);
    out.colored ||= part.colors !== null;
    const { normal } = models[object.model].slots[part.slot].look;
    out.mapped ||= Boolean(normal && part.uvs[normal.uvSet]);
  }
  return out;
}

/** Writes a piece behind those before it. @param from its first vertex and its first triangle */
function addPiece(
  mesh: RayMesh,
  { object, part }: Piece,
  slot: Slot,
  move: readonly [number, number, number],
  from: readonly [vertex: number, triangle: number],
): void {
  const [v, t] = from;
  const { world } = part.instances[object.instance];
  const count = part.indices.length / 3;
  const mirrored = determinant3(world) < 0;
  const placed = [...world];
  for (let k = 0; k < 3; k++) placed[12 + k] += move[k];
  mesh.positions.set(transformPoints(part.positions, placed), v * 3);
  if (part.normals) mesh.normals.set(transformDirections(part.normals, normalMatrix(world)), v * 3);
  part.uvs.forEach((uv, s) => {
    if (uv) mesh.uvs[s].set(uv, v * 2);
  });
  if (part.colors) mesh.colors?.set(part.colors, v * 4);
  const order = mirrored ? [0, 2, 1] : [0, 1, 2];
  for (let i = 0; i < count; i++)
    for (let k = 0; k < 3; k++) mesh.indices[(t + i) * 3 + k] = part.indices[i * 3 + order[k]] + v;
  const use = slot.look.normal;
  if (mesh.tangents && use && part.uvs[use.uvSet]) {
    const local = sourceFrames(part, use, cornerNormals(part));
    const frames = transformDirections(local, linearPart(world), 4);
    for (let i = 0; i < count; i++)
      for (let k = 0; k < 3; k++) {
        const at = (i * 3 + order[k]) * 4;
        for (let c = 0; c < 3; c++) mesh.tangents[((t + i) * 3 + k) * 4 + c] = frames[at + c];
        mesh.tangents[((t + i) * 3 + k) * 4 + 3] = mirrored ? -local[at + 3] : local[at + 3];
      }
  }
  mesh.sourceOf.fill(mesh.sources.length, t, t + count);
  mesh.sources.push({
    path: object.path,
    object: object.name,
    part: part.id,
    slot: slot.name,
    look: slot.look,
    world,
    hasNormals: part.normals !== null,
    uvSets: part.uvs.length,
    hasColors: part.colors !== null,
    from: t,
    to: t + count,
  });
}

/** Unit normal of a triangle's plane into `out`; +Y where it has no area. @returns twice its area */
export function faceNormal(
  mesh: Pick<RayMesh, 'indices' | 'positions'>,
  t: number,
  out: Float64Array | number[],
): number {
  const { indices, positions } = mesh;
  const cross = crossOf(positions, indices[t * 3], indices[t * 3 + 1], indices[t * 3 + 2], out);
  out[0] = cross > 0 ? out[0] / cross : 0;
  out[1] = cross > 0 ? out[1] / cross : 1;
  out[2] = cross > 0 ? out[2] / cross : 0;
  return cross;
}

/** Normals of corners from a mesh's vertices; a source without normals gets those of its planes. */
export function meshCornerNormals(mesh: RayMesh): Float32Array {
  const out = cornerVectors(mesh.normals, mesh.indices, 3);
  const n = [0, 0, 0];
  for (let t = 0; t < mesh.triangles; t++) {
    const o = t * 9;
    if (mesh.sources[mesh.sourceOf[t]].hasNormals) continue;
    faceNormal(mesh, t, n);
    for (let k = 0; k < 9; k++) out[o + k] = n[k % 3];
  }
  return out;
}
