import type { TextureUse } from '../scene/material.ts';
import type { Part } from '../scene/model.ts';

/** Layout UVs of a part in texels: texture transform applied, V down. */
export function layoutCoordinates(
  part: Pick<Part, 'uvs'>,
  use: Pick<TextureUse, 'uvSet' | 'transform'>,
  size: [number, number],
): Float64Array {
  const uv = part.uvs[use.uvSet] as Float32Array;
  const [a, b, c, d, e, f] = use.transform;
  const out = new Float64Array(uv.length);
  for (let i = 0; i < uv.length; i += 2) {
    out[i] = (a * uv[i] + c * uv[i + 1] + e) * size[0];
    out[i + 1] = (b * uv[i] + d * uv[i + 1] + f) * size[1];
  }
  return out;
}
