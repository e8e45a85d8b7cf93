import type { Turned } from '../pack/placed-map.ts';
import type { Plot } from './plot.ts';

/** What packing reads of a plot. */
export type PackablePlot = Pick<
  Plot,
  | 'id'
  | 'material'
  | 'kind'
  | 'keys'
  | 'shape'
  | 'originX'
  | 'originY'
  | 'mayTurn'
  | 'exact'
  | 'texelArea'
  | 'worldArea'
  | 'weight'
  | 'useful'
>;

/** Where a plot lies: px = turned((layout − origin) · scale) + (x, y). */
export interface PlotPlace extends Turned {
  sheet: number;
  /** Relative size: 1 = as many texels as the source. */
  factor: number;
  x: number;
  y: number;
  /** Where a hand has mirrored it: its width, texels. It is mirrored before it is turned. */
  flip?: number;
  /** px per texel of the source, factor included. */
  scale: number;
  /** Box of the scaled, not yet turned shape, whole px. */
  boxWidth: number;
  boxHeight: number;
}

/** A placed plot without what only the bake needs. */
export type PlacedShape = PackablePlot & PlotPlace;

export interface PackedPlots<P> {
  /** Common scale. */
  scale: number;
  attempts: number;
  /** Effort with which it is found again. */
  rounds: number;
  plots: (P & PlacedShape)[];
}
