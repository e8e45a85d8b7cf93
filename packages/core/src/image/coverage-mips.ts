import { buildLevels, type LevelSet, levelCount, levelOffsets, levelSetLength } from '@wembrel/kernels/sample';

/** One level of a map with one channel. */
export interface CoverageLevel {
  width: number;
  height: number;
  data: Uint8Array;
}

/**
 * Levels 1 … of an opacity map for alpha testing: means of the level above, scaled so that the share of texels at or above the cutoff stays what it is at
 * full size. Means alone make thin things fade away in the distance. Method: alpha is scaled per level until coverage agrees (Castaño 2010), here by the exact quantile.
 * @param alpha 0 … 255 a texel @param cutoff 0 … 1, not 0
 */
export function coverageMips(alpha: Uint8Array, width: number, height: number, cutoff: number): CoverageLevel[] {
  const least = cutoff * 255;
  let covered = 0;
  for (const a of alpha) if (a >= least) covered++;
  const share = covered / Math.max(1, alpha.length);
  const levels = levelCount(width, height);
  const set: LevelSet = {
    width,
    height,
    levels,
    offsets: levelOffsets(width, height, levels),
    data: new Float32Array(levelSetLength(width, height, levels)),
    alphaWeighted: false,
  };
  for (let i = 0; i < alpha.length; i++) set.data[i * 4] = alpha[i];
  buildLevels(set);
  return set.offsets.slice(1).map((at, i) => {
    const [w, h] = [width, height].map((n) => Math.max(1, n >> (i + 1)));
    const level = Float32Array.from({ length: w * h }, (_, k) => set.data[at + k * 4]);
    return { width: w, height: h, data: scaled(level, share, least) };
  });
}

function scaled(level: Float32Array, share: number, least: number): Uint8Array {
  const wanted = Math.round(share * level.length);
  const plain = Uint8Array.from(level, Math.round);
  if (plain.reduce((sum, a) => sum + Number(a >= least), 0) === wanted) return plain;
  // The texel that is just covered decides the scale.
  const edge = wanted > 0 ? level.slice().sort()[level.length - wanted] : 0;
  const by = wanted > 0 && edge > 0 ? Math.ceil(least) / edge : 1;
  const below = Math.ceil(least) - 1;
  return Uint8Array.from(level, (a) => {
    const v = Math.min(255, Math.round(a * by));
    if (wanted === 0) return Math.min(v, below);
    return edge > 0 && a < edge ? Math.min(v, below) : v;
  });
}
