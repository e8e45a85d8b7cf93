import { nearestFeature } from '@wembrel/kernels/nearest';
import { fitsPattern } from '../../decisions/patterns.ts';
import { linearToLab } from '../../image/oklab.ts';
import type { Raster } from '../../image/raster.ts';
import { decodeTable } from '../../image/srgb.ts';

/** IDs of the texels of a sheet, R + 256 G + 65536 B. */
export interface IdMap {
  texels: Uint32Array;
  /** All that occur, the most frequent first. */
  colours: readonly number[];
  /** What they are called, where that is known. */
  names: Readonly<Record<number, string>>;
}

/** What was read from a picture of IDs. */
export interface IdPicture extends IdMap {
  /** Texels whose colour is none of the IDs: mixed ones along borders, mostly. */
  odd: number;
}

/** Colours nearer than this in OKLab are one ID. */
const NEAR = 0.05;
/** Within an ID neighbours differ by less; along a soft border they do not. */
const WITHIN = 0.02;
/** Texels all of whose neighbours are alike, that an ID has at the least: what is one texel wide is a border. */
const LEAST_CORE = 4;
/** More colours than this are no IDs, nor is a picture of which a larger share than this has the colour of none. */
const MOST_IDS = 256;
const MOST_ODD = 0.3;

interface Seed {
  code: number;
  lab: readonly number[];
}

/**
 * Reads a picture of IDs that was drawn elsewhere: near colours are gathered in OKLab around the most frequent ones, each an ID with exactly that colour; texels of no such
 * colour, as soft borders have, take the ID of the nearest texel that has one. Clear texels belong to none.
 * @throws RangeError when it has too many colours, or hardly an area of one colour, as a photograph has
 */
export function readIdPicture({ width, height, bits, data }: Raster): IdPicture {
  const n = width * height;
  const shift = bits === 16 ? 8 : 0;
  const codes = new Uint32Array(n);
  const clear = 0xffffffff;
  for (let i = 0; i < n; i++) {
    const q = i * 4;
    const opaque = data[q + 3] >> shift >= 128;
    const code = opaque ? (data[q] >> shift) | ((data[q + 1] >> shift) << 8) | ((data[q + 2] >> shift) << 16) : clear;
    codes[i] = code;
  }
  const { seeds, idOf } = gathered(coreCounts(codes, width, height, clear), codes);
  if (seeds.length > MOST_IDS)
    throw new RangeError(`it has more than ${MOST_IDS} colours, so that it is no picture of IDs`);
  const known = new Uint8Array(n);
  const texels = new Uint32Array(new SharedArrayBuffer(n * 4));
  let odd = 0;
  for (let i = 0; i < n; i++) {
    const id = idOf.get(codes[i]);
    if (id === undefined) {
      if (codes[i] !== clear) odd++;
      continue;
    }
    known[i] = 1;
    texels[i] = id;
  }
  if (odd > n * MOST_ODD) throw new RangeError('hardly any area of it has one colour, so that it is no picture of IDs');
  const nearest = nearestFeature(known, width, height);
  for (let i = 0; i < n; i++) if (!known[i] && nearest[i] >= 0) texels[i] = texels[nearest[i]];
  return { texels, colours: seeds.map(({ code }) => code), names: {}, odd };
}

/** How many texels of each colour have only such neighbours as are nearly the same. */
function coreCounts(codes: Uint32Array, width: number, height: number, clear: number): Map<number, number> {
  const counts = new Map<number, number>();
  const alike = new Map<number, boolean>();
  const isAlike = (a: number, b: number): boolean => {
    if (a === b) return true;
    if (a === clear || b === clear) return false;
    const key = Math.min(a, b) * 0x1000000 + Math.max(a, b);
    const known = alike.get(key) ?? distance(labOf(a), labOf(b)) < WITHIN;
    if (alike.size < 1e6) alike.set(key, known);
    return known;
  };
  for (let y = 1; y + 1 < height; y++)
    for (let x = 1; x + 1 < width; x++) {
      const i = y * width + x;
      if (codes[i] === clear) continue;
      let core = true;
      for (let k = 0; k < 9 && core; k++)
        core = isAlike(codes[i], codes[i + (Math.floor(k / 3) - 1) * width + (k % 3) - 1]);
      if (core) counts.set(codes[i], (counts.get(codes[i]) ?? 0) + 1);
    }
  return counts;
}

/** Seeds from the most frequent colours on, and the ID of every colour that is near one. */
function gathered(
  cores: ReadonlyMap<number, number>,
  codes: Uint32Array,
): { seeds: Seed[]; idOf: Map<number, number> } {
  const seeds: Seed[] = [];
  const idOf = new Map<number, number>();
  const nearestSeed = (lab: readonly number[]): Seed | null => {
    let [best, least] = [null as Seed | null, NEAR];
    for (const seed of seeds) {
      const d = distance(seed.lab, lab);
      if (d < least) [best, least] = [seed, d];
    }
    return best;
  };
  // Cores of all that is near one count together, since noise spreads an ID over many colours.
  const gatheredCores = new Map<Seed, number>();
  for (const [code, count] of [...cores].sort(([a, m], [b, k]) => k - m || a - b)) {
    const lab = labOf(code);
    let seed = nearestSeed(lab);
    if (!seed) {
      seed = { code, lab };
      seeds.push(seed);
      if (seeds.length > MOST_IDS * 4) break;
    }
    gatheredCores.set(seed, (gatheredCores.get(seed) ?? 0) + count);
  }
  const kept = seeds.filter((seed) => (gatheredCores.get(seed) as number) >= LEAST_CORE);
  seeds.splice(0, seeds.length, ...kept);
  for (const code of new Set(codes)) {
    const seed = code > 0xffffff ? null : nearestSeed(labOf(code));
    if (seed) idOf.set(code, seed.code);
  }
  return { seeds, idOf };
}

const distance = (a: readonly number[], b: readonly number[]) => Math.hypot(a[0] - b[0], a[1] - b[1], a[2] - b[2]);

function labOf(code: number): number[] {
  const linear = decodeTable(8);
  const out = [0, 0, 0];
  linearToLab(linear[code & 255], linear[(code >> 8) & 255], linear[code >> 16], out);
  return out;
}

/** How far a colour that somebody names may be from an ID's own, in OKLab. */
const NAMED = 0.08;

/** The ID that is meant by a colour, or null where none is near. */
export function meantId(colours: readonly number[], code: number): number | null {
  if (colours.includes(code)) return code;
  const lab = labOf(code);
  let [best, least] = [null as number | null, NAMED];
  for (const colour of colours) {
    const d = distance(labOf(colour), lab);
    if (d < least) [best, least] = [colour, d];
  }
  return best;
}

/** The IDs that are meant by colours, or by patterns of names. */
export function chosenIds(
  map: IdMap,
  { colours, names }: { colours: readonly number[]; names: readonly string[] },
): Set<number> {
  const byColour = colours.flatMap((code) => meantId(map.colours, code) ?? []);
  const byName = map.colours.filter((code) => names.some((pattern) => fitsPattern(map.names[code] ?? '', pattern)));
  return new Set([...byColour, ...byName]);
}

/** A map of IDs at another size: each texel takes the one under its middle. */
export function resizedIds(
  texels: Uint32Array,
  from: readonly [number, number],
  to: readonly [number, number],
): Uint32Array {
  const out = new Uint32Array(new SharedArrayBuffer(to[0] * to[1] * 4));
  for (let y = 0; y < to[1]; y++) {
    const row = Math.floor(((y + 0.5) * from[1]) / to[1]) * from[0];
    for (let x = 0; x < to[0]; x++) out[y * to[0] + x] = texels[row + Math.floor(((x + 0.5) * from[0]) / to[0])];
  }
  return out;
}
