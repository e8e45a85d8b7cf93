import type { Samples } from '../samples.ts';
import type { Places, Projection } from './places.ts';

/** The picture lies as the sheet does. */
export class UvProjection implements Projection {
  readonly once = null;
  readonly over = false;

  /** @param metres that a px of the sheet covers in the mean */
  constructor(private readonly metres: number) {}

  fill(samples: Samples, _: number, places: Places): boolean {
    const { metres } = this;
    const { px, py, tx, ty, tz, bx, by, bz } = samples;
    const { of, weight, s, t, frame } = places;
    places.count = samples.count;
    for (let i = 0; i < samples.count; i++) {
      of[i] = i;
      weight[i] = 1;
      s[i] = px[i] * metres;
      t[i] = py[i] * metres;
      frame.set([tx[i], ty[i], tz[i], bx[i], by[i], bz[i]], i * 6);
    }
    return false;
  }
}
