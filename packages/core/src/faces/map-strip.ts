import type { FaceEditOf } from '../decisions/face-decisions.ts';
import { boxAround } from '../math/box.ts';
import { cosineAt, partOfSurface, type Surface, surfacePieces } from '../mesh/surface.ts';
import type { TextureLay } from '../scene/texture-lay.ts';
import type { Flat } from '../unwrap/flatten.ts';
import { stripCharts } from '../unwrap/quads.ts';
import { type Chosen, surfaceOfChosen } from './face-table.ts';
import { directionsOf, flattenWhole, mapFlat, turnedToLongSide, writeFlat } from './lay-flat.ts';
import { turnedPieces } from './strip-turns.ts';

/** How pieces came to lie on a strip. */
export interface StripFigures {
  pieces: number;
  /** Pieces that are exact rectangles. */
  straight: number;
  /** Across the strip, m: least, middle, greatest. What the strip's height should follow. */
  widths: [number, number, number];
  /** Faces that came out turned over or without area. */
  flipped: number;
  /** Pieces that should end mirrored and have no edge across near their middle. */
  unmirrored: number;
  /** Pieces that show less than 4 texels of the picture along or across. */
  thin: number;
  /** See `turnedPieces`. */
  turned: number;
}

/** Texels below which a piece is thin: filtering mixes it with what lies beside it. */
const THIN = 4;

type StripOptions = Pick<
  FaceEditOf<'strip'>,
  'top' | 'bottom' | 'bend' | 'straight' | 'fit' | 'amount' | 'offset' | 'ends' | 'along' | 'flip'
>;

/**
 * Lays faces along a strip of a texture. They are parted where the surface bends sharply; rows of quads become rectangles, which also
 * takes a strip around corners, anything else is laid flat and turned with its long side along the strip. The strip's upper edge is where
 * the surface is higher, else on the left of the way along the greatest axis.
 * @param picture width and height of the texture, px @param layOf how the textures of a face are laid
 */
export function mapOntoStrip(
  chosen: readonly Chosen[],
  options: StripOptions,
  picture: [number, number],
  layOf: (c: Chosen) => (face: number) => TextureLay,
): StripFigures {
  const widths: number[] = [];
  const out: StripFigures = {
    pieces: 0,
    straight: 0,
    widths: [0, 0, 0],
    flipped: 0,
    unmirrored: 0,
    thin: 0,
    turned: 0,
  };
  const least = Math.cos((options.bend * Math.PI) / 180) - 1e-9;
  for (const c of chosen) {
    const surface = surfaceOfChosen(c);
    const whole = options.bend >= 180;
    const pieces: Flat[] = [];
    for (const piece of surfacePieces(surface, (s, b) => whole || cosineAt(surface, s, b) >= least)) {
      const { flats, straight, flipped } = laid(surface, piece, options.straight);
      out.flipped += flipped;
      for (const raw of flats) {
        const flat = oriented(surface, raw, options);
        pieces.push(flat);
        const [u0, u1, v0, v1] = boxAround([flat.uv]);
        const [length, width] = [u1 - u0, v1 - v0];
        out.pieces++;
        if (straight) out.straight++;
        if (!(length > 0) || !(width > 0)) {
          out.flipped += flat.triangles.length;
          continue;
        }
        widths.push(width * c.table.scale);
        const middle = options.ends === 'mirrored' ? middleLine(flat, u0, u1) : null;
        if (options.ends === 'mirrored' && middle === null) out.unmirrored++;
        const run = (middle ?? u1) - u0;
        const perMetre = repeatsPerMetre(options, picture, width, run, c.table.scale);
        const texels = [run * perMetre * picture[0], (options.bottom - options.top) * picture[1]];
        if (Math.min(...texels) < THIN - 1e-6) out.thin++;
        writeFlat(c, flat, layOf(c), (u, v) => {
          const along = middle !== null && u > middle ? 2 * middle - u : u;
          const across = (v1 - v) / width;
          return [
            options.offset + (along - u0) * perMetre,
            options.top + (options.flip ? 1 - across : across) * (options.bottom - options.top),
          ];
        });
      }
    }
    out.turned += turnedPieces(surface, pieces);
  }
  widths.sort((a, b) => a - b);
  if (widths.length > 0) out.widths = [widths[0], widths[widths.length >> 1], widths[widths.length - 1]];
  return out;
}

/** Repeats along the strip for a metre of the face table's own measure. */
function repeatsPerMetre(
  options: StripOptions,
  [pictureWidth, pictureHeight]: [number, number],
  width: number,
  run: number,
  scale: number,
): number {
  if (options.fit === 'repeats') return options.amount / run;
  if (options.fit === 'metres') return scale / options.amount;
  return ((options.bottom - options.top) * pictureHeight) / (width * pictureWidth);
}

function laid(
  surface: Surface,
  piece: Uint32Array,
  straight: boolean,
): { flats: Flat[]; straight: boolean; flipped: number } {
  const part = partOfSurface(surface, piece);
  const back = (flat: Flat): Flat => ({ ...flat, triangles: flat.triangles.map((triangle) => piece[triangle]) });
  if (straight) {
    const { flats, rest } = stripCharts(part);
    if (rest.length === 0) return { flats: flats.map((flat) => back(longFirst(flat))), straight: true, flipped: 0 };
  }
  const all = Uint32Array.from(piece.keys());
  const { flat, flipped } = flattenWhole(part, all);
  return { flats: [back(turnedToLongSide(flat))], straight: false, flipped };
}

/** A rectangle with its long side along u. */
function longFirst(flat: Flat): Flat {
  const [u0, u1, v0, v1] = boxAround([flat.uv]);
  return u1 - u0 >= v1 - v0 ? flat : mapFlat(flat, (u, v) => [v, -u]);
}

/** The piece along or across, the right way up. */
function oriented(surface: Surface, raw: Flat, options: StripOptions): Flat {
  const flat = options.along === 'long' ? raw : mapFlat(raw, (u, v) => [v, -u]);
  const { along, across } = directionsOf(surface, flat);
  const size = (d: number[]) => Math.sqrt(d[0] ** 2 + d[1] ** 2 + d[2] ** 2);
  const up = across[1] / Math.max(size(across), 1e-12);
  const greatest = [0, 1, 2].reduce((best, k) => (Math.abs(along[k]) > Math.abs(along[best]) + 1e-9 ? k : best), 0);
  const wrong = Math.abs(up) > LEANS ? up < 0 : along[greatest] < 0;
  return wrong ? mapFlat(flat, (u, v) => [-u, -v]) : flat;
}

/** Share of "up" from which a surface has an upper edge. */
const LEANS = 0.3;

/** A line across near the middle that no face crosses, or null. */
function middleLine(flat: Flat, u0: number, u1: number): number | null {
  const hair = (u1 - u0) * 1e-6;
  const lines = [...new Set(Array.from({ length: flat.uv.length / 2 }, (_, i) => flat.uv[2 * i]))].filter(
    (u) => u > u0 + hair && u < u1 - hair,
  );
  const middle = (u0 + u1) / 2;
  lines.sort((a, b) => Math.abs(a - middle) - Math.abs(b - middle) || a - b);
  const spans = Array.from({ length: flat.triangles.length }, (_, i) => {
    const u = [0, 1, 2].map((k) => flat.uv[2 * flat.local[i * 3 + k]]);
    return [Math.min(...u), Math.max(...u)];
  });
  return lines.slice(0, 64).find((line) => spans.every(([a, b]) => b <= line + hair || a >= line - hair)) ?? null;
}
