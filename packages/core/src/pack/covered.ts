import { boxAround } from '../math/box.ts';
import { shapeArea } from './rasterise.ts';

/** Lines that are laid over a shape in each direction. */
const LINES = 64;
/** Cells along each line. */
const CELLS = 256;
/** Up to this share of the area of all triangles is taken for what lines miss, not for overlap. */
const OVERLAP = 0.95;

/** What a shape covers, px² and px. */
export interface Covered {
  area: number;
  /** Length of its outline; null where the triangles do not overlap, so that their border edges are the outline. */
  outline: number | null;
}

/**
 * Area that the triangles of a shape cover together. Islands that were joined because they overlap, or whose triangles lie over each other, cover far
 * less than the sum of their triangles: on real files a fifth. Where nothing overlaps it is that sum, exactly; else it is measured along lines in both
 * directions, as is the length of the outline (Cauchy and Crofton: π / 4 of the crossings times the spacing).
 */
export function covered(shape: Float64Array): Covered {
  const sum = shapeArea(shape);
  const across = alongLines(shape, 0);
  const down = alongLines(shape, 1);
  const area = (across.area + down.area) / 2;
  if (area >= OVERLAP * sum) return { area: sum, outline: null };
  return { area, outline: (Math.PI / 4) * (across.crossings + down.crossings) };
}

/** Area inside and crossings times spacing, along lines in the direction of an axis: 0 along x, 1 along y. */
function alongLines(shape: Float64Array, axis: 0 | 1): { area: number; crossings: number } {
  const box = boxAround([shape]);
  const [low, high, left, right] = axis === 0 ? [box[2], box[3], box[0], box[1]] : [box[0], box[1], box[2], box[3]];
  const step = (high - low) / LINES;
  const cell = (right - left) / CELLS;
  if (step <= 0 || cell <= 0) return { area: 0, crossings: 0 };
  // A column more than there are cells, so that every span ends inside its row.
  const row = CELLS + 1;
  const inside = new Uint8Array(LINES * row);
  const across = new Float64Array(3);
  const along = new Float64Array(3);
  for (let i = 0; i < shape.length; i += 6) {
    for (let k = 0; k < 3; k++) {
      across[k] = (shape[i + 2 * k + 1 - axis] - low) / step - 0.5;
      along[k] = (shape[i + 2 * k + axis] - left) / cell;
    }
    const first = Math.max(0, Math.ceil(Math.min(across[0], across[1], across[2])));
    const last = Math.min(LINES - 1, Math.floor(Math.max(across[0], across[1], across[2])));
    for (let line = first; line <= last; line++) {
      let from = Infinity;
      let to = -Infinity;
      for (let k = 0; k < 3; k++) {
        const j = k === 2 ? 0 : k + 1;
        if (across[k] < line === across[j] < line) continue;
        const at = along[k] + ((line - across[k]) / (across[j] - across[k])) * (along[j] - along[k]);
        if (at < from) from = at;
        if (at > to) to = at;
      }
      // Ends go to the nearest borders of cells, so that neighbours leave no gap.
      if (to > from) inside.fill(1, line * row + Math.round(from), line * row + Math.round(to));
    }
  }
  let cells = 0;
  let crossings = 0;
  for (let i = 0, before = 0; i < inside.length; before = inside[i++]) {
    cells += inside[i];
    if (inside[i] !== before) crossings++;
  }
  return { area: cells * cell * step, crossings: crossings * step };
}
