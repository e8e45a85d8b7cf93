import { BATCH, type Samples } from '../samples.ts';
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

  fill(samples: Samples, axis: number, places: Places, needed: Float32Array | null): boolean {
    const { x, y, z } = samples;
    const { of, weight, s, t, frame } = places;
    const normal = axis === 0 ? samples.nx : axis === 1 ? samples.ny : samples.nz;
    const share = this.sharesOf(samples)[axis];
    let count = 0;
    for (let i = 0; i < samples.count; i++) {
      if (share[i] === 0 || (needed && needed[i] === 0)) continue;
      of[count] = i;
      weight[count] = share[i];
      const sign = normal[i] < 0 ? -1 : 1;
      s[count] = axis === 0 ? -z[i] * sign : axis === 1 ? x[i] : x[i] * sign;
      t[count] = axis === 1 ? z[i] * sign : -y[i];
      boxFrame(axis, sign, frame, count * 6);
      count++;
    }
    places.count = count;
    return axis < 2;
  }

  /** Weight of each axis of each sample. */
  private sharesOf(samples: Samples): readonly Float32Array[] {
    const shares = samples.boxShares.get(this.least) ?? {
      known: false,
      axes: [0, 1, 2].map(() => new Float32Array(BATCH)),
    };
    samples.boxShares.set(this.least, shares);
    if (!shares.known) this.weigh(samples, shares.axes);
    shares.known = true;
    return shares.axes;
  }

  private weigh({ count, nx, ny, nz }: Samples, [sx, sy, sz]: readonly Float32Array[]): void {
    const { least } = this;
    const scale = least < 1 ? 1 / (1 - least) : 0;
    for (let i = 0; i < count; i++) {
      const ax = Math.abs(nx[i]);
      const ay = Math.abs(ny[i]);
      const az = Math.abs(nz[i]);
      const most = Math.max(ax, ay, az);
      // Of equal parts z goes before x before y.
      if (scale === 0) {
        sz[i] = Number(az === most);
        sx[i] = Number(az !== most && ax === most);
        sy[i] = Number(az !== most && ax !== most);
        continue;
      }
      const wx = Math.max(0, (ax / most - least) * scale);
      const wy = Math.max(0, (ay / most - least) * scale);
      const wz = Math.max(0, (az / most - least) * scale);
      const total = wx * wx + wy * wy + wz * wz;
      sx[i] = (wx * wx) / total;
      sy[i] = (wy * wy) / total;
      sz[i] = (wz * wz) / total;
    }
  }
}

/** Directions of a side's picture for who looks at it from outside. @param sign of the normal along the axis @param o where they go */
function boxFrame(axis: number, sign: number, out: Float64Array, o: number): void {
  out[o] = axis === 0 ? 0 : axis === 1 ? 1 : sign;
  out[o + 1] = 0;
  out[o + 2] = axis === 0 ? -sign : 0;
  out[o + 3] = 0;
  out[o + 4] = axis === 1 ? 0 : 1;
  out[o + 5] = axis === 1 ? -sign : 0;
}
