/** What a look of the stock is at a point of its square. */
interface SurfacePoint {
  /** sRGB, 0 … 255. */
  color: readonly [number, number, number];
  /** 0 … 1: how much of it is there. */
  alpha?: number;
  roughness: number;
  metallic: number;
  occlusion: number;
  /** mm */
  height: number;
}

/** A look made by code: seamless, of a true size. */
export interface StockPainter {
  /** m of its square. */
  metres: number;
  /** mm between its deepest and its highest point, at the most. */
  relief: number;
  courses: { across: number; down: number } | null;
  /** @param u, v place in the square, 0 … 1, v down */
  at: (u: number, v: number) => SurfacePoint;
}

type Colour = readonly [number, number, number];

export const mix = (a: number, b: number, t: number): number => a + (b - a) * t;
export const blend = (a: Colour, b: Colour, t: number): [number, number, number] => [
  mix(a[0], b[0], t),
  mix(a[1], b[1], t),
  mix(a[2], b[2], t),
];
export const clamp = (v: number): number => Math.min(1, Math.max(0, v));

/** Smoothly from 0 at `a` to 1 at `b`. */
export const step = (a: number, b: number, v: number): number => {
  const t = clamp((v - a) / (b - a));
  return t * t * (3 - 2 * t);
};
