import { buildBvh } from '@wembrel/kernels/bvh';
import type { Bvh } from '@wembrel/kernels/bvh-layout';
import { boxOf, largestSide } from '../../rays/target/mesh-box.ts';
import { isWatertight, type LightMesh } from '../light-mesh.ts';
import { contour } from './contour.ts';
import {
  emptyField,
  type FieldSource,
  fieldLayers,
  fillUnreached,
  gridNodes,
  type HullGrid,
  hullGrid,
  MOST_NODES,
  measureLayer,
} from './field.ts';
import { fitToSource } from './fit.ts';
import { WindingNumber } from './winding.ts';

/** Cells along the largest side, unless a width is given. */
const CELLS = 96;

export interface HullOptions {
  /** Width of a cell, m; null: a 96th of the largest side. */
  cell: number | null;
  /** Cavities inside stay. */
  keepCavities: boolean;
}

/** What is wrapped, and the grid about it. */
interface Wrapped {
  source: LightMesh;
  grid: HullGrid;
  bvh: Bvh;
}

/** The width that a hull's cells have when none is given, m. */
const suggestedCell = (mesh: LightMesh): number => largestSide(boxOf([mesh])) / CELLS;

/** @throws Error with a sentence where there is nothing to wrap, or cells so small need too much memory */
export function hullGridOf(source: LightMesh, given: number | null): HullGrid {
  const box = boxOf([source]);
  if (!(largestSide(box) > 0) || source.indices.length === 0)
    throw new Error('it has no size, so that no hull fits around it');
  const cell = given ?? suggestedCell(source);
  const grid = hullGrid(box, cell);
  const nodes = gridNodes(grid);
  if (nodes > MOST_NODES)
    throw new Error(
      `cells of ${(cell * 1000).toPrecision(3)} mm would be ${Math.round(nodes / 1e6)} million; at most ${MOST_NODES / 1e6} million are made, so take wider ones`,
    );
  return grid;
}

/** What layers of a field are measured from. */
export const fieldSource = (source: LightMesh, bvh: Bvh): FieldSource => ({
  bvh,
  winding: new WindingNumber(source),
  closed: isWatertight(source),
});

/** The surface of a field all of whose layers are measured, fitted to the source. */
export function hullFrom(wrapped: Wrapped, field: Float32Array, keepCavities: boolean): LightMesh {
  const { source, grid, bvh } = wrapped;
  fillUnreached(grid, field, keepCavities);
  return fitToSource(contour(grid, field), { source, bvh, grid, field });
}

/**
 * One watertight and manifold surface around triangles of any kind: with holes, inner faces, overlapping shells, thin sheets. Distances on a grid, contoured and
 * fitted to the source; not simplified yet. Sheets get a thickness of one cell.
 * @throws Error as `hullGridOf`
 */
export function hullOf(source: LightMesh, { cell, keepCavities }: HullOptions): LightMesh {
  const grid = hullGridOf(source, cell);
  const bvh = buildBvh(source.positions, source.indices);
  const field = emptyField(grid);
  const measured = fieldSource(source, bvh);
  for (let layer = 0; layer < fieldLayers(grid); layer++) measureLayer(grid, field, measured, layer);
  return hullFrom({ source, grid, bvh }, field, keepCavities);
}
