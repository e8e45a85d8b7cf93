import { constructBeam, type PartialConstruction } from './beam-construction.ts';
import type { BeamWidth } from './choice-rule.ts';
import { type Construction, ConstructionGrid, type ConstructionOrder, type GridShape } from './construction-grid.ts';
import { type Candidate, candidateCost, type SearchParameters } from './search-parameters.ts';
import { CONSTRUCTION } from './tuning.ts';

/** What is drawn next: in which way, how wide, and what it begins with. */
export interface BeamTask {
  parameters: SearchParameters;
  width: BeamWidth;
  from?: PartialConstruction;
}

/** A shape to be constructed. */
export type BuilderShape = Omit<GridShape, 'size'>;

/** constructions of the same shapes at any common scale. */
export class LayoutBuilder {
  /**
   * @param sizesAt px per px of each shape's field at a common scale
   * @param o sides of the sheet and margin, px
   */
  constructor(
    private readonly shapes: readonly BuilderShape[],
    private readonly sizesAt: (scale: number) => Float64Array,
    private readonly o: { width: number; height: number; margin: number; cancelled: () => boolean },
  ) {}

  /** A sheet to construct on. @param cell px a cell @param crowded whether shapes smaller than a cell take one: where most are, they count */
  sheet(scale: number, cell: number, crowded = false): ConstructionGrid {
    const { width, height, margin } = this.o;
    const sizes = this.sizesAt(scale);
    const bodies = this.shapes.map((shape, i) => ({ ...shape, size: sizes[i] }));
    const { fineCell, reachFine, reach } = CONSTRUCTION;
    return new ConstructionGrid(bodies, width, height, margin, cell, cell > fineCell ? reach : reachFine, crowded);
  }

  /**
   * A sheet for another scale than it was made for; null where shapes do not all grow alike, or by more than `most`, so that the margin would take
   * other cells.
   */
  grown(grid: ConstructionGrid, made: number, scale: number, most: number): ConstructionGrid | null {
    const growth = scale / made;
    if (growth < 1 || growth > most) return null;
    const [was, is] = [this.sizesAt(made), this.sizesAt(scale)];
    if (is.some((v, i) => Math.abs(v - was[i] * growth) > 1e-6 * v)) return null;
    grid.enlarge(growth);
    return grid;
  }

  /**
   * constructions all, those with the greatest keys first.
   * @param most px² that may be missing @param like what was constructed before, in a set of search parameters that may begin alike
   * @returns null when more is missing, or when cancelled
   */
  construct(
    grid: ConstructionGrid,
    parameters: SearchParameters,
    most?: number,
    like?: Construction,
  ): Candidate | null {
    const construction = grid.construct(this.constructionOrder(parameters), {
      cancelled: this.o.cancelled,
      most,
      like,
    });
    return construction && this.candidate(parameters, construction);
  }

  /** The best of many constructions side by side. @param most px² that may be missing @returns null when more is, or when cancelled */
  constructBeam(grid: ConstructionGrid, { parameters, width, from }: BeamTask, most: number): Candidate | null {
    const { cancelled } = this.o;
    let best: Candidate | null = null;
    for (const construction of constructBeam(grid, this.constructionOrder(parameters), width, {
      cancelled,
      most,
      from,
    })) {
      const candidate = this.candidate(parameters, construction);
      if (!best || candidateCost(candidate) < candidateCost(best)) best = candidate;
    }
    return best;
  }

  private constructionOrder({ keys, fit, tilt }: SearchParameters): ConstructionOrder {
    const order = this.shapes.map((_, i) => i).sort((a, b) => keys[b] - keys[a] || a - b);
    return { order, keys, fit, tilt };
  }

  private candidate({ keys, fit, tilt }: SearchParameters, construction: Construction): Candidate {
    const late = construction.places.flatMap((place, i) => (place?.over === 0 ? [] : [i]));
    return { construction, missing: construction.missing / (this.o.width * this.o.height), keys, fit, tilt, late };
  }
}
