import { hash01 } from '../../math/hash.ts';

/** Side of the pattern, texels. */
const SIDE = 32;

let pattern: Float64Array | null = null;

/**
 * Blue noise by void and cluster (Ulichney 1993), on a square that continues itself: each texel's rank, evenly in 0 … 1. Always the same.
 */
function blueNoise(): Float64Array {
  pattern ??= make();
  return pattern;
}

function make(): Float64Array {
  const n = SIDE * SIDE;
  const energy = new Float64Array(n);
  const taken = new Uint8Array(n);
  const rank = new Float64Array(n);
  const around = 8;
  const weights: { dx: number; dy: number; w: number }[] = [];
  for (let dy = -around; dy <= around; dy++)
    for (let dx = -around; dx <= around; dx++)
      weights.push({ dx, dy, w: Math.exp(-(dx * dx + dy * dy) / (2 * 1.9 * 1.9)) });
  const add = (i: number, sign: number) => {
    const x = i % SIDE;
    const y = (i - x) / SIDE;
    for (const { dx, dy, w } of weights) energy[((y + dy + SIDE) % SIDE) * SIDE + ((x + dx + SIDE) % SIDE)] += sign * w;
  };
  /** The texel in the largest void; a hash decides between equal ones. */
  const emptiest = (): number => {
    let best = -1;
    for (let i = 0; i < n; i++) if (!taken[i] && (best < 0 || energy[i] < energy[best] - 1e-12)) best = i;
    return best;
  };
  // A first scatter keeps the pattern from being a lattice.
  for (let k = 0; k < n / 10; k++) energy[Math.floor(hash01(k, 77) * n)] += 1e-3 * hash01(k, 78);
  for (let r = 0; r < n; r++) {
    const i = emptiest();
    taken[i] = 1;
    add(i, 1);
    rank[i] = (r + 0.5) / n;
  }
  return rank;
}

/** Offset of a texel's channel for dithering, in steps of the stored value: triangular, −1 … 1, mean 0. */
export function ditherAt(x: number, y: number, channel: number): number {
  const noise = blueNoise();
  // Channels read the pattern in places far apart, so that they do not move together.
  const i = ((y + channel * 29) & (SIDE - 1)) * SIDE + ((x + channel * 17) & (SIDE - 1));
  const v = noise[i] * 2 - 1;
  return v < 0 ? Math.sqrt(1 + v) - 1 : 1 - Math.sqrt(1 - v);
}
