import { linearToSrgb, srgbToLinear } from './srgb.ts';

/** Colours as sRGB, 0 … 1, and in OKLab (Ottosson 2020): L 0 … 1, a and b. */
export type Rgb = readonly [number, number, number];
export type Lab = readonly [number, number, number];

export function toLab([r, g, b]: Rgb): Lab {
  const out: [number, number, number] = [0, 0, 0];
  linearToLab(srgbToLinear(r), srgbToLinear(g), srgbToLinear(b), out);
  return out;
}

/** OKLab of linear R G B; without allocation, for every pixel of a picture. */
export function linearToLab(r: number, g: number, b: number, out: Float64Array | number[]): void {
  const l = Math.cbrt(0.4122214708 * r + 0.5363325363 * g + 0.0514459929 * b);
  const m = Math.cbrt(0.2119034982 * r + 0.6806995451 * g + 0.1073969566 * b);
  const s = Math.cbrt(0.0883024619 * r + 0.2817188376 * g + 0.6299787005 * b);
  out[0] = 0.2104542553 * l + 0.793617785 * m - 0.0040720468 * s;
  out[1] = 1.9779984951 * l - 2.428592205 * m + 0.4505937099 * s;
  out[2] = 0.0259040371 * l + 0.7827717662 * m - 0.808675766 * s;
}

/** Back to sRGB; what lies outside is cut off. */
export function toRgb(lab: Lab): Rgb {
  return labToLinear(lab).map(linearToSrgb) as unknown as Rgb;
}

/** Linear R G B, which may lie outside 0 … 1. */
export function labToLinear([L, a, b]: Lab): [number, number, number] {
  const l = (L + 0.3963377774 * a + 0.2158037573 * b) ** 3;
  const m = (L - 0.1055613458 * a - 0.0638541728 * b) ** 3;
  const s = (L - 0.0894841775 * a - 1.291485548 * b) ** 3;
  return [
    4.0767416621 * l - 3.3077115913 * m + 0.2309699292 * s,
    -1.2684380046 * l + 2.6097574011 * m - 0.3413193965 * s,
    -0.0041960863 * l - 0.7034186147 * m + 1.707614701 * s,
  ];
}

/** ΔE OK × 100: the distance in OKLab. */
export function difference(lab: Lab, q: Lab): number {
  return 100 * Math.sqrt((lab[0] - q[0]) ** 2 + (lab[1] - q[1]) ** 2 + (lab[2] - q[2]) ** 2);
}
