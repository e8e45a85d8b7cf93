import type { Turned } from './placed-map.ts';

/** A shape to be placed. */
export interface PackItem {
  /** Triangles, six numbers each, px at scale 1, all ≥ 0. */
  shape: Float64Array;
  /** Relative size on top of the common scale, and the greatest size that it grows to, px per px of the shape. */
  factor: number;
  most?: number;
  mayTurn: boolean;
  /** Size in px that does not scale (a swatch): the shape is this square. */
  fixedSide?: number;
  /** Its upper left stands on multiples of this, px; 1 when not given. */
  align?: number;
  /** Where its upper left lies within the blocks of its source, px from their corner; see `LATTICE`. */
  lattice?: readonly [left: number, top: number];
  /** Box in which it is turned, px at its size; the smallest one when not given. */
  box?: readonly [width: number, height: number];
}

export interface Placement extends Turned {
  /** Upper left of the turned box, px. */
  x: number;
  y: number;
}

export interface PackResult {
  /** Common scale, or 0 when nothing fits at any scale. */
  scale: number;
  placements: Placement[];
  /** How many layouts were tried. */
  attempts: number;
  /** Effort with which it is found again. */
  rounds: number;
}

export interface PackOptions {
  width: number;
  height: number;
  /** Least gap between shapes, px; half of it to the border. */
  margin: number;
  /** Room that stays free, px. */
  reserves?: readonly { x: number; y: number; width: number; height: number }[];
  /** Shapes that are there already: where, how turned, px per px of the shape; a swatch has its side, px. */
  fixed?: readonly FixedShape[];
  rotate: 'none' | 'quarter' | 'free';
  /** Shapes stand on whole texels, for pictures made of texels; else wherever they fit best. */
  snap?: boolean;
  /** The common scale never exceeds this. */
  maxScale: number;
  /** Attempts at a greater scale after the first layout that fits. */
  effort: number;
  seed: number;
  /** Polled between attempts. */
  cancelled?: () => boolean;
  progress?: (share: number) => void;
  /** Called with every better layout as it is found. */
  better?: (result: PackResult) => void;
}

/** A shape that is there already. */
interface FixedShape extends Placement {
  shape: Float64Array;
  /** Of a swatch: its side, px. */
  side?: number;
  /** px per px of the shape. */
  scale: number;
}
