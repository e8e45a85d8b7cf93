import { hashPair } from './hash.ts';

/** More than two sides meet there. */
const MORE = -2;

/**
 * The side beyond each side of triangles (triangle · 3 + k, from corner k to the next), by a table of sides with open addressing: sides that are
 * met exactly twice lie beyond each other, whichever way they run; −1 for all others.
 * @param corners place of each corner, three a triangle
 */
export function twinHalfEdges(corners: Uint32Array): Int32Array {
  let size = 16;
  while (size < corners.length * 2) size *= 2;
  const first = new Int32Array(size).fill(-1);
  const second = new Int32Array(size).fill(-1);
  const end = (s: number) => corners[s % 3 === 2 ? s - 2 : s + 1];
  for (let s = 0; s < corners.length; s++) {
    const [a, b] = [corners[s], end(s)];
    if (a === b) continue;
    const low = Math.min(a, b);
    const high = Math.max(a, b);
    let h = hashPair(low, high) & (size - 1);
    while (first[h] >= 0) {
      const [c, d] = [corners[first[h]], end(first[h])];
      if (Math.min(c, d) === low && Math.max(c, d) === high) break;
      h = (h + 1) & (size - 1);
    }
    if (first[h] < 0) first[h] = s;
    else second[h] = second[h] === -1 ? s : MORE;
  }
  const twin = new Int32Array(corners.length).fill(-1);
  for (let h = 0; h < size; h++) {
    if (second[h] < 0) continue;
    twin[first[h]] = second[h];
    twin[second[h]] = first[h];
  }
  return twin;
}
