import { facesBack, type Projected, screenArea } from './project.ts';
import { BAND, eachSample, GRID, SampleRows } from './sample-rows.ts';
import type { PointShader } from './shade.ts';

/** The samples of a band of rows: which triangle each shows, and how near it is. */
export class Band {
  /** First row of pixels. */
  y0 = 0;
  /** First and last column of pixels that something may show in. */
  columns: [number, number] = [0, -1];
  readonly depth: Float64Array;
  /** Number of the triangle among all, −1 for none. */
  readonly hit: Int32Array;
  private readonly rows = new SampleRows();

  /** @param size side of the picture, px @param samples where they lie already; for at least such a picture */
  constructor(
    readonly size: number,
    samples?: { depth: Float64Array; hit: Int32Array },
  ) {
    const count = size * GRID * BAND * GRID;
    this.depth = samples?.depth ?? new Float64Array(count);
    this.hit = samples?.hit ?? new Int32Array(count);
  }

  /** Begins a band with nothing on it. */
  begin(y0: number, columns: [number, number]): void {
    this.y0 = y0;
    this.columns = columns;
    for (let row = 0; row < BAND * GRID; row++) {
      const from = (row * this.size + columns[0]) * GRID;
      const to = (row * this.size + columns[1] + 1) * GRID;
      this.depth.fill(-Infinity, from, to);
      this.hit.fill(-1, from, to);
    }
  }

  /** Lays an opaque or alpha-tested triangle over the samples where it is nearest. */
  cover(projected: Projected, t: number, shader: PointShader): void {
    const { depth, hit, rows, size, y0 } = this;
    const screen = projected.screen;
    const o = t * 9;
    const { look } = projected.draw;
    const id = projected.first + t;
    const za = screen[o + 2];
    const zb = screen[o + 5];
    const zc = screen[o + 8];
    if (look.alphaMode === 'MASK') {
      eachSample(screen, o, y0, size, (i, a, b, c) => {
        const z = a * za + b * zb + c * zc;
        if (z <= depth[i] || shader.alphaAt(projected, t, a, b, c) < look.alphaCutoff) return;
        depth[i] = z;
        hit[i] = id;
      });
      return;
    }
    // The opaque case is nearly all of the work: the same walk as `eachSample`, without a call for each sample.
    if (!rows.open(screen, o, y0, size)) return;
    const w = size * GRID;
    const { bStep, cStep } = rows;
    for (let y = rows.first; y <= rows.last; y++) {
      rows.row(y);
      const { b0, c0, hi } = rows;
      for (let x = rows.lo; x <= hi; x++) {
        const b = b0 + x * bStep;
        const c = c0 + x * cStep;
        const a = 1 - b - c;
        if (a < 0 || b < 0 || c < 0) continue;
        const z = a * za + b * zb + c * zc;
        const i = y * w + x;
        if (z <= depth[i]) continue;
        depth[i] = z;
        hit[i] = id;
      }
    }
  }

  /**
   * The alpha-blended triangles over each pixel, the farthest first.
   * @param blended draw and number of each @returns by y · size + x, y from the band's first row
   */
  layers(projected: Projected[], blended: readonly [number, number][]): Map<number, Layer[]> {
    const out = new Map<number, Layer[]>();
    for (const [d, t] of blended)
      for (const [pixel, layer] of this.layersOf(projected[d].screen, d, t)) {
        const list = out.get(pixel);
        if (list) list.push(layer);
        else out.set(pixel, [layer]);
      }
    for (const list of out.values()) list.sort((a, b) => a.near / a.count - b.near / b.count);
    return out;
  }

  private layersOf(s: Float64Array, draw: number, triangle: number): Map<number, Layer> {
    const { depth, size, y0 } = this;
    const w = size * GRID;
    const o = triangle * 9;
    const out = new Map<number, Layer>();
    eachSample(s, o, y0, size, (i, a, b, c) => {
      const z = a * s[o + 2] + b * s[o + 5] + c * s[o + 8];
      if (z <= depth[i]) return;
      const sx = i % w;
      const sy = Math.floor(i / w);
      const pixel = Math.floor(sy / GRID) * size + Math.floor(sx / GRID);
      let layer = out.get(pixel);
      if (!layer) {
        layer = { draw, triangle, count: 0, near: 0, x: 0, y: 0 };
        out.set(pixel, layer);
      }
      layer.count++;
      layer.near += z;
      layer.x += (sx + 0.5) / GRID;
      layer.y += (sy + 0.5) / GRID + y0;
    });
    return out;
  }
}

/** What an alpha-blended triangle shows in a pixel. */
export interface Layer {
  draw: number;
  triangle: number;
  /** Samples that it covers, and sums over them: nearness and position, px. */
  count: number;
  near: number;
  x: number;
  y: number;
}

/** The triangles of each band of rows that may show, as draw and number. */
export function binBands(projected: Projected[], size: number): [number, number][][] {
  const bands: [number, number][][] = Array.from({ length: Math.ceil(size / BAND) }, () => []);
  projected.forEach((one, d) => {
    const screen = one.screen;
    for (let o = 0, t = 0; o < screen.length; o += 9, t++) {
      if (screenArea(screen, o) === 0) continue;
      if (!one.draw.look.doubleSided && facesBack(one, t)) continue;
      const lo = Math.max(0, Math.floor(Math.min(screen[o + 1], screen[o + 4], screen[o + 7]) / BAND));
      const hi = Math.min(bands.length - 1, Math.floor(Math.max(screen[o + 1], screen[o + 4], screen[o + 7]) / BAND));
      for (let b = lo; b <= hi; b++) bands[b].push([d, t]);
    }
  });
  return bands;
}

/** First and last column of pixels that triangles of a band may touch. */
export function bandColumns(projected: Projected[], band: readonly [number, number][], size: number): [number, number] {
  let lo = size;
  let hi = -1;
  for (const [d, t] of band) {
    const screen = projected[d].screen;
    const o = t * 9;
    lo = Math.min(lo, screen[o], screen[o + 3], screen[o + 6]);
    hi = Math.max(hi, screen[o], screen[o + 3], screen[o + 6]);
  }
  return [Math.max(0, Math.floor(lo) - 1), Math.min(size - 1, Math.ceil(hi) + 1)];
}
