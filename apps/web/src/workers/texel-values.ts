import { hexOf } from '@wembrel/core/image/hex';
import { srgbToLinear } from '@wembrel/core/image/srgb';

/** What the values of a picture mean. */
export type TexelKind = 'colour' | 'data' | 'normal';

/** One level of a picture: R G B A of each texel as stored, of 8 or 16 bits. */
export interface TexelLevel {
  width: number;
  height: number;
  data: Uint8Array | Uint16Array;
}

export interface TexelReading {
  /** R G B A as stored. */
  stored: [number, number, number, number];
  /** What a shader reads: linear light, data in 0 … 1, directions in −1 … 1; alpha in 0 … 1. */
  linear: [number, number, number, number];
  hex: string;
}

const largest = ({ data }: TexelLevel) => (data instanceof Uint16Array ? 65535 : 255);

/** The values of one texel; null beside the picture. */
export function readTexel(level: TexelLevel, kind: TexelKind, x: number, y: number): TexelReading | null {
  if (x < 0 || y < 0 || x >= level.width || y >= level.height) return null;
  const at = (y * level.width + x) * 4;
  const stored = [...level.data.subarray(at, at + 4)] as TexelReading['stored'];
  const unit = stored.map((value) => value / largest(level));
  const linear = unit.map((value, c) =>
    c === 3 ? value : kind === 'colour' ? srgbToLinear(value) : kind === 'normal' ? value * 2 - 1 : value,
  ) as TexelReading['linear'];
  return { stored, linear, hex: hexOf(unit.slice(0, 3).map((value) => value * 255)) };
}

/** A reading as one line for the clipboard. */
export const readingText = (x: number, y: number, { stored, linear, hex }: TexelReading): string =>
  `${x}, ${y}: ${hex}, stored ${stored.join(' ')}, linear ${linear.map((value) => value.toFixed(4)).join(' ')}`;

/** Where a picture stands in its frame: its left upper corner, px of the screen, and px of the screen a texel. */
export interface TexelPlace {
  x: number;
  y: number;
  scale: number;
}

/** Steps of − and +: halves and whole multiples, so that texels stay squares of whole px. */
const STEPS = [1 / 16, 1 / 8, 1 / 4, 1 / 2, 1, 2, 3, 4, 6, 8, 12, 16, 24, 32, 48, 64];

/** The next scale up (1) or down (−1). */
export function nextScale(scale: number, way: 1 | -1): number {
  const further = STEPS.filter((step) => (way > 0 ? step > scale * 1.001 : step < scale * 0.999));
  return (way > 0 ? further[0] : further[further.length - 1]) ?? scale;
}

/** Another scale around a point of the frame, which stays where it is. */
export function scaledAt(place: TexelPlace, scale: number, [px, py]: readonly [number, number]): TexelPlace {
  const k = scale / place.scale;
  return { scale, x: Math.round(px - (px - place.x) * k), y: Math.round(py - (py - place.y) * k) };
}

/** The whole picture in the middle of its frame; small ones by whole multiples. */
export function fitted(
  picture: { width: number; height: number },
  frame: { width: number; height: number },
): TexelPlace {
  const exact = Math.min(frame.width / picture.width, frame.height / picture.height);
  const scale = exact >= 1 ? Math.min(64, Math.floor(exact)) : exact;
  return centred(picture, frame, scale);
}

export function centred(
  picture: { width: number; height: number },
  frame: { width: number; height: number },
  scale: number,
): TexelPlace {
  return {
    scale,
    x: Math.round((frame.width - picture.width * scale) / 2),
    y: Math.round((frame.height - picture.height * scale) / 2),
  };
}

/** The texel below a point of the frame. */
export const texelAt = ({ x, y, scale }: TexelPlace, px: number, py: number): [number, number] => [
  Math.floor((px - x) / scale),
  Math.floor((py - y) / scale),
];
