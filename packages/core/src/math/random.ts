/*
 * Random numbers from a seed, the same everywhere. There are two generators because results are stored by their seeds: a project's layouts were found
 * with the one, its mixes of tiles with the other.
 */

/** Numbers in 0 ≤ x < 1 (xorshift32, Marsaglia 2003). @param fallback takes the place of a seed of 0, which gives only zeros */
export function xorshift32(seed: number, fallback = 0x1234567): () => number {
  let s = seed | 0 || fallback;
  return () => {
    s ^= s << 13;
    s ^= s >>> 17;
    s ^= s << 5;
    return (s >>> 0) / 4294967296;
  };
}

/** Numbers in 0 ≤ x < 1 (mulberry32). */
export function mulberry32(seed: number): () => number {
  let s = seed | 0;
  return () => {
    s = (s + 0x6d2b79f5) | 0;
    let t = Math.imul(s ^ (s >>> 15), 1 | s);
    t = (t + Math.imul(t ^ (t >>> 7), 61 | t)) ^ t;
    return ((t ^ (t >>> 14)) >>> 0) / 4294967296;
  };
}
