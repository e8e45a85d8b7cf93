import type { TextureUse } from '../scene/material.ts';
import type { Part } from '../scene/model.ts';
import { layoutCoordinates } from './coordinates.ts';
import { cornerTangents, flatNormals } from './tangents.ts';

/** Positions, normals by corner. */
export function cornerVectors(values: Float32Array, indices: Uint32Array, size: number): Float32Array {
  const out = new Float32Array(indices.length * size);
  for (let i = 0; i < indices.length; i++)
    for (let k = 0; k < size; k++) out[i * size + k] = values[indices[i] * size + k];
  return out;
}

/** Normals by corner: the source's, or flat ones where it has none. */
export function cornerNormals(part: Part): Float32Array {
  if (part.normals) return cornerVectors(part.normals, part.indices, 3);
  return flatNormals(cornerVectors(part.positions, part.indices, 3));
}

/** Frames in which a part's normal map is meant, by corner: its stored tangents, else MikkTSpace on the map's own UVs. */
export function sourceFrames(part: Part, use: TextureUse, normals: Float32Array): Float32Array {
  if (part.tangents) return cornerVectors(part.tangents, part.indices, 4);
  const uv = Float32Array.from(layoutCoordinates(part, use, [1, 1]));
  return cornerTangents(cornerVectors(part.positions, part.indices, 3), normals, cornerVectors(uv, part.indices, 2));
}
