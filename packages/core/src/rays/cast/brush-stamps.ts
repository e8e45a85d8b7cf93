import type { BrushStamp } from '../../decisions/ray-decisions.ts';

/** Nothing is brushed: shares of the pairing's reaches, and of the face's normal in the direction of rays. */
const NONE = [1, 1, 0] as const;

/**
 * What the brush has changed at a point: each brush stamp blends reaches and direction towards its own, most in its middle and not at all from its radius on
 * ((1 − d²/r²)², smooth at both ends); later brush stamps lie over earlier ones.
 */
export class Brushed {
  /** Shares of the pairing's reaches. */
  outward = 1;
  inward = 1;
  /** Share of the face's normal in the direction of rays; the rest comes from where the settings says. */
  straight = 0;
  private readonly near: BrushStamp[] = [];

  constructor(private readonly localReaches: readonly BrushStamp[]) {}

  get any(): boolean {
    return this.localReaches.length > 0;
  }

  /** Points that are asked for next lie in this box, m. */
  within(low: ArrayLike<number>, high: ArrayLike<number>): void {
    this.near.length = 0;
    for (const stamp of this.localReaches) {
      let far = 0;
      for (let k = 0; k < 3; k++) {
        const v = stamp.at[k] < low[k] ? low[k] - stamp.at[k] : stamp.at[k] > high[k] ? stamp.at[k] - high[k] : 0;
        far += v * v;
      }
      if (far < stamp.radius * stamp.radius) this.near.push(stamp);
    }
  }

  /** @returns whether anything is brushed there */
  at(x: number, y: number, z: number): boolean {
    [this.outward, this.inward, this.straight] = NONE;
    let any = false;
    for (const stamp of this.near) {
      const s =
        ((x - stamp.at[0]) ** 2 + (y - stamp.at[1]) ** 2 + (z - stamp.at[2]) ** 2) / (stamp.radius * stamp.radius);
      if (s >= 1) continue;
      any = true;
      const w = (1 - s) ** 2;
      this.outward += (stamp.outward - this.outward) * w;
      this.inward += (stamp.inward - this.inward) * w;
      this.straight += (stamp.straight - this.straight) * w;
    }
    return any;
  }
}
