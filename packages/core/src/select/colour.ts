import { difference, type Lab, toLab } from '../image/oklab.ts';
import type { FaceSet } from './faces.ts';

/** A picture as a browser gives it: R G B A, 8 bit. */
export interface Pixels {
  width: number;
  height: number;
  data: ArrayLike<number>;
}

/**
 * Faces of one slot that show nearly the colour that one face shows in its middle; textures repeat.
 * @param uv (u, v) of each corner, V down @param slots of each face
 * @param range greatest ΔE OK, see `difference`
 */
export function facesOfColour(
  uv: Float32Array,
  slots: ArrayLike<number>,
  face: number,
  picture: Pixels,
  range: number,
): FaceSet {
  const wanted = colourOf(uv, face, picture);
  const out = new Uint8Array(slots.length);
  for (let f = 0; f < slots.length; f++) {
    if (slots[f] !== slots[face]) continue;
    if (difference(colourOf(uv, f, picture), wanted) <= range) out[f] = 1;
  }
  return out;
}

function colourOf(uv: Float32Array, face: number, { width, height, data }: Pixels): Lab {
  const middle = (k: number) => (uv[face * 6 + k] + uv[face * 6 + 2 + k] + uv[face * 6 + 4 + k]) / 3;
  const texel = (v: number, size: number) => Math.min(size - 1, Math.floor((v - Math.floor(v)) * size));
  const o = (texel(middle(1), height) * width + texel(middle(0), width)) * 4;
  return toLab([data[o] / 255, data[o + 1] / 255, data[o + 2] / 255]);
}
