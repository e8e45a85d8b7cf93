/** `#rrggbb` of three bytes; fractions are rounded. */
export const hexOf = (rgb: readonly number[]): string =>
  `#${rgb.map((v) => Math.round(v).toString(16).padStart(2, '0')).join('')}`;

/** Three bytes of `#rrggbb`. */
export const bytesOfHex = (hex: string): [number, number, number] =>
  [1, 3, 5].map((i) => Number.parseInt(hex.slice(i, i + 2), 16)) as [number, number, number];
