import { dotOf, type Places, type Projection, pictureFrame } from '../projection/places.ts';
import { BATCH, type Samples } from '../samples.ts';
import { SpaceGrid } from '../space-grid.ts';
import type { RecipeSurface } from '../surface.ts';
import { type Copy, type Scatter, scatteredCopies } from './copies.ts';

/** Copies face their own side; what turns away from it by more is not covered, as a cosine. */
const LEAST_COSINE = 0.25;

const NOTHING = [0, 0] as const;

interface PlacedCopy extends Copy {
  axes: ReturnType<typeof pictureFrame>;
  height: number;
}

/** Many small decals, each from the side of the surface on which it lies; later ones lie over earlier ones. */
export class ScatterProjection implements Projection {
  readonly once: readonly [number, number];
  readonly over = true;
  private readonly copies: PlacedCopy[];
  private readonly grid: SpaceGrid | null;
  /** For each sample, where in its cell of the grid to go on, and where to stop. */
  private readonly next = new Uint32Array(BATCH);
  private readonly end = new Uint32Array(BATCH);

  /** @param aspect height over width of the picture */
  constructor(surface: RecipeSurface, lay: Scatter, aspect: number) {
    // Copies differ in width; pictures are filtered for the mean one.
    const mean = (lay.metres[0] + lay.metres[1]) / 2;
    this.once = [mean, mean * aspect];
    this.copies = scatteredCopies(surface, lay, aspect).map((copy) => ({
      ...copy,
      height: copy.width * aspect,
      axes: pictureFrame(copy.normal, [0, 1, 0], copy.turn),
    }));
    const boxes = this.copies.map(({ at, width, height }) => {
      const reach = Math.sqrt(width * width + height * height) / 2;
      return [...at.map((v) => v - reach), ...at.map((v) => v + reach)];
    });
    this.grid = boxes.length > 0 ? new SpaceGrid(boxes, lay.metres[1] * Math.max(1, aspect)) : null;
  }

  fill(samples: Samples, pass: number, places: Places, needed: Float32Array | null): boolean {
    const { grid, next, end } = this;
    places.count = 0;
    if (!grid) return false;
    if (pass === 0)
      for (let i = 0; i < samples.count; i++)
        [next[i], end[i]] =
          needed && needed[i] === 0 ? NOTHING : grid.range(grid.cellAt(samples.x[i], samples.y[i], samples.z[i]));
    for (let i = 0; i < samples.count; i++)
      while (next[i] < end[i]) if (this.place(samples, i, this.copies[grid.items[next[i]++]], places)) break;
    return places.count > 0;
  }

  /** @returns whether the copy covers the sample */
  private place(samples: Samples, i: number, copy: PlacedCopy, places: Places): boolean {
    const { at, width, height, axes } = copy;
    const d = [samples.x[i] - at[0], samples.y[i] - at[1], samples.z[i] - at[2]] as const;
    const s = dotOf(d, axes.right) / width + 0.5;
    if (s < 0 || s > 1) return false;
    const t = 0.5 - dotOf(d, axes.up) / height;
    if (t < 0 || t > 1) return false;
    if (Math.abs(dotOf(d, axes.towards)) > Math.max(width, height) / 2) return false;
    if (dotOf([samples.nx[i], samples.ny[i], samples.nz[i]], axes.towards) < LEAST_COSINE) return false;
    const n = places.count++;
    places.of[n] = i;
    places.weight[n] = 1;
    places.s[n] = s * this.once[0];
    places.t[n] = t * this.once[1];
    places.frame.set([...axes.right, ...axes.up], n * 6);
    return true;
  }
}
