/** Hashes of whole numbers and texts: for tables and for what is spread by chance, never for identity. The same everywhere. */

/** 32 bits, each of which depends on all (after Jenkins' and Wang's integer hashes). */
export function mixBits(bits: number): number {
  let h = Math.imul(bits ^ 0x9e3779b9, 0x85ebca6b);
  h = Math.imul(h ^ (h >>> 13), 0xc2b2ae35);
  h = Math.imul(h ^ (h >>> 16), 0x27d4eb2f);
  return (h ^ (h >>> 15)) >>> 0;
}

/** For tables of pairs; the order counts. */
export function hashPair(a: number, b: number): number {
  let h = Math.imul(a ^ 0x9e3779b9, 0x85ebca6b);
  h = Math.imul(h ^ (h >>> 13) ^ b, 0xc2b2ae35);
  return h ^ (h >>> 16);
}

/** For tables of triples; the order counts. */
export function hashTriple(a: number, b: number, c: number): number {
  const h = Math.imul(hashPair(a, b) ^ c, 0x27d4eb2f);
  return h ^ (h >>> 15);
}

/** A number in 0 ≤ x < 1 from two whole numbers. */
export function hash01(a: number, b: number): number {
  let h = Math.imul(a ^ 0x9e3779b9, 0x85ebca6b) ^ Math.imul(b + 0x7f4a7c15, 0xc2b2ae35);
  h = Math.imul(h ^ (h >>> 15), 0x2c1b3c6d);
  h = Math.imul(h ^ (h >>> 12), 0x297a2d39);
  return ((h ^ (h >>> 15)) >>> 0) / 4294967296;
}

/** 32 bits from the UTF-16 units of a text (FNV-1a). */
export function hashText(text: string): number {
  let h = 2166136261;
  for (let i = 0; i < text.length; i++) h = Math.imul(h ^ text.charCodeAt(i), 16777619);
  return h >>> 0;
}
