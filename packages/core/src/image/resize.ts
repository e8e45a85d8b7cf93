import type { PictureSense } from './near-duplicate.ts';
import type { Raster } from './raster.ts';
import { decodeTable, linearToSrgb } from './srgb.ts';

/**
 * A smaller copy: means over the area of each new texel, in linear light and weighted by alpha for colours, as vectors of length 1 for
 * normals, plainly for other data ("Colour and filtering").
 */
export function resizeRaster(raster: Raster, width: number, height: number, sense: PictureSense): Raster {
  const full = raster.bits === 8 ? 255 : 65535;
  const table = sense === 'colour' ? decodeTable(raster.bits) : null;
  const memory = new SharedArrayBuffer(width * height * 4 * (raster.bits / 8));
  const data = raster.bits === 8 ? new Uint8Array(memory) : new Uint16Array(memory);
  const kx = raster.width / width;
  const ky = raster.height / height;
  const sum = [0, 0, 0, 0];
  for (let y = 0; y < height; y++)
    for (let x = 0; x < width; x++) {
      const [x0, x1, y0, y1] = [x * kx, (x + 1) * kx, y * ky, (y + 1) * ky];
      sum.fill(0);
      let total = 0;
      for (let sy = Math.floor(y0); sy < Math.min(raster.height, Math.ceil(y1 - 1e-9)); sy++)
        for (let sx = Math.floor(x0); sx < Math.min(raster.width, Math.ceil(x1 - 1e-9)); sx++) {
          const w = (Math.min(sx + 1, x1) - Math.max(sx, x0)) * (Math.min(sy + 1, y1) - Math.max(sy, y0));
          const i = (sy * raster.width + sx) * 4;
          const a = raster.data[i + 3] / full;
          // A texel that is clear has no colour to give; where all are clear the plain mean is taken below.
          const k = table ? w * Math.max(a, 1e-4) : w;
          for (let c = 0; c < 3; c++) {
            const v = raster.data[i + c];
            sum[c] += k * (table ? table[v] : sense === 'normal' ? (v / full) * 2 - 1 : v / full);
          }
          sum[3] += w * a;
          total += k;
        }
      const o = (y * width + x) * 4;
      const area = (x1 - x0) * (y1 - y0);
      const length = sense === 'normal' ? Math.sqrt(sum[0] ** 2 + sum[1] ** 2 + sum[2] ** 2) || 1 : total;
      for (let c = 0; c < 3; c++) {
        const m = sum[c] / length;
        data[o + c] = Math.round(full * (table ? linearToSrgb(m) : sense === 'normal' ? m * 0.5 + 0.5 : m));
      }
      data[o + 3] = Math.round((full * sum[3]) / area);
    }
  return { width, height, bits: raster.bits, data };
}
