import type { LevelSet } from '@wembrel/kernels/sample';
import type { Affine, LevelSampler } from '@wembrel/kernels/sampler';
import { largerSingularValue } from '../math/singular-value.ts';
import type { TextureUse } from '../scene/material.ts';
import type { BakeTriangles } from './triangles.ts';

/** A texture as one material reads it. */
export interface TextureReader {
  set: LevelSet;
  use: TextureUse;
  /** Offset of its UV set in `triangles.uv`. */
  base: number;
  sampler: LevelSampler;
  /** Only the sum over a texel's samples matters, not each sample. */
  summed: boolean;
}

/** Source texels a texel of the sheet up to which a texture counts as not minified. */
export const COPIED_UP_TO = 1.001;

/** Source texels that one sheet texel spans on the triangle, along the worse axis. */
export function footprint(
  tri: BakeTriangles,
  t: number,
  textureReader: Pick<TextureReader, 'set' | 'use' | 'base'>,
): number {
  const { place, uv } = tri;
  const o = t * 6;
  const q = textureReader.base + o;
  const ux = place[o + 2] - place[o];
  const uy = place[o + 3] - place[o + 1];
  const vx = place[o + 4] - place[o];
  const vy = place[o + 5] - place[o + 1];
  const det = ux * vy - vx * uy;
  if (Math.abs(det) < 1e-12) return 0;
  const [a, b, cc, d] = textureReader.use.transform;
  const s = (i: number) => (a * uv[q + i] + cc * uv[q + i + 1]) * textureReader.set.width;
  const r = (i: number) => (b * uv[q + i] + d * uv[q + i + 1]) * textureReader.set.height;
  const s1 = s(2) - s(0);
  const s2 = s(4) - s(0);
  const r1 = r(2) - r(0);
  const r2 = r(4) - r(0);
  const sx = (s1 * vy - s2 * uy) / det;
  const sy = (s2 * ux - s1 * vx) / det;
  const rx = (r1 * vy - r2 * uy) / det;
  const ry = (r2 * ux - r1 * vx) / det;
  return largerSingularValue(sx, sy, rx, ry);
}

/** Whether a texture is not minified, so that it is read once a texel, in its middle: more samples would blur it. */
export function isCopied(triangles: BakeTriangles, t: number, textureReader: TextureReader): boolean {
  return footprint(triangles, t, textureReader) <= COPIED_UP_TO;
}

export function levelOfDetail(
  triangles: BakeTriangles,
  t: number,
  textureReader: TextureReader,
  perAxis: number,
): number {
  return Math.max(0, Math.log2(Math.max(1e-9, footprint(triangles, t, textureReader) / perAxis)));
}

/** Coordinates of a texture over the plane of a triangle on the sheet. */
export function affineOf({ place, uv }: BakeTriangles, t: number, textureReader: TextureReader, out: Affine): void {
  const o = t * 6;
  const p = textureReader.base + o;
  const [a, b, c, d, e, f] = textureReader.use.transform;
  const ux = place[o + 2] - place[o];
  const uy = place[o + 3] - place[o + 1];
  const vx = place[o + 4] - place[o];
  const vy = place[o + 5] - place[o + 1];
  const det = ux * vy - vx * uy;
  const s0 = a * uv[p] + c * uv[p + 1] + e;
  const t0 = b * uv[p] + d * uv[p + 1] + f;
  const s1 = a * uv[p + 2] + c * uv[p + 3] + e - s0;
  const t1 = b * uv[p + 2] + d * uv[p + 3] + f - t0;
  const s2 = a * uv[p + 4] + c * uv[p + 5] + e - s0;
  const t2 = b * uv[p + 4] + d * uv[p + 5] + f - t0;
  out.ux = (s1 * vy - s2 * uy) / det;
  out.uy = (s2 * ux - s1 * vx) / det;
  out.vx = (t1 * vy - t2 * uy) / det;
  out.vy = (t2 * ux - t1 * vx) / det;
  out.u0 = s0 - out.ux * place[o] - out.uy * place[o + 1];
  out.v0 = t0 - out.vx * place[o] - out.vy * place[o + 1];
}
