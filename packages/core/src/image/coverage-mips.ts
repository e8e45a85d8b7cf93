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
  const out: CoverageLevel[] = [];
  let above = Float64Array.from(alpha);
  let [w, h] = [width, height];
  while (w > 1 || h > 1) {
    const [nw, nh] = [Math.max(1, w >> 1), Math.max(1, h >> 1)];
    const level = new Float64Array(nw * nh);
    for (let y = 0; y < nh; y++)
      for (let x = 0; x < nw; x++) level[y * nw + x] = meanOf(above, w, h, x / nw, (x + 1) / nw, y / nh, (y + 1) / nh);
    out.push({ width: nw, height: nh, data: scaled(level, share, least) });
    above = level;
    [w, h] = [nw, nh];
  }
  return out;
}

/** Mean over a part of a level, told in shares of its sides; odd sizes weigh the covered share of each texel. */
function meanOf(a: Float64Array, w: number, h: number, x0: number, x1: number, y0: number, y1: number): number {
  let sum = 0;
  let weight = 0;
  for (let y = Math.floor(y0 * h); y < y1 * h; y++)
    for (let x = Math.floor(x0 * w); x < x1 * w; x++) {
      const k = (Math.min(x1 * w, x + 1) - Math.max(x0 * w, x)) * (Math.min(y1 * h, y + 1) - Math.max(y0 * h, y));
      if (k <= 0) continue;
      sum += k * a[y * w + x];
      weight += k;
    }
  return weight > 0 ? sum / weight : 0;
}

function scaled(level: Float64Array, share: number, least: number): Uint8Array {
  const wanted = Math.round(share * level.length);
  const plain = Uint8Array.from(level, Math.round);
  if (plain.reduce((n, a) => n + Number(a >= least), 0) === wanted) return plain;
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
