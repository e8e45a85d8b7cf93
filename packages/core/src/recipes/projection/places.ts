import { BATCH, type Samples } from '../samples.ts';

/** Where a look is read for some samples: each at most once a pass. */
export interface Places {
  count: number;
  /** Sample of each place, and how much it counts. */
  readonly of: Uint32Array;
  readonly weight: Float64Array;
  /** Place in the picture, m from its origin: to the right and down. */
  readonly s: Float64Array;
  readonly t: Float64Array;
  /** Directions of the picture in object space: to the right x y z, up x y z. */
  readonly frame: Float64Array;
}

export const newPlaces = (): Places => ({
  count: 0,
  of: new Uint32Array(BATCH),
  weight: new Float64Array(BATCH),
  s: new Float64Array(BATCH),
  t: new Float64Array(BATCH),
  frame: new Float64Array(BATCH * 6),
});

/** How a picture comes onto a surface, in one pass or several. */
export interface Projection {
  /** Size of one picture where it is laid once, m; null where it repeats. */
  once: readonly [number, number] | null;
  /** Later passes lie over earlier ones; else all are summed by their weights. */
  over: boolean;
  /** @param needed nobody asks for samples where it is 0 @returns whether a further pass may have places */
  fill(samples: Samples, pass: number, places: Places, needed: Float32Array | null): boolean;
}

type Vec = readonly [number, number, number];

/** Of length 1. */
function unitOf([x, y, z]: Vec): [number, number, number] {
  const l = Math.sqrt(x * x + y * y + z * z) || 1;
  return [x / l, y / l, z / l];
}

export const dotOf = (a: Vec, b: Vec): number => a[0] * b[0] + a[1] * b[1] + a[2] * b[2];

const crossVec = (a: Vec, b: Vec): [number, number, number] => [
  a[1] * b[2] - a[2] * b[1],
  a[2] * b[0] - a[0] * b[2],
  a[0] * b[1] - a[1] * b[0],
];

/** Right and up of a picture that is looked at against a direction, turned counter-clockwise. @param degrees of the turn */
export function pictureFrame(direction: Vec, up: Vec, degrees: number): { right: Vec; up: Vec; towards: Vec } {
  const towards = unitOf(direction);
  const along = dotOf(up, towards);
  let upright: Vec = [up[0] - along * towards[0], up[1] - along * towards[1], up[2] - along * towards[2]];
  // An upper edge that would lie along the way of looking is taken from an axis that does not.
  if (Math.sqrt(dotOf(upright, upright)) < 1e-6) {
    const other: Vec = Math.abs(towards[1]) < 0.9 ? [0, 1, 0] : [0, 0, -1];
    const k = dotOf(other, towards);
    upright = [other[0] - k * towards[0], other[1] - k * towards[1], other[2] - k * towards[2]];
  }
  const u = unitOf(upright);
  const r = crossVec(u, towards);
  const c = Math.cos((degrees * Math.PI) / 180);
  const s = Math.sin((degrees * Math.PI) / 180);
  return {
    right: [c * r[0] + s * u[0], c * r[1] + s * u[1], c * r[2] + s * u[2]],
    up: [c * u[0] - s * r[0], c * u[1] - s * r[1], c * u[2] - s * r[2]],
    towards,
  };
}
