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
 */
export function reoriented(base: readonly number[], detail: readonly number[], out: Float64Array): void {
  const [tx, ty, tz] = [base[0], base[1], base[2] + 1];
  const [ux, uy, uz] = [-detail[0], -detail[1], detail[2]];
  const k = (tx * ux + ty * uy + tz * uz) / Math.max(1e-6, tz);
  const [x, y, z] = [tx * k - ux, ty * k - uy, tz * k - uz];
  const l = Math.sqrt(x * x + y * y + z * z) || 1;
  out[0] = x / l;
  out[1] = y / l;
  out[2] = z / l;
}
