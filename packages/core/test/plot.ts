import type { PackablePlot } from '../src/layout/packable.ts';

/** A plot of a shape that packing may turn, by the key `k` and its number. */
export const plot = (id: number, shape: Float64Array): PackablePlot => ({
  id,
  material: 0,
  kind: 'plot' as const,
  keys: [`k${id}`],
  shape,
  originX: 0,
  originY: 0,
  mayTurn: true,
  exact: false,
  texelArea: 1,
  worldArea: 1,
  weight: 1,
  useful: 1,
});
