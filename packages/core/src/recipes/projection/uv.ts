import type { Samples } from '../samples.ts';
import type { Places, Projection } from './places.ts';

/** The picture lies as the sheet does. */
export class UvProjection implements Projection {
  readonly once = null;
  readonly over = false;

  /** @param metres that a px of the sheet covers in the mean */
  constructor(private readonly metres: number) {}

  fill(samples: Samples, _: number, places: Places, needed: Float32Array | null): boolean {
    const { metres } = this;
    const { px, py, tx, ty, tz, bx, by, bz } = samples;
    const { of, weight, s, t, frame } = places;
    let count = 0;
    for (let i = 0; i < samples.count; i++) {
      if (needed && needed[i] === 0) continue;
      of[count] = i;
      weight[count] = 1;
      s[count] = px[i] * metres;
      t[count] = py[i] * metres;
      const f = count++ * 6;
      frame[f] = tx[i];
      frame[f + 1] = ty[i];
      frame[f + 2] = tz[i];
      frame[f + 3] = bx[i];
      frame[f + 4] = by[i];
      frame[f + 5] = bz[i];
    }
    places.count = count;
    return false;
  }
}
