import type { Turns } from '../pack/rasterise.ts';
import type { Plot } from './plots.ts';

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
  | 'texelArea'
  | 'worldArea'
  | 'weight'
  | 'useful'
>;

/** A placed plot without what only the bake needs. */
export type PlacedShape = PackablePlot & {
  sheet: number;
  x: number;
  y: number;
  turns: Turns;
  direction?: readonly [number, number];
  /** See `PlacedPlot`. */
  flip?: number;
  scale: number;
  boxWidth: number;
  boxHeight: number;
  factor: number;
};

export interface PackedPlots<P> {
  /** Common scale. */
  scale: number;
  attempts: number;
  /** Effort with which it is found again. */
  rounds: number;
  plots: (P & PlacedShape)[];
}
