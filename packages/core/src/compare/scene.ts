import type { LevelSet } from '@wembrel/kernels/sample';
import type { Encoding } from '../image/levels.ts';
import { determinant3, linearPart, normalMatrix, transformDirections, transformPoints } from '../math/mat4.ts';
import { cornerNormals, cornerVectors, sourceFrames } from '../mesh/corner-frames.ts';
import { IMAGE_CHANNELS, type ImageChannel, type MaterialLook } from '../scene/material.ts';
import type { Model } from '../scene/model.ts';

/** A rectangle of the picture that belongs to one model, px. */
export interface Cell {
  x: number;
  y: number;
  side: number;
}

/** One placed part, ready to draw: world space, by corner. */
export interface Draw {
  cell: number;
  look: MaterialLook;
  positions: Float32Array;
  normals: Float32Array;
  /** x y z w, when the look has a normal map. */
  tangents: Float32Array | null;
  /** Two for each corner, for every channel with an image, its transform applied. */
  uvs: Partial<Record<ImageChannel, Float32Array>>;
  colors: Float32Array | null;
  /** Keys into the texture table. */
  textures: Partial<Record<ImageChannel, string>>;
  /** The placing mirrors: front faces run the other way round. */
  mirrored: boolean;
}

export interface DrawScene {
  draws: Draw[];
  cells: Cell[];
}

/** How each channel's image is filtered. */
export function channelEncoding(channel: ImageChannel): Encoding {
  return channel === 'baseColor' || channel === 'emissive' ? 'srgb' : channel === 'normal' ? 'normal' : 'linear';
}

/** Key of a level set: image, encoding and whether alpha weighs colour. */
export function textureKey(image: string, channel: ImageChannel, look: MaterialLook): string {
  const weighted = channel === 'baseColor' && look.alphaMode !== 'OPAQUE';
  return `${channelEncoding(channel)}${weighted ? '+alpha' : ''}:${image}`;
}

export type TextureTable = ReadonlyMap<string, LevelSet>;

function shared(values: Float32Array): Float32Array {
  const out = new Float32Array(new SharedArrayBuffer(values.byteLength));
  out.set(values);
  return out;
}

/** Cells of a square picture for a number of models: a grid as square as possible. */
export function cellsFor(count: number, size: number): Cell[] {
  const across = Math.max(1, Math.ceil(Math.sqrt(count)));
  const side = Math.floor(size / across);
  return Array.from({ length: count }, (_, i) => ({
    x: (i % across) * side,
    y: Math.floor(i / across) * side,
    side,
  }));
}

/** All triangles of the models, in world space, with what is needed to shade them. Arrays are in shared memory. */
export function drawScene(models: Model[], size: number): DrawScene {
  const draws: Draw[] = [];
  models.forEach((model, cell) => {
    for (const part of model.parts) {
      if (part.indices.length === 0) continue;
      const { look } = model.slots[part.slot];
      const localNormals = cornerNormals(part);
      const normalUse = look.normal && part.uvs[look.normal.uvSet] ? look.normal : null;
      const localTangents = normalUse ? sourceFrames(part, normalUse, localNormals) : null;
      const uvs: Draw['uvs'] = {};
      const textures: Draw['textures'] = {};
      for (const channel of IMAGE_CHANNELS) {
        const use = look[channel];
        if (!use) continue;
        // A set that is not there reads as zeros, as graphics interfaces have it.
        const uv = part.uvs[use.uvSet] ?? new Float32Array((part.positions.length / 3) * 2);
        const [a, b, c, d, e, f] = use.transform;
        const out = new Float32Array(new SharedArrayBuffer(part.indices.length * 8));
        part.indices.forEach((v, i) => {
          out[i * 2] = a * uv[v * 2] + c * uv[v * 2 + 1] + e;
          out[i * 2 + 1] = b * uv[v * 2] + d * uv[v * 2 + 1] + f;
        });
        uvs[channel] = out;
        textures[channel] = textureKey(use.image, channel, look);
      }
      const colors = part.colors ? shared(cornerVectors(part.colors, part.indices, 4)) : null;
      const local = cornerVectors(part.positions, part.indices, 3);
      for (const { world } of part.instances)
        draws.push({
          cell,
          look,
          positions: shared(transformPoints(local, world)),
          normals: shared(transformDirections(localNormals, normalMatrix(world))),
          tangents: localTangents ? shared(mirrorAware(localTangents, world)) : null,
          uvs,
          colors,
          textures,
          mirrored: determinant3(world) < 0,
        });
    }
  });
  return { draws, cells: cellsFor(models.length, size) };
}

function mirrorAware(tangents: Float32Array, world: readonly number[]): Float32Array {
  const out = transformDirections(tangents, linearPart(world), 4);
  if (determinant3(world) < 0) for (let i = 3; i < out.length; i += 4) out[i] = -out[i];
  return out;
}

/** Box of each cell's model: min x y z, max x y z. */
export function cellBounds(scene: DrawScene): Float64Array[] {
  const out = scene.cells.map(() => Float64Array.of(Infinity, Infinity, Infinity, -Infinity, -Infinity, -Infinity));
  for (const draw of scene.draws) {
    const b = out[draw.cell];
    for (let i = 0; i < draw.positions.length; i++) {
      const k = i % 3;
      if (draw.positions[i] < b[k]) b[k] = draw.positions[i];
      if (draw.positions[i] > b[k + 3]) b[k + 3] = draw.positions[i];
    }
  }
  return out;
}
