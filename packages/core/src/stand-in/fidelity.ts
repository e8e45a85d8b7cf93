import { nearestFeature } from '@wembrel/kernels/nearest';
import type { ViewPictures } from '../compare/project.ts';
import { edgeOf } from './outline-error.ts';

/** px inside both outlines from which on pictures are compared: at the very edge there may be a px more or less. */
const INSET = 2;
/** Half of a px covered counts as covered. */
const COVERED = 128;

/** How a stand-in differs from its source in one view. */
export interface StandInView {
  name: string;
  /** Share of both outlines that lies within one px of the other. */
  outline: number;
  /** PSNR 2 px inside both outlines against the truth, dB; null where nothing differs. */
  base: number | null;
  lit: number | null;
  /** What the source itself loses against the truth there, since it is drawn with filtered textures too. */
  own: { base: number | null; lit: number | null };
}

/** PSNR inside the outlines from which on a stand-in counts as alike whatever its source loses itself, dB; reference, "Stand-ins". */
const ALIKE = { base: 34, lit: 28 };
/** How much more than its source a stand-in may lose against the truth, dB. */
const SLACK = 1;

/** Whether a view looks like the source: alike, or as near to the truth as the source itself. */
export const isAlike = ({ base, lit, own }: StandInView): boolean =>
  (['base', 'lit'] as const).every((kind) => {
    const value = { base, lit }[kind] ?? Infinity;
    return value >= Math.min(ALIKE[kind], (own[kind] ?? Infinity) - SLACK);
  });

/** Pictures of one view. */
export interface StandInPictures {
  /** The source at the finest level of its textures, with sixteen samples a px. */
  truth: ViewPictures;
  source: ViewPictures;
  result: ViewPictures;
}

/** Compares the pictures of one view. */
export function standInView(name: string, { truth, source, result }: StandInPictures): StandInView {
  const { size } = source;
  const [a, b] = [source, result].map(({ coverage }) => Uint8Array.from(coverage, (c) => Number(c >= COVERED)));
  const outside = Uint8Array.from(a, (covered, i) => Number(!covered || !b[i]));
  const nearest = nearestFeature(outside, size, size);
  const inside = (i: number) => {
    const o = nearest[i];
    return o < 0 || Math.hypot((o % size) - (i % size), Math.floor(o / size) - Math.floor(i / size)) > INSET;
  };
  const at = Uint8Array.from(outside, (out, i) => Number(!out && inside(i)));
  return {
    name,
    outline: outlineWithin(a, b, size),
    base: psnrWithin(truth.unlit, result.unlit, at),
    lit: psnrWithin(truth.lit, result.lit, at),
    own: { base: psnrWithin(truth.unlit, source.unlit, at), lit: psnrWithin(truth.lit, source.lit, at) },
  };
}

/** PSNR of the px that count, of bytes as they are stored. */
function psnrWithin(a: Uint8Array, b: Uint8Array, at: Uint8Array): number | null {
  let [sum, n] = [0, 0];
  for (let i = 0; i < at.length; i++) {
    if (!at[i]) continue;
    for (let c = i * 3; c < i * 3 + 3; c++) sum += (a[c] - b[c]) ** 2;
    n += 3;
  }
  return sum === 0 ? null : 10 * Math.log10((255 * 255 * n) / sum);
}

function outlineWithin(a: Uint8Array, b: Uint8Array, size: number): number {
  const [edgeA, edgeB] = [a, b].map((picture) => edgeOf(picture, size));
  const count = (from: Uint8Array, to: Uint8Array) => {
    const nearest = nearestFeature(to, size, size);
    let [all, near] = [0, 0];
    for (let i = 0; i < from.length; i++) {
      if (!from[i]) continue;
      all++;
      const o = nearest[i];
      if (
        o >= 0 &&
        Math.max(Math.abs((o % size) - (i % size)), Math.abs(Math.floor(o / size) - Math.floor(i / size))) <= 1
      )
        near++;
    }
    return [all, near];
  };
  const [[all, near], [allBack, nearBack]] = [count(edgeA, edgeB), count(edgeB, edgeA)];
  return all + allBack === 0 ? 1 : (near + nearBack) / (all + allBack);
}
