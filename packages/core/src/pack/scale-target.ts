import { SCALE } from './tuning.ts';

/** The scale that is searched for; what was reached is the scale of the best layout. */
export class ScaleTarget {
  scale = 0;
  /** The greatest at which a construction had room for all. */
  private sketched = 0;

  /** @param step how much larger than what has room, as a share */
  constructor(private readonly step = SCALE.step) {}

  /** A construction had room for all at a scale. */
  had(scale: number): void {
    this.sketched = scale;
  }

  /** Another scale, above all that is known to have room. */
  at(scale: number, reached: number): void {
    const known = Math.max(reached, this.sketched);
    this.scale = Math.max(known * (1 + this.step), Math.min(reached * (1 + SCALE.most), scale));
  }

  /** The target as long as it lies above what was reached. */
  above(reached: number): number {
    return Math.max(this.scale, reached * (1 + this.step));
  }

  /** Whether it is far above all that is known to have room. */
  isFar(reached: number): boolean {
    return this.scale > 1.01 * Math.max(reached, this.sketched);
  }

  /** Half-way to what is known to have room. */
  lower(reached: number): void {
    const known = Math.max(reached, this.sketched);
    if (this.scale > known * (1 + 1.5 * this.step)) this.at((known + this.scale) / 2, reached);
  }
}
