import type { NoiseKind } from '../../decisions/recipe/condition.ts';

/**
 * Noise in space: from whole numbers by a hash, with plain arithmetic, so that one point has one value wherever it is asked for. Values 0 … 1.
 * Value noise and its ridges after Perlin (1985) with his later fade (2002); cells after Worley (1996).
 */
export interface NoiseSettings {
  kind: NoiseKind;
  layers: number;
  seed: number;
}

/** Cells after which noise repeats along x, y and z; 0: never. */
export type NoisePeriod = readonly [number, number, number];

export const NO_PERIOD: NoisePeriod = [0, 0, 0];

/** Layered value noise hardly leaves the middle: it is spread by so much around it, so that its values take the whole range. */
const SPREAD = 1.9;

/** 0 … 2³² of a corner of the lattice, from its three parts multiplied already. */
function hash(x: number, y: number, z: number, seed: number): number {
  let h = x ^ y ^ z ^ seed;
  h = Math.imul(h ^ (h >>> 15), 0x85ebca6b);
  h = Math.imul(h ^ (h >>> 13), 0xc2b2ae35);
  return (h ^ (h >>> 16)) >>> 0;
}

const UNIT = 1 / 4294967296;
const alongX = (i: number): number => Math.imul(i, 0x27d4eb2d);
const alongY = (i: number): number => Math.imul(i, 0x165667b1);
const alongZ = (i: number): number => Math.imul(i, 0x5bd1e995);
const seeded = (seed: number): number => Math.imul(seed, 0x9e3779b1);

const fade = (t: number): number => t * t * t * (t * (t * 6 - 15) + 10);

const wrapped = (i: number, period: number): number => (period > 0 ? ((i % period) + period) % period : i);

/** One layer of value noise; x y z in cells, its periods as well. */
function valueNoise(x: number, y: number, z: number, seed: number, px: number, py: number, pz: number): number {
  const xi = Math.floor(x);
  const yi = Math.floor(y);
  const zi = Math.floor(z);
  const fx = fade(x - xi);
  const fy = fade(y - yi);
  const fz = fade(z - zi);
  const x0 = alongX(wrapped(xi, px));
  const x1 = alongX(wrapped(xi + 1, px));
  const y0 = alongY(wrapped(yi, py));
  const y1 = alongY(wrapped(yi + 1, py));
  const z0 = alongZ(wrapped(zi, pz));
  const z1 = alongZ(wrapped(zi + 1, pz));
  const s = seeded(seed);
  const a = hash(x0, y0, z0, s) * (1 - fx) + hash(x1, y0, z0, s) * fx;
  const b = hash(x0, y1, z0, s) * (1 - fx) + hash(x1, y1, z0, s) * fx;
  const c = hash(x0, y0, z1, s) * (1 - fx) + hash(x1, y0, z1, s) * fx;
  const d = hash(x0, y1, z1, s) * (1 - fx) + hash(x1, y1, z1, s) * fx;
  return ((a * (1 - fy) + b * fy) * (1 - fz) + (c * (1 - fy) + d * fy) * fz) * UNIT;
}

/** Distance to the nearest of the points that lie by chance one in each cell, 1 at a cell's width. */
function cellular(x: number, y: number, z: number, seed: number, px: number, py: number, pz: number): number {
  const xi = Math.floor(x);
  const yi = Math.floor(y);
  const zi = Math.floor(z);
  const [s, t, u] = [seeded(seed), seeded(seed + 101), seeded(seed + 202)];
  let best = Infinity;
  for (let k = -1; k <= 1; k++) {
    const cz = alongZ(wrapped(zi + k, pz));
    for (let j = -1; j <= 1; j++) {
      const cy = alongY(wrapped(yi + j, py));
      for (let i = -1; i <= 1; i++) {
        const cx = alongX(wrapped(xi + i, px));
        const dx = xi + i + hash(cx, cy, cz, s) * UNIT - x;
        const dy = yi + j + hash(cx, cy, cz, t) * UNIT - y;
        const dz = zi + k + hash(cx, cy, cz, u) * UNIT - z;
        const d = dx * dx + dy * dy + dz * dz;
        if (d < best) best = d;
      }
    }
  }
  return Math.min(1, Math.sqrt(best));
}

/**
 * @param x, y, z place in cells of the largest layer @param period in those cells
 * @returns 0 … 1
 */
export function noiseAt(
  x: number,
  y: number,
  z: number,
  settings: NoiseSettings,
  period: NoisePeriod = NO_PERIOD,
): number {
  const { kind, layers, seed } = settings;
  let sum = 0;
  let weight = 0;
  let k = 1;
  let scale = 1;
  const of = kind === 'cellular' ? cellular : valueNoise;
  for (let layer = 0; layer < layers; layer++) {
    // Layers are moved against each other, or their lattices would meet in the origin.
    const shift = layer * 17.31;
    const own = seed + layer * 7919;
    const v = of(
      x * scale + shift,
      y * scale + shift,
      z * scale + shift,
      own,
      period[0] * scale,
      period[1] * scale,
      period[2] * scale,
    );
    sum += k * (kind === 'ridged' ? 1 - Math.abs(2 * v - 1) : v);
    weight += k;
    k *= 0.5;
    scale *= 2;
  }
  const mean = sum / weight;
  if (kind !== 'value') return mean;
  const wide = 0.5 + (mean - 0.5) * SPREAD;
  return wide <= 0 ? 0 : wide >= 1 ? 1 : wide;
}
