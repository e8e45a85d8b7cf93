import { nearestFeature } from '@wembrel/kernels/nearest';
import type { SheetMaps } from './transfer.ts';
import { BEYOND } from './triangles.ts';

/**
 * Carries island colours outward by up to `padding` px: every texel outside takes the exact nearest island texel, ties to the
 * lowest index, so that padding from two sides meets in the middle of the gap. Texels farther away stay for `fillBeyond`.
 * @returns one byte a texel, in shared memory: 1 where islands or padding lie
 */
export function padSheet(maps: SheetMaps, padding: number): Uint8Array {
  const { width, height, owner } = maps;
  const known = new Uint8Array(new SharedArrayBuffer(width * height));
  for (let i = 0; i < owner.length; i++) known[i] = Number(owner[i] !== 0);
  if (padding <= 0) return known;
  // Where a texture was continued beyond its bay there is padding already, and it leads no farther.
  const continued = owner.some((o) => o >= BEYOND);
  const nearest = nearestFeature(continued ? owner.map((o) => (o >= BEYOND ? 0 : o)) : owner, width, height);
  const limit = padding * padding;
  for (let y = 0; y < height; y++)
    for (let x = 0; x < width; x++) {
      const i = y * width + x;
      const s = nearest[i];
      if (s < 0 || s === i || owner[i] >= BEYOND) continue;
      const dx = (s % width) - x;
      const dy = Math.floor(s / width) - y;
      if (dx * dx + dy * dy > limit) continue;
      known[i] = 1;
      for (let c = 0; c < 4; c++) maps.baseColor[i * 4 + c] = maps.baseColor[s * 4 + c];
      for (let c = 0; c < 3; c++) {
        maps.orm[i * 3 + c] = maps.orm[s * 3 + c];
        if (maps.normal) maps.normal[i * 3 + c] = maps.normal[s * 3 + c];
        if (maps.emissive) maps.emissive[i * 3 + c] = maps.emissive[s * 3 + c];
      }
    }
  return known;
}
