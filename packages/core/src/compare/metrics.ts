/** Image difference over the pixels that either picture covers. */
export interface Difference {
  /** dB; null when the pictures are identical there. */
  psnr: number | null;
  ssim: number;
}

const RADIUS = 5;
const SIGMA = 1.5;
const KERNEL = (() => {
  const k = Float64Array.from({ length: 2 * RADIUS + 1 }, (_, i) => Math.exp(-((i - RADIUS) ** 2) / (2 * SIGMA ** 2)));
  const sum = k.reduce((a, b) => a + b, 0);
  return k.map((v) => v / sum);
})();

/**
 * PSNR over R G B and SSIM over luma (Wang et al. 2004: 11×11 Gaussian window, σ 1.5, K1 0.01, K2 0.03), both over the union of
 * the two coverages.
 * @param a, b three bytes a pixel
 */
export function pictureDifference(
  a: Uint8Array,
  b: Uint8Array,
  coverA: Uint8Array,
  coverB: Uint8Array,
  size: number,
): Difference {
  let squares = 0;
  let count = 0;
  let x0 = size;
  let x1 = -1;
  let y0 = size;
  let y1 = -1;
  for (let i = 0; i < size * size; i++) {
    if (!coverA[i] && !coverB[i]) continue;
    count++;
    const x = i % size;
    const y = (i - x) / size;
    if (x < x0) x0 = x;
    if (x > x1) x1 = x;
    if (y < y0) y0 = y;
    if (y > y1) y1 = y;
    for (let c = 0; c < 3; c++) squares += (a[i * 3 + c] - b[i * 3 + c]) ** 2;
  }
  if (count === 0 || squares === 0) return { psnr: null, ssim: 1 };
  const psnr = 10 * Math.log10((255 * 255) / (squares / (count * 3)));
  return { psnr, ssim: ssimInside(a, b, coverA, coverB, size, x0, x1, y0, y1) };
}

function ssimInside(
  a: Uint8Array,
  b: Uint8Array,
  coverA: Uint8Array,
  coverB: Uint8Array,
  size: number,
  x0: number,
  x1: number,
  y0: number,
  y1: number,
): number {
  const w = x1 - x0 + 1;
  const h = y1 - y0 + 1;
  const px = new Float64Array(w * h);
  const py = new Float64Array(w * h);
  for (let y = 0; y < h; y++)
    for (let x = 0; x < w; x++) {
      const i = ((y + y0) * size + x + x0) * 3;
      px[y * w + x] = 0.2126 * a[i] + 0.7152 * a[i + 1] + 0.0722 * a[i + 2];
      py[y * w + x] = 0.2126 * b[i] + 0.7152 * b[i + 1] + 0.0722 * b[i + 2];
    }
  const mx = blur(px, w, h);
  const my = blur(py, w, h);
  const xx = blur(
    px.map((v) => v * v),
    w,
    h,
  );
  const yy = blur(
    py.map((v) => v * v),
    w,
    h,
  );
  const xy = blur(
    px.map((v, i) => v * py[i]),
    w,
    h,
  );
  const c1 = (0.01 * 255) ** 2;
  const c2 = (0.03 * 255) ** 2;
  let sum = 0;
  let n = 0;
  for (let y = 0; y < h; y++)
    for (let x = 0; x < w; x++) {
      const s = (y + y0) * size + x + x0;
      if (!coverA[s] && !coverB[s]) continue;
      const i = y * w + x;
      const vx = xx[i] - mx[i] * mx[i];
      const vy = yy[i] - my[i] * my[i];
      const cv = xy[i] - mx[i] * my[i];
      sum += ((2 * mx[i] * my[i] + c1) * (2 * cv + c2)) / ((mx[i] ** 2 + my[i] ** 2 + c1) * (vx + vy + c2));
      n++;
    }
  return n === 0 ? 1 : sum / n;
}

/** Separable Gaussian; edges repeat. */
function blur(v: Float64Array, w: number, h: number): Float64Array {
  const t = new Float64Array(w * h);
  for (let y = 0; y < h; y++)
    for (let x = 0; x < w; x++) {
      let s = 0;
      for (let k = -RADIUS; k <= RADIUS; k++) {
        const q = x + k;
        s += KERNEL[k + RADIUS] * v[y * w + (q < 0 ? 0 : q >= w ? w - 1 : q)];
      }
      t[y * w + x] = s;
    }
  const out = new Float64Array(w * h);
  for (let y = 0; y < h; y++)
    for (let k = -RADIUS; k <= RADIUS; k++) {
      const q = Math.max(0, Math.min(h - 1, y + k));
      const f = KERNEL[k + RADIUS];
      for (let x = 0; x < w; x++) out[y * w + x] += f * t[q * w + x];
    }
  return out;
}

/** The difference picture: mid grey where equal, four times the difference around it. */
export function differencePicture(a: Uint8Array, b: Uint8Array): Uint8Array {
  const out = new Uint8Array(a.length);
  for (let i = 0; i < a.length; i++) out[i] = Math.max(0, Math.min(255, 128 + (b[i] - a[i]) * 4));
  return out;
}

export interface ViewFidelity {
  name: string;
  unlit: Difference;
  lit: Difference;
}

/** The `fidelity` of the contract: the worst of all views, lit and unlit. */
export interface Fidelity {
  psnr: number | null;
  ssim: number;
  worstView: string;
  /** Side of the pictures, px. */
  picture: number;
  views: ViewFidelity[];
}

export function summarise(views: ViewFidelity[], picture: number): Fidelity {
  let psnr: number | null = null;
  let ssim = 1;
  let worstView = views[0]?.name ?? '';
  for (const v of views)
    for (const d of [v.unlit, v.lit]) {
      if (d.psnr !== null && (psnr === null || d.psnr < psnr)) {
        psnr = d.psnr;
        worstView = v.name;
      }
      ssim = Math.min(ssim, d.ssim);
    }
  return { psnr, ssim, worstView, picture, views };
}
