import { encodeByte } from '../image/srgb.ts';
import type { Band, Layer } from './band.ts';
import { BACKGROUND, type Projected, type ViewPictures } from './project.ts';
import { BAND, GRID } from './sample-rows.ts';
import { PointList, type PointShader, SHADED } from './shade.ts';

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
  private readonly points = new PointList();
  /** Triangles that cover each pixel of the band, by row and column of those that may show something. */
  private readonly shownCount: Uint8Array;
  /** The next shaded point. */
  private at = 0;
  /** Unlit and lit colour of a pixel, linear. */
  private readonly colour = new Float64Array(6);

  constructor(
    private readonly projected: Projected[],
    private readonly shader: PointShader,
    private readonly out: ViewPictures,
    private readonly options: ResolveOptions,
  ) {
    this.shownCount = new Uint8Array(out.size * BAND);
    this.drawOf = new Uint32Array(projected.reduce((sum, { screen }) => sum + screen.length / 9, 0));
    projected.forEach(({ first, screen }, d) => {
      this.drawOf.fill(d, first, first + screen.length / 9);
    });
  }

  /** Writes the pixels of a band. @param layers what is laid over them, by pixel of the band */
  resolve(band: Band, layers: Map<number, Layer[]> | null): void {
    const { size, y0, columns } = band;
    const height = Math.min(BAND, size - y0);
    const { points, shownCount } = this;
    points.count = 0;
    for (let py = 0, p = 0; py < height; py++)
      for (let px = columns[0]; px <= columns[1]; px++, p++) {
        this.gather(band, px, py);
        this.addCovering();
        shownCount[p] = this.kinds;
        const over = layers?.get(py * size + px);
        if (over) for (const { draw, triangle, count, x, y } of over) points.add(draw, triangle, count, x, y);
      }
    this.shader.shade(points, this.projected);
    this.at = 0;
    for (let py = 0, p = 0; py < height; py++)
      for (let px = columns[0]; px <= columns[1]; px++, p++) {
        const over = layers?.get(py * size + px);
        if (shownCount[p] > 0 || over) this.write((y0 + py) * size + px, shownCount[p], over?.length ?? 0);
      }
  }

  /** Lists the points that are shaded of what covers a pixel. */
  private addCovering(): void {
    const { ids, sums, points, drawOf, projected } = this;
    for (let k = 0; k < this.kinds; k++) {
      const draw = drawOf[ids[k]];
      const o = k * 3;
      points.add(draw, ids[k] - projected[draw].first, sums[o + 2], sums[o], sums[o + 1]);
    }
  }

  /** Gathers the triangles of a pixel. */
  private gather({ hit, size, y0 }: Band, px: number, py: number): void {
    const { ids, sums } = this;
    const w = size * GRID;
    const first = py * GRID * w + px * GRID;
    const lead = hit[first];
    this.kinds = 0;
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

  /** Writes pixel `o` of the picture from the points that follow. @param kinds points that cover it @param layers points that are laid over them */
  private write(o: number, kinds: number, layers: number): void {
    const { colour, out, options } = this;
    const { shaded, samples } = this.points;
    const end = this.at + kinds;
    let covered = 0;
    for (let p = this.at; p < end; p++) covered += samples[p];
    // The weight of one sample: with the background all 16 count, without it the covered ones alone.
    const opaque = options.overGrey || covered === 0;
    const parts = opaque ? ALL : covered;
    colour.fill(opaque ? (BACKGROUND * (ALL - covered)) / ALL : 0);
    for (let p = this.at; p < end; p++) {
      const share = samples[p] / parts;
      for (let c = 0; c < 6; c++) colour[c] += shaded[p * SHADED + c] * share;
    }
    this.at = end;
    const shown = Math.max(covered, this.layOver(layers));
    out.coverage[o] = Math.round((shown / ALL) * 255);
    for (let c = 0; c < 3; c++) {
      out.unlit[o * 3 + c] = encodeByte(colour[c]);
      out.lit[o * 3 + c] = encodeByte(colour[c + 3]);
    }
  }

  /** Lays the points that follow over the pixel. @returns samples of the one that has most */
  private layOver(layers: number): number {
    const { colour } = this;
    const { shaded, samples } = this.points;
    let most = 0;
    for (const end = this.at + layers; this.at < end; this.at++) {
      const o = this.at * SHADED;
      const k = (shaded[o + 6] * samples[this.at]) / ALL;
      for (let c = 0; c < 6; c++) colour[c] += (shaded[o + c] - colour[c]) * k;
      most = Math.max(most, samples[this.at]);
    }
    return most;
  }
}
