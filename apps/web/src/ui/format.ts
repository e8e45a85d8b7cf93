/** Figures as people read them: thin spaces between thousands, units always. */

export function count(n: number): string {
  return Math.round(n)
    .toString()
    .replace(/\B(?=(\d{3})+$)/g, '\u2009');
}

/** A number with what it counts: "1 face", "2 faces". @param many where it is not the word with an s */
export const counted = (n: number, one: string, many = `${one}s`): string =>
  `${count(n)} ${Math.round(n) === 1 ? one : many}`;

export function bytes(n: number): string {
  if (n < 1024) return `${n} B`;
  if (n < 1024 ** 2) return `${(n / 1024).toFixed(1)} KiB`;
  if (n < 1024 ** 3) return `${(n / 1024 ** 2).toFixed(1)} MiB`;
  return `${(n / 1024 ** 3).toFixed(2)} GiB`;
}

export function percent(share: number, digits = 0): string {
  return `${(share * 100).toFixed(digits)} %`;
}

export function decibels(v: number | null): string {
  return v === null ? 'identical' : `${v.toFixed(1)} dB`;
}

/** Distinct colours of equal lightness and chroma, spaced by the golden angle. */
export function indexColour(i: number): string {
  return `oklch(0.72 0.13 ${(i * 137.508 + 20) % 360})`;
}
