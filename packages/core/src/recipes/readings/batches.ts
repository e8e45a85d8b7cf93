import { binTriangles } from '../../bake/transfer.ts';
import { TileSamples, tileFrame } from '../../rays/cast/tile-samples.ts';
import { BATCH, Samples } from '../samples.ts';
import type { RecipeSurface } from '../surface.ts';

/** The texels of a surface, one sample each, a batch at a time; the batch is reused. */
export class TexelBatches {
  private readonly tiles: ReadonlyMap<number, Uint32Array>;
  private readonly found = new TileSamples();
  private readonly samples = new Samples();
  private order = new Uint32Array(0);

  constructor(private readonly surface: RecipeSurface) {
    this.tiles = binTriangles(surface, surface.width, surface.height);
  }

  *all(): Generator<Samples> {
    for (const tile of this.tiles.keys()) {
      this.find(tile);
      for (let from = 0; from < this.found.count; from += BATCH) {
        this.load(tile, from, Math.min(this.found.count, from + BATCH));
        yield this.samples;
      }
    }
  }

  /** The sample of one texel, px; null beside the islands. */
  at(x: number, y: number): Samples | null {
    const { width, height } = this.surface;
    for (const tile of this.tiles.keys()) {
      const frame = tileFrame(tile, width, height);
      if (x < frame.x || y < frame.y || x >= frame.x + frame.width || y >= frame.y + frame.height) continue;
      this.find(tile);
      for (let s = 0; s < this.found.count; s++) {
        this.load(tile, s, s + 1);
        if (this.samples.texel[0] === y * width + x) return this.samples;
      }
    }
    return null;
  }

  private find(tile: number): void {
    const { place, width, height } = this.surface;
    this.found.find(place, this.tiles.get(tile) as Uint32Array, tileFrame(tile, width, height), 1);
    const { count } = this.found;
    if (this.order.length < count) this.order = Uint32Array.from({ length: count }, (_, s) => s);
  }

  private load(tile: number, from: number, to: number): void {
    const { surface, found, samples, order } = this;
    samples.load(surface, found, tileFrame(tile, surface.width, surface.height), order, from, to);
  }
}
