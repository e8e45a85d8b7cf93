import type { Bvh } from '@wembrel/kernels/bvh-layout';
import { ClosestPoint } from '@wembrel/kernels/closest-point';
import type { WindingNumber } from './winding.ts';

/** Nodes of a grid at the most: floats of them have to be held. */
export const MOST_NODES = 40_000_000;
/** Free nodes on each side of what is wrapped. */
const RIM = 3;
/** Nodes along a side of a block that is looked at as one. */
const BLOCK = 4;
/** The band in which distances are exact, in cells. */
const BAND = 1.8;
/** Winding numbers farther from a half than this are the same all over a block. */
const SURE = 0.25;
/** A little more than a cell, for distances that are not exact to the last digit. */
const SAFE = 1.001;
/** Half of the least thickness, in cells: a sheet without any is given it. */
export const HALF_THICKNESS = 0.5;

/** A regular grid about what is wrapped; x runs fastest. */
export interface HullGrid {
  /** Place of the first node, m. */
  origin: readonly [number, number, number];
  /** m */
  cell: number;
  /** Nodes along x, y, z. */
  size: readonly [number, number, number];
  /** What is wrapped: low x y z, high x y z, m. */
  box: readonly number[];
}

/** @param box low x y z, high x y z, m */
export function hullGrid(box: readonly number[], cell: number): HullGrid {
  // Nodes lie off the middles and planes of symmetry on which modelled surfaces lie.
  const off = 0.3137 * cell;
  const origin = [0, 1, 2].map((k) => box[k] - RIM * cell - off) as [number, number, number];
  const size = [0, 1, 2].map((k) => Math.ceil((box[k + 3] - box[k]) / cell) + 2 * RIM + 2);
  return { origin, cell, size: size as [number, number, number], box };
}

export const gridNodes = ({ size }: HullGrid): number => size[0] * size[1] * size[2];

/** What is known of a surface before its grid is measured; the same for every worker. */
export interface FieldSource {
  bvh: Bvh;
  winding: WindingNumber;
  /** The surface has no borders: what is not near it needs no winding numbers. */
  closed: boolean;
}

/** A field in shared memory, nothing of which is known yet. */
export const emptyField = (grid: HullGrid): Float32Array =>
  new Float32Array(new SharedArrayBuffer(gridNodes(grid) * 4)).fill(Number.NaN);

/** Layers of blocks that are measured one by one. */
export const fieldLayers = ({ size }: HullGrid): number => Math.ceil(size[2] / BLOCK);

/**
 * Measures a layer of a field: how far every node lies from the hull, below 0 inside, m; true near the surface, of the right sign elsewhere. Inside is what the
 * surface winds around, and what lies within half the least thickness of it. What is far from a closed surface stays unknown. Layers do not need each other.
 */
export function measureLayer(grid: HullGrid, field: Float32Array, source: FieldSource, layer: number): void {
  const { cell, size, origin } = grid;
  const measure: Measure = { closest: new ClosestPoint(source.bvh), winding: source.winding, cell };
  const steps = [1, size[0], size[0] * size[1]];
  const half = ((BLOCK - 1) / 2) * cell;
  const reach = half * Math.sqrt(3) + BAND * cell;
  const bz = layer * BLOCK;
  for (let by = 0; by < size[1]; by += BLOCK)
    for (let bx = 0; bx < size[0]; bx += BLOCK) {
      const middle = [bx, by, bz].map((b, k) => origin[k] + b * cell + half);
      const near = measure.closest.find(middle[0], middle[1], middle[2], reach);
      if (!near && source.closed) continue;
      const { distance } = measure.closest;
      const w = near ? 0.5 : Math.abs(source.winding.at(middle[0], middle[1], middle[2]));
      const uniform = !near && Math.abs(w - 0.5) > SURE ? windingValue(w, cell) : null;
      eachNode(grid, [bx, by, bz], (i, at) => {
        // Layers of open surfaces wind around places in front of them as well; none of those is inside.
        const off = beside(at, grid.box) - HALF_THICKNESS * cell;
        if (uniform !== null) field[i] = Math.max(uniform, off);
        else {
          const beyond =
            near && distance - Math.hypot(at[0] - middle[0], at[1] - middle[1], at[2] - middle[2]) > BAND * cell;
          field[i] = Math.max(
            off,
            nodeValue(at, measure, source.closed ? inheritedSide(field, i, steps, cell) : 0, beyond),
          );
        }
      });
    }
}

/** How far a place lies outside of a box along the axis on which it is farthest, m; below 0 inside. */
const beside = (at: readonly number[], box: readonly number[]): number =>
  Math.max(box[0] - at[0], at[0] - box[3], box[1] - at[1], at[1] - box[4], box[2] - at[2], at[2] - box[5]);

/** 1 where a node before lies so far outside, −1 where it lies so far inside, that the surface cannot pass between; 0: not known. */
function inheritedSide(field: Float32Array, i: number, steps: readonly number[], cell: number): number {
  for (const step of steps) {
    const before = field[i - step];
    if (before >= (1 - HALF_THICKNESS) * cell * SAFE) return 1;
    if (before <= -cell * SAFE) return -1;
  }
  return 0;
}

function eachNode(
  { origin, cell, size }: HullGrid,
  [bx, by, bz]: readonly number[],
  visit: (node: number, at: readonly [number, number, number]) => void,
): void {
  for (let z = bz; z < Math.min(size[2], bz + BLOCK); z++)
    for (let y = by; y < Math.min(size[1], by + BLOCK); y++)
      for (let x = bx; x < Math.min(size[0], bx + BLOCK); x++)
        visit((z * size[1] + y) * size[0] + x, [origin[0] + x * cell, origin[1] + y * cell, origin[2] + z * cell]);
}

/** Away from the surface there is no distance to go by: the winding number crosses a half where a hole is closed. */
const windingValue = (w: number, cell: number): number => Math.max(-2, Math.min(2, (0.5 - w) * 8)) * cell;

/** With what nodes are measured. */
interface Measure {
  closest: ClosestPoint;
  winding: WindingNumber;
  cell: number;
}

/** @param side on which a node is known to lie: 1 outside, −1 inside, 0 not known @param beyond it is known to lie beyond the band */
function nodeValue(at: readonly [number, number, number], measure: Measure, side: number, beyond: boolean): number {
  const [x, y, z] = at;
  const { closest, winding, cell } = measure;
  const near = !beyond && closest.find(x, y, z, BAND * cell);
  if (!near && side !== 0) return 2 * cell * side;
  const w = side === 0 ? Math.abs(winding.at(x, y, z)) : side < 0 ? 1 : 0;
  if (!near) return windingValue(w, cell);
  const { distance } = closest;
  return Math.min(w > 0.5 ? -distance : distance, distance - HALF_THICKNESS * cell);
}

/** The last step of a field: nodes that cannot be reached from the rim count as inside; of cavities that are kept only those that were never measured. */
export function fillUnreached({ size, cell }: HullGrid, field: Float32Array, keepCavities: boolean): void {
  const reached = new Uint8Array(field.length);
  const stack = [0];
  reached[0] = 1;
  const steps = [1, -1, size[0], -size[0], size[0] * size[1], -size[0] * size[1]];
  while (stack.length > 0) {
    const i = stack.pop() as number;
    const [x, y, z] = [i % size[0], Math.floor(i / size[0]) % size[1], Math.floor(i / (size[0] * size[1]))];
    const open = [x < size[0] - 1, x > 0, y < size[1] - 1, y > 0, z < size[2] - 1, z > 0];
    for (let s = 0; s < 6; s++) {
      if (!open[s]) continue;
      const j = i + steps[s];
      if (reached[j] || field[j] <= 0) continue;
      reached[j] = 1;
      stack.push(j);
    }
  }
  for (let i = 0; i < field.length; i++) {
    if (reached[i]) {
      if (Number.isNaN(field[i])) field[i] = 2 * cell;
    } else if (Number.isNaN(field[i])) field[i] = -2 * cell;
    else if (field[i] > 0 && !keepCavities) field[i] = -cell;
  }
}
