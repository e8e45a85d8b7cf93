import type { CutAxes } from './cut-repeats.ts';

/** A hair of a repeat: lines nearer than this to a corner are on it. */
const HAIR = 1e-5;

export interface RepeatLineOptions {
  faces: Iterable<number>;
  axes?: CutAxes;
  most?: number;
}

/**
 * The lines on a surface along which its texture begins again: where `cutAtRepeats` would cut.
 * @param positions (x, y, z) of each vertex @param indices three a face @param uv (u, v) of each corner
 * @param faces that are looked at @param axes along which it would be cut @param most lines that are returned at most
 * @returns (x, y, z) of both ends of each line
 */
export function repeatLines(
  positions: Float32Array,
  indices: Uint32Array,
  uv: Float32Array,
  { faces, axes = 'both', most = 200_000 }: RepeatLineOptions,
): Float32Array {
  const out: number[] = [];
  const ways = [0, 1].filter((axis) => axes === 'both' || axes === 'uv'[axis]);
  for (const face of faces)
    for (const axis of ways) {
      const t = [0, 1, 2].map((k) => uv[face * 6 + 2 * k + axis]);
      const [low, high] = [Math.min(...t), Math.max(...t)];
      for (let at = Math.ceil(low + HAIR); at <= high - HAIR; at++) {
        if (out.length >= most * 6) return Float32Array.from(out);
        for (let k = 0; k < 3; k++) {
          const [a, b] = [t[k] - at, t[(k + 1) % 3] - at];
          // A corner on the line belongs to the side that leaves it upwards.
          if (a < 0 === b < 0) continue;
          const s = a / (a - b);
          const [p, q] = [indices[face * 3 + k] * 3, indices[face * 3 + ((k + 1) % 3)] * 3];
          for (let i = 0; i < 3; i++) out.push(positions[p + i] + s * (positions[q + i] - positions[p + i]));
        }
      }
    }
  return Float32Array.from(out);
}
