import { mulberry32 } from '../math/random.ts';
/** A tile that some of a group's faces take. */
export interface MixPart {
  tile: string;
  /** Share of the group, relative to the others. */
  share: number;
}

/**
 * Which tile each of so many faces takes: as many of each as its share says (largest remainders), dealt out by a seed.
 * @returns positions in `parts`
 */
export function mixTiles(parts: readonly MixPart[], faces: number, seed: number): Uint32Array {
  const total = parts.reduce((sum, part) => sum + part.share, 0);
  const wished = parts.map((part) => (total > 0 ? (faces * part.share) / total : 0));
  const counts = wished.map(Math.floor);
  const left = faces - counts.reduce((sum, count) => sum + count, 0);
  wished
    .map((w, i) => ({ rest: w - counts[i], i }))
    .sort((a, b) => b.rest - a.rest || a.i - b.i)
    .slice(0, left)
    .forEach(({ i }) => {
      counts[i]++;
    });
  const out = Uint32Array.from(counts.flatMap((count, i) => new Array<number>(count).fill(i)));
  const random = mulberry32(seed);
  for (let i = out.length - 1; i > 0; i--) {
    const j = Math.floor(random() * (i + 1));
    [out[i], out[j]] = [out[j], out[i]];
  }
  return out;
}

/** Quarter turns of so many faces, by a seed. */
export function mixTurns(faces: number, seed: number): Uint8Array {
  const random = mulberry32(seed ^ 0x5bd1e995);
  return Uint8Array.from({ length: faces }, () => Math.floor(random() * 4));
}

/** `Slab:0.9,Cracked:0.1` as parts. @throws Error with a sentence */
export function parseMix(text: string): MixPart[] {
  return text.split(',').map((piece) => {
    const found = /^(.+?)(?::([\d.]+))?$/.exec(piece.trim());
    const share = found?.[2] === undefined ? 1 : Number(found[2]);
    if (!found || !(share >= 0)) throw new Error(`"${piece}" is not TILE or TILE:SHARE`);
    return { tile: found[1], share };
  });
}
