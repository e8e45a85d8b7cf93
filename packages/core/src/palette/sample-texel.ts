import { Wrap } from '@wembrel/kernels/sample';
import type { Raster } from '../image/raster.ts';

/** The texel at (u, v), V down, as stored, 0 … 1: no blending, as a palette is read. */
export function sampleTexel(raster: Raster, u: number, v: number, wrapS: number, wrapT: number): number[] {
  const x = wrapped(Math.floor(u * raster.width), raster.width, wrapS);
  const y = wrapped(Math.floor(v * raster.height), raster.height, wrapT);
  const o = (y * raster.width + x) * 4;
  const full = raster.bits === 8 ? 255 : 65535;
  return [raster.data[o] / full, raster.data[o + 1] / full, raster.data[o + 2] / full, raster.data[o + 3] / full];
}

function wrapped(i: number, size: number, wrap: number): number {
  if (wrap === Wrap.clamp) return Math.min(size - 1, Math.max(0, i));
  const period = wrap === Wrap.mirror ? 2 * size : size;
  const at = ((i % period) + period) % period;
  return at < size ? at : 2 * size - 1 - at;
}
