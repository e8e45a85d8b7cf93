import type { HandPlot } from '../src/views/uv/hand.ts';

/** A bay of a sheet as the page has it: a rectangle at half the size of its source. */
export const bay = (id: number, x: number, y: number, w: number, h: number): HandPlot => ({
  id,
  slot: `slot ${id}`,
  material: 0,
  key: `k${id}`,
  pinned: false,
  flipped: [],
  x,
  y,
  turned: 0,
  scale: 0.5,
  box: [x, y, w, h],
  extent: [x, y, w, h],
  size: [w, h],
  natural: [w * 2, h * 2],
  density: 100,
  movable: true,
  mayTurn: true,
  stacked: 1,
  frame: null,
  stretch: null,
  path: '',
});
