import { borderEdges, distanceField, type Field, lengthOf } from '@wembrel/kernels/field';
import type { Freedom, Poses } from '@wembrel/kernels/overlap-solver';
import { type Covered, covered } from './covered.ts';
import { convexHull, hullArea, QUARTERS, tightestDirection } from './directions.ts';
import { type PlacedBorder, placedBorder } from './gaps.ts';
import type { BuilderShape } from './layout-builder.ts';
import { solve } from './solve.ts';
import { COUNTS, PRECISION } from './tuning.ts';
import { scaled, turnedBack } from './turned-back.ts';

/** A shape to be packed tightly. */
export interface TightItem {
  /** Triangles, six numbers each, px at scale 1. */
  shape: Float64Array;
  /** What it covers at scale 1, where that is known. */
  covered?: Covered;
  /** Px per px of the shape at a common scale; constant for what does not scale. */
  size: (scale: number) => number;
  freedom: Freedom;
  /** Stays here: the middle of its box, and its direction. */
  fixed?: { x: number; y: number; c: number; s: number; size: number };
}

/** Middle of a shape's box, px, and its direction. */
export interface TightPlace {
  x: number;
  y: number;
  c: number;
  s: number;
}

/** A sheet in px. */
export interface TightSheet {
  width: number;
  height: number;
  /** Least gap; half of it to the border. */
  margin: number;
  /** Greatest common scale. */
  maxScale: number;
}

/**
 * Shapes made ready for packing: turned to their tightest boxes, with distance fields, in working px. The poses of the solver are middles of those
 * boxes; `placesAt` leads back to the shapes as they were given.
 */
export class TightShapes {
  readonly count: number;
  /** Px a working px. */
  readonly unit: number;
  /** Sides of the sheet and margin, working px; the margin with what fields may be wrong by. */
  readonly width: number;
  readonly height: number;
  readonly margin: number;
  readonly fields: Field[];
  /** Share of their convex hulls that the shapes fill. */
  readonly fullness: number;
  /** Working px per px of each shape at which fields were made. */
  private readonly reference: Float64Array;
  private readonly base: (readonly [number, number])[];
  /** From the middle of the turned back box to that of the shape's own, px of the shape, turned back. */
  private readonly offsets: (readonly [number, number])[];
  private readonly borders: Float64Array[];
  private readonly areas: Float64Array;
  private readonly lengths: Float64Array;

  constructor(
    readonly items: readonly TightItem[],
    sheet: TightSheet,
  ) {
    this.count = items.length;
    this.unit = Math.max(1, Math.max(sheet.width, sheet.height) / PRECISION.workingSide);
    this.width = sheet.width / this.unit;
    this.height = sheet.height / this.unit;
    this.margin = sheet.margin / this.unit + (items.length > COUNTS.many ? PRECISION.slackMany : PRECISION.slack);
    const hulls = items.map((it) => convexHull(it.shape));
    this.base = items.map((it, i) =>
      it.freedom === 2 && !it.fixed ? tightestDirection(it.shape, hulls[i]) : ([1, 0] as const),
    );
    const turned = items.map((it, i) => turnedBack(it.shape, this.base[i]));
    this.offsets = turned.map((t) => t.offset);
    this.borders = turned.map((t) => borderEdges(t.shape));
    const taken = turned.map((t, i) => items[i].covered ?? covered(t.shape));
    this.areas = Float64Array.from(taken, (c) => c.area);
    this.lengths = Float64Array.from(this.borders, (border, i) => taken[i].outline ?? lengthOf(border));
    const convex = items.reduce((sum, it, i) => sum + hullArea(it.shape, hulls[i]), 0);
    this.fullness = Math.min(1, this.areas.reduce((sum, b) => sum + b, 0) / Math.max(convex, 1e-9));
    const sizes = this.sizesAt(solve((s) => this.filling(s) - 0.8, sheet.maxScale));
    this.reference = sizes;
    this.fields = turned.map((t, i) => {
      const half = [t.halfWidth * sizes[i], t.halfHeight * sizes[i]];
      const step = Math.max(1, Math.max(...half) / 128, Math.sqrt((half[0] * half[1] * items.length) / 2e6));
      const options = { step, band: this.margin + 1.1 * step, spacing: 5, tolerance: 0.05 };
      return distanceField(scaled(t.shape, sizes[i]), scaled(this.borders[i], sizes[i]), options);
    });
  }

  /** The shapes as the builder of layouts takes them. */
  forBuilder(): BuilderShape[] {
    return this.items.map((it, i) => ({
      field: this.fields[i],
      directions: it.freedom === 0 ? QUARTERS.slice(0, 1) : QUARTERS,
      fixed: it.fixed && { x: it.fixed.x / this.unit, y: it.fixed.y / this.unit, c: it.fixed.c, s: it.fixed.s },
    }));
  }

  /** Working px per px of each shape at a common scale. */
  sizesAt(scale: number): Float64Array {
    const out = new Float64Array(this.count);
    for (let i = 0; i < out.length; i++) out[i] = this.sizeAt(i, scale);
    return out;
  }

  private sizeAt(i: number, scale: number): number {
    const it = this.items[i];
    return (it.fixed?.size ?? it.size(scale)) / this.unit;
  }

  /** Px per px of each shape's field at a common scale. */
  growthAt(scale: number): Float64Array {
    return this.sizesAt(scale).map((now, i) => (this.reference[i] > 0 ? now / this.reference[i] : 1));
  }

  /** How far a shape reaches at the scale of its field, working px. */
  reach(i: number, radius: number): number {
    return radius * this.reference[i];
  }

  /** Share of the sheet that all shapes take with half of the margin around them (the area of a Minkowski sum, as if they were convex). */
  filling(scale: number): number {
    const m = this.margin / 2;
    let sum = 0;
    for (let i = 0; i < this.count; i++) {
      const size = this.sizeAt(i, scale);
      sum += this.areas[i] * size * size + this.lengths[i] * size * m + Math.PI * m * m;
    }
    return sum / (this.width * this.height);
  }

  /** Exact borders of all shapes where they are, working px. */
  bordersAt({ x, y, c, s }: Omit<Poses, 'size'>, scale: number): PlacedBorder[] {
    const sizes = this.sizesAt(scale);
    return this.borders.map((border, i) => placedBorder(border, sizes[i], x[i], y[i], c[i], s[i]));
  }

  /** Where the shapes as they were given lie, px. */
  placesAt({ x, y, c, s }: Omit<Poses, 'size'>, scale: number): TightPlace[] {
    const sizes = this.sizesAt(scale);
    return this.items.map((it, i) => {
      if (it.fixed) return { x: it.fixed.x, y: it.fixed.y, c: it.fixed.c, s: it.fixed.s };
      const [bc, bs] = this.base[i];
      // Turned back by its base first: a shape's direction is on top of that.
      const [dc, ds] = [c[i] * bc + s[i] * bs, s[i] * bc - c[i] * bs];
      const [ox, oy] = this.offsets[i];
      return {
        x: (x[i] + (c[i] * ox - s[i] * oy) * sizes[i]) * this.unit,
        y: (y[i] + (s[i] * ox + c[i] * oy) * sizes[i]) * this.unit,
        c: dc,
        s: ds,
      };
    });
  }
}
