import type { Samples } from '../samples.ts';
import type { Places, Projection } from './places.ts';

/**
 * Box projection: each sample is seen from the side or sides that its normal faces. Weights depend on the normal alone and change smoothly, so that both
 * sides of a UV border get the same. One pass for each axis.
 */
export class BoxProjection implements Projection {
  readonly once = null;
  readonly over = false;
  /** A side counts by how far its part of the normal exceeds this share of the greatest part. */
  private readonly least: number;

  /** @param blend how far two sides are blended: 0 not at all, 1 over everything */
  constructor(blend: number) {
    this.least = 1 - blend;
  }

  fill(samples: Samples, axis: number, places: Places): boolean {
    const { nx, ny, nz, x, y, z } = samples;
    const { of, weight, s, t, frame } = places;
    let count = 0;
    for (let i = 0; i < samples.count; i++) {
      const ax = Math.abs(nx[i]);
      const ay = Math.abs(ny[i]);
      const az = Math.abs(nz[i]);
      const most = Math.max(ax, ay, az);
      const own = this.share(axis, most, ax, ay, az);
      if (own <= 0) continue;
      const total = this.share(0, most, ax, ay, az) + this.share(1, most, ax, ay, az) + this.share(2, most, ax, ay, az);
      of[count] = i;
      weight[count] = own / total;
      const sign = (axis === 0 ? nx[i] : axis === 1 ? ny[i] : nz[i]) < 0 ? -1 : 1;
      s[count] = axis === 0 ? -z[i] * sign : axis === 1 ? x[i] : x[i] * sign;
      t[count] = axis === 1 ? z[i] * sign : -y[i];
      boxFrame(axis, sign, frame, count * 6);
      count++;
    }
    places.count = count;
    return axis < 2;
  }

  private share(axis: number, most: number, ax: number, ay: number, az: number): number {
    const { least } = this;
    // Without blending exactly one side is left: of equal parts z goes before x before y.
    if (least >= 1) return Number(axis === (az === most ? 2 : ax === most ? 0 : 1));
    const w = ((axis === 0 ? ax : axis === 1 ? ay : az) / most - least) / (1 - least);
    return w <= 0 ? 0 : w * w;
  }
}

/** Directions of a side's picture for who looks at it from outside. @param sign of the normal along the axis @param o where they go */
function boxFrame(axis: number, sign: number, out: Float64Array, o: number): void {
  for (let k = 0; k < 6; k++) out[o + k] = 0;
  if (axis === 0) out[o + 2] = -sign;
  else out[o] = axis === 1 ? 1 : sign;
  if (axis === 1) out[o + 5] = -sign;
  else out[o + 4] = 1;
}
