const RADIUS = 5;
const SIGMA = 1.5;
/** Half of the window with the middle first; the whole sums to 1. */
const HALF = (() => {
  const k = Float64Array.from({ length: RADIUS + 1 }, (_, i) => Math.exp(-(i * i) / (2 * SIGMA * SIGMA)));
  const sum = k.reduce((sum, b, i) => sum + (i === 0 ? b : 2 * b), 0);
  return k.map((v) => v / sum);
})();
const [K0, K1, K2, K3, K4, K5] = HALF;
const TAPS = 2 * RADIUS + 1;
const C1 = (0.01 * 255) ** 2;
const C2 = (0.03 * 255) ** 2;
/** What the kernel needs of them. */
export const SSIM_CONSTANTS: readonly number[] = [...HALF, C1, C2];

/** A rectangle of pixels, both ends inside. */
export interface Window {
  x0: number;
  y0: number;
  x1: number;
  y1: number;
}

/** One row that a window of 11 slides over: values with five repeated ones at either end. */
function blurRow(padded: Float64Array, out: Float64Array, w: number): void {
  for (let x = 0; x < w; x++)
    out[x] =
      K0 * padded[x + 5] +
      K1 * (padded[x + 4] + padded[x + 6]) +
      K2 * (padded[x + 3] + padded[x + 7]) +
      K3 * (padded[x + 2] + padded[x + 8]) +
      K4 * (padded[x + 1] + padded[x + 9]) +
      K5 * (padded[x] + padded[x + 10]);
}

function repeatEnds(padded: Float64Array, w: number): void {
  for (let k = 0; k < RADIUS; k++) {
    padded[k] = padded[RADIUS];
    padded[RADIUS + w + k] = padded[RADIUS + w - 1];
  }
}

/**
 * Mean SSIM over luma (Wang et al. 2004: 11×11 Gaussian window, σ 1.5, K1 0.01, K2 0.03) of the covered pixels in a window;
 * at the window's edges the last row or column repeats. Eleven blurred rows are held at a time. The reference of `DifferenceKernel.ssim`, which gives the same.
 * @param a, b three bytes a pixel
 * @returns 1 when nothing is covered
 */
export function ssimInside(
  a: Uint8Array,
  b: Uint8Array,
  coverA: Uint8Array,
  coverB: Uint8Array,
  size: number,
  { x0, y0, x1, y1 }: Window,
): number {
  const w = x1 - x0 + 1;
  const h = y1 - y0 + 1;
  const line = () => new Float64Array(w + 2 * RADIUS);
  const [pa, pb, psq, pab] = [line(), line(), line(), line()];
  const rows = () => Array.from({ length: TAPS }, () => new Float64Array(w));
  // Blurred a, b, a² + b² (only the sum of the variances counts) and a·b.
  const [ra, rb, rs, rp] = [rows(), rows(), rows(), rows()];
  const load = (y: number) => {
    const at = y % TAPS;
    for (let x = 0, i = ((y + y0) * size + x0) * 3; x < w; x++, i += 3) {
      const va = 0.2126 * a[i] + 0.7152 * a[i + 1] + 0.0722 * a[i + 2];
      const vb = 0.2126 * b[i] + 0.7152 * b[i + 1] + 0.0722 * b[i + 2];
      pa[x + RADIUS] = va;
      pb[x + RADIUS] = vb;
      psq[x + RADIUS] = va * va + vb * vb;
      pab[x + RADIUS] = va * vb;
    }
    for (const p of [pa, pb, psq, pab]) repeatEnds(p, w);
    blurRow(pa, ra[at], w);
    blurRow(pb, rb[at], w);
    blurRow(psq, rs[at], w);
    blurRow(pab, rp[at], w);
  };
  const pick: number[] = new Array(TAPS);
  let sum = 0;
  let n = 0;
  let loaded = 0;
  for (let y = 0; y < h; y++) {
    while (loaded < h && loaded <= y + RADIUS) load(loaded++);
    for (let k = 0; k < TAPS; k++) pick[k] = Math.max(0, Math.min(h - 1, y + k - RADIUS)) % TAPS;
    for (let x = 0, i = (y + y0) * size + x0; x < w; x++, i++) {
      if (!coverA[i] && !coverB[i]) continue;
      const ma = column(ra, pick, x);
      const mb = column(rb, pick, x);
      const squares = column(rs, pick, x) - ma * ma - mb * mb;
      const product = column(rp, pick, x) - ma * mb;
      sum += ((2 * ma * mb + C1) * (2 * product + C2)) / ((ma * ma + mb * mb + C1) * (squares + C2));
      n++;
    }
  }
  return n === 0 ? 1 : sum / n;
}

function column(rows: readonly Float64Array[], pick: readonly number[], x: number): number {
  return (
    K0 * rows[pick[5]][x] +
    K1 * (rows[pick[4]][x] + rows[pick[6]][x]) +
    K2 * (rows[pick[3]][x] + rows[pick[7]][x]) +
    K3 * (rows[pick[2]][x] + rows[pick[8]][x]) +
    K4 * (rows[pick[1]][x] + rows[pick[9]][x]) +
    K5 * (rows[pick[0]][x] + rows[pick[10]][x])
  );
}
