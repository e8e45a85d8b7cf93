import type { Lay } from '../../decisions/recipe/look.ts';
import { dotOf, type Places, type Projection, pictureFrame } from '../projection/places.ts';
import type { Samples } from '../samples.ts';

type Side = Extract<Lay, { by: 'side' }>;

/** A decal: one picture laid from one side onto everything within its depth that faces it. */
export class SideProjection implements Projection {
  readonly once: readonly [number, number];
  readonly over = true;
  private readonly axes: ReturnType<typeof pictureFrame>;
  private readonly leastCosine: number;

  constructor(private readonly lay: Side) {
    this.once = [lay.width, lay.height];
    this.axes = pictureFrame(lay.direction, lay.up, lay.turn);
    this.leastCosine = Math.cos((lay.facing * Math.PI) / 180);
  }

  fill(samples: Samples, _: number, places: Places, needed: Float32Array | null): boolean {
    const { at, width, height, depth } = this.lay;
    const { right, up, towards } = this.axes;
    const { x, y, z, nx, ny, nz } = samples;
    let count = 0;
    for (let i = 0; i < samples.count; i++) {
      if (needed && needed[i] === 0) continue;
      const d = [x[i] - at[0], y[i] - at[1], z[i] - at[2]] as const;
      if (Math.abs(dotOf(d, towards)) > depth) continue;
      const s = dotOf(d, right) + width / 2;
      const t = height / 2 - dotOf(d, up);
      if (s < 0 || s > width || t < 0 || t > height) continue;
      if (dotOf([nx[i], ny[i], nz[i]], towards) < this.leastCosine) continue;
      places.of[count] = i;
      places.weight[count] = 1;
      places.s[count] = s;
      places.t[count] = t;
      places.frame.set([...right, ...up], count * 6);
      count++;
    }
    places.count = count;
    return false;
  }
}
