import { type Drawn, type Way, worth } from './hunt.ts';
import { type Drawing, type DrawOrder, Sketch, type SketchBody } from './sketch.ts';
import { type Begun, drawWide, type Width } from './wide.ts';

/** Working px a cell of a sketch that is to be better than what there is. */
export const FINE = 1;
/** Growth up to which the cells of all shapes are taken as the same, on a fine and on a coarse grid. */
export const SAME = 1.03;
export const COARSE = 1.15;

/** What is drawn next: in which way, how wide, and what it begins with. */
export interface Draft {
  way: Way;
  width: Width;
  from?: Begun;
}

/** A shape to be sketched. */
export type Sketched = Omit<SketchBody, 'size'>;

/** Sketches of the same shapes at any common scale. */
export class Sketcher {
  /**
   * @param sizesAt px per px of each shape's field at a common scale
   * @param o sides of the sheet and margin, px
   */
  constructor(
    private readonly shapes: readonly Sketched[],
    private readonly sizesAt: (scale: number) => Float64Array,
    private readonly o: { width: number; height: number; margin: number; cancelled: () => boolean },
  ) {}

  /** A sheet to sketch on. @param cell px a cell */
  sheet(scale: number, cell: number): Sketch {
    const { width, height, margin } = this.o;
    const sizes = this.sizesAt(scale);
    const bodies = this.shapes.map((shape, i) => ({ ...shape, size: sizes[i] }));
    return new Sketch(bodies, width, height, margin, cell, cell > FINE ? 0.3 : 0.1);
  }

  /**
   * A sheet for another scale than it was made for; null where shapes do not all grow alike, or by more than `most`, so that the margin would take
   * other cells.
   */
  grown(sketch: Sketch, made: number, scale: number, most: number): Sketch | null {
    const growth = scale / made;
    if (growth < 1 || growth > most) return null;
    const [was, is] = [this.sizesAt(made), this.sizesAt(scale)];
    if (is.some((v, i) => Math.abs(v - was[i] * growth) > 1e-6 * v)) return null;
    sketch.enlarge(growth);
    return sketch;
  }

  /**
   * Sketches all, those with the greatest keys first.
   * @param most px² that may be missing @param like what was sketched before, in a way that may begin alike
   * @returns null when more is missing, or when cancelled
   */
  draw(sketch: Sketch, way: Way, most?: number, like?: Drawing): Drawn | null {
    const drawing = sketch.draw(this.orderOf(way), { cancelled: this.o.cancelled, most, like });
    return drawing && this.drawn(way, drawing);
  }

  /** The best of many sketches side by side. @param most px² that may be missing @returns null when more is, or when cancelled */
  drawWide(sketch: Sketch, { way, width, from }: Draft, most: number): Drawn | null {
    const { cancelled } = this.o;
    let best: Drawn | null = null;
    for (const drawing of drawWide(sketch, this.orderOf(way), width, { cancelled, most, from })) {
      const drawn = this.drawn(way, drawing);
      if (!best || worth(drawn) < worth(best)) best = drawn;
    }
    return best;
  }

  private orderOf({ keys, fit, tilt }: Way): DrawOrder {
    const order = this.shapes.map((_, i) => i).sort((a, b) => keys[b] - keys[a] || a - b);
    return { order, keys, fit, tilt };
  }

  private drawn({ keys, fit, tilt }: Way, drawing: Drawing): Drawn {
    const late = drawing.places.flatMap((p, i) => (p?.over === 0 ? [] : [i]));
    return { drawing, missing: drawing.missing / (this.o.width * this.o.height), keys, fit, tilt, late };
  }
}
