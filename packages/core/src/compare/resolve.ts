import { encodeByte } from '../image/srgb.ts';
import { type Band, facesBack, type Layer } from './band.ts';
import { type Projected, screenArea } from './project.ts';
import type { ViewPictures } from './rasterise.ts';
import { BAND, GRID } from './sample-rows.ts';
import type { PointShader, Shaded } from './shade.ts';

/** Grey behind everything, linear. */
export const BACKGROUND = 0.2159;

/** Samples of a pixel. */
const ALL = GRID * GRID;

export interface ResolveOptions {
  /** False leaves the colour of half-covered pixels as it is, for pictures that are laid over something. */
  overGrey: boolean;
  /** Every sample is shaded by itself, instead of once a pixel and triangle. */
  everySample: boolean;
}

/** Makes pixels of the samples of a band. */
export class PixelResolver {
  private readonly drawOf: Uint32Array;
  /** The triangles of a pixel, and the sums of x and y of their samples with their number. */
  private readonly ids = new Int32Array(ALL);
  private readonly sums = new Float64Array(ALL * 3);
  private kinds = 0;
  private covered = 0;
  /** Unlit and lit colour of a pixel, linear. */
  private readonly colour = new Float64Array(6);

  constructor(
    private readonly projected: Projected[],
    private readonly shader: PointShader,
    private readonly out: ViewPictures,
    private readonly options: ResolveOptions,
  ) {
    this.drawOf = new Uint32Array(projected.reduce((sum, { screen }) => sum + screen.length / 9, 0));
    projected.forEach(({ first, screen }, d) => {
      this.drawOf.fill(d, first, first + screen.length / 9);
    });
  }

  /** Writes the pixels of a band. @param layers what is laid over them, by pixel of the band */
  resolve(band: Band, layers: Map<number, Layer[]> | null): void {
    const { size, y0, columns } = band;
    const height = Math.min(BAND, size - y0);
    for (let py = 0; py < height; py++)
      for (let px = columns[0]; px <= columns[1]; px++) {
        this.gather(band, px, py);
        const over = layers?.get(py * size + px);
        if (this.kinds > 0 || over) this.write((y0 + py) * size + px, over);
      }
  }

  /** Gathers the triangles of a pixel. */
  private gather({ hit, size, y0 }: Band, px: number, py: number): void {
    const { ids, sums } = this;
    const w = size * GRID;
    const first = py * GRID * w + px * GRID;
    const lead = hit[first];
    this.kinds = 0;
    this.covered = 0;
    let same = !this.options.everySample || lead < 0;
    for (let sy = 0; sy < GRID && same; sy++) {
      const r = first + sy * w;
      same = hit[r] === lead && hit[r + 1] === lead && hit[r + 2] === lead && hit[r + 3] === lead;
    }
    if (same) {
      if (lead < 0) return;
      ids[0] = lead;
      sums[0] = (px + 0.5) * ALL;
      sums[1] = (y0 + py + 0.5) * ALL;
      sums[2] = ALL;
      this.kinds = 1;
      this.covered = ALL;
      return;
    }
    for (let sy = 0; sy < GRID; sy++)
      for (let sx = 0; sx < GRID; sx++) {
        const id = hit[first + sy * w + sx];
        if (id < 0) continue;
        const k = this.kindOf(id);
        sums[k * 3] += px + (sx + 0.5) / GRID;
        sums[k * 3 + 1] += y0 + py + (sy + 0.5) / GRID;
        sums[k * 3 + 2]++;
        this.covered++;
      }
  }

  /** Position of a triangle among those of the pixel. */
  private kindOf(id: number): number {
    const { ids, sums } = this;
    let k = this.options.everySample ? this.kinds : 0;
    while (k < this.kinds && ids[k] !== id) k++;
    if (k === this.kinds) {
      ids[k] = id;
      sums[k * 3] = sums[k * 3 + 1] = sums[k * 3 + 2] = 0;
      this.kinds++;
    }
    return k;
  }

  /** Shades and writes pixel `o` of the picture. */
  private write(o: number, over: Layer[] | undefined): void {
    const { ids, sums, covered, colour, out, projected, options } = this;
    // The weight of one sample: with the background all 16 count, without it the covered ones alone.
    const opaque = options.overGrey || covered === 0;
    const parts = opaque ? ALL : covered;
    colour.fill(opaque ? (BACKGROUND * (ALL - covered)) / ALL : 0);
    for (let k = 0; k < this.kinds; k++) {
      const n = sums[k * 3 + 2];
      const p = projected[this.drawOf[ids[k]]];
      const { unlit, lit } = this.shadeAt(p, ids[k] - p.first, sums[k * 3] / n, sums[k * 3 + 1] / n);
      const share = n / parts;
      for (let c = 0; c < 3; c++) {
        colour[c] += unlit[c] * share;
        colour[c + 3] += lit[c] * share;
      }
    }
    const shown = over ? this.layOver(over) : covered;
    out.coverage[o] = Math.round((shown / ALL) * 255);
    for (let c = 0; c < 3; c++) {
      out.unlit[o * 3 + c] = encodeByte(colour[c]);
      out.lit[o * 3 + c] = encodeByte(colour[c + 3]);
    }
  }

  /** @returns samples that show anything */
  private layOver(layers: Layer[]): number {
    const { colour } = this;
    let shown = this.covered;
    for (const { draw, triangle, count, x, y } of layers) {
      const { unlit, lit, alpha } = this.shadeAt(this.projected[draw], triangle, x / count, y / count);
      const k = (alpha * count) / ALL;
      for (let c = 0; c < 3; c++) {
        colour[c] += (unlit[c] - colour[c]) * k;
        colour[c + 3] += (lit[c] - colour[c + 3]) * k;
      }
      shown = Math.max(shown, count);
    }
    return shown;
  }

  private shadeAt(projected: Projected, t: number, x: number, y: number): Shaded {
    const s = projected.screen;
    const o = t * 9;
    const det = screenArea(s, o);
    const b = ((x - s[o]) * (s[o + 7] - s[o + 1]) - (s[o + 6] - s[o]) * (y - s[o + 1])) / det;
    const c = ((s[o + 3] - s[o]) * (y - s[o + 1]) - (x - s[o]) * (s[o + 4] - s[o + 1])) / det;
    this.shader.begin(projected.draw, t, s, o);
    return this.shader.shade(1 - b - c, b, c, facesBack(projected, t));
  }
}
