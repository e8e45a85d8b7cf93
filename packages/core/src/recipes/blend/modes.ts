import type { BlendMode } from '../../decisions/recipe/recipe.ts';

/** What a value becomes where a line covers it by a share. @param v that is there @param look that comes @param m share, 0 … 1 */
export function blended(mode: BlendMode, v: number, look: number, m: number): number {
  switch (mode) {
    case 'replace':
      return v + (look - v) * m;
    case 'multiply':
      return v * (1 + (look - 1) * m);
    case 'add':
      return v + look * m;
    case 'lighten':
      return v + (Math.max(v, look) - v) * m;
    case 'darken':
      return v + (Math.min(v, look) - v) * m;
  }
}

/**
 * Lays a detail normal over a base one, both in the same frame: the base is kept as it is where the detail is flat (Barré-Brisebois & Hill 2012,
 * "Blending in Detail", reoriented normal mapping).
 * @param o, d where the two begin
 */
export function reoriented(
  base: Float32Array,
  o: number,
  detail: Float32Array | Float64Array,
  d: number,
  out: Float64Array,
): void {
  const tx = base[o];
  const ty = base[o + 1];
  const tz = base[o + 2] + 1;
  const ux = -detail[d];
  const uy = -detail[d + 1];
  const uz = detail[d + 2];
  const k = (tx * ux + ty * uy + tz * uz) / Math.max(1e-6, tz);
  const x = tx * k - ux;
  const y = ty * k - uy;
  const z = tz * k - uz;
  const scale = 1 / (Math.sqrt(x * x + y * y + z * z) || 1);
  out[0] = x * scale;
  out[1] = y * scale;
  out[2] = z * scale;
}
