import type { Raster } from './raster.ts';

/** What a normal map says of itself. */
export interface NormalCheck {
  /** −1 … 1: how well the slopes fit one height field with Y up (positive) or Y down (negative); near 0: cannot be determined. */
  yUp: number;
  /** Mean of R and G, 0 … 255: about 128 where normals were stored as plain numbers. */
  middle: [number, number];
  /** Share of texels whose vector is not of length 1 within 20 %. */
  crooked: number;
}

/** Strength from which the direction of Y is held to be known. */
export const SURE = 0.35;

/**
 * Looks at tangent-space normals. Slopes of a height field have no curl: ∂(slope along u)/∂v equals ∂(slope along v)/∂u; the
 * correlation of the two over the picture is positive when Y points up and negative when it points down.
 */
export function checkNormals(raster: Raster): NormalCheck {
  const { width, height, data } = raster;
  const full = raster.bits === 8 ? 255 : 65535;
  const step = Math.max(1, Math.floor(Math.max(width, height) / 1024));
  let ab = 0;
  let aa = 0;
  let bb = 0;
  let r = 0;
  let g = 0;
  let crooked = 0;
  let n = 0;
  const slope = (x: number, y: number, c: 0 | 1): number => {
    const i = ((y % height) * width + (x % width)) * 4;
    const z = Math.max(0.1, (data[i + 2] / full) * 2 - 1);
    return ((data[i + c] / full) * 2 - 1) / z;
  };
  for (let y = 0; y + 1 < height; y += step)
    for (let x = 0; x + 1 < width; x += step) {
      const i = (y * width + x) * 4;
      const v = [(data[i] / full) * 2 - 1, (data[i + 1] / full) * 2 - 1, (data[i + 2] / full) * 2 - 1];
      const length = Math.sqrt(v[0] ** 2 + v[1] ** 2 + v[2] ** 2);
      if (Math.abs(length - 1) > 0.2) crooked++;
      r += data[i] / full;
      g += data[i + 1] / full;
      n++;
      // Height falls along +u where X is positive; along +v (down) it rises where Y, up, is positive.
      const a = -(slope(x, y + 1, 0) + slope(x + 1, y + 1, 0) - slope(x, y, 0) - slope(x + 1, y, 0));
      const b = slope(x + 1, y, 1) + slope(x + 1, y + 1, 1) - slope(x, y, 1) - slope(x, y + 1, 1);
      ab += a * b;
      aa += a * a;
      bb += b * b;
    }
  if (n === 0) return { yUp: 0, middle: [127.5, 127.5], crooked: 0 };
  // Quantisation alone makes slopes of about 1/127; below that nothing can be determined.
  const enough = Math.sqrt(aa * bb) / n > 4 * (2 / 255) ** 2;
  return {
    yUp: enough ? ab / Math.sqrt(aa * bb) : 0,
    middle: [(r / n) * 255, (g / n) * 255],
    crooked: crooked / n,
  };
}
