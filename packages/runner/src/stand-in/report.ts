import type { RayBake } from '../rays/bake-rays.ts';
import type { StandInFidelity } from './measure.ts';
import type { Weight } from './source.ts';

/** What became of one model. */
export interface StandInModel {
  source: string;
  path: string;
  before: Weight;
  after: Weight;
  /** Every edge belongs to two faces; hulls always are. */
  watertight: boolean;
  /** m³; null where the surface is open. */
  volume: { before: number | null; after: number | null };
  /** Farthest that a point of the stand-in lies from what is seen of its source, m; and either way. */
  strays: number;
  hausdorff: number;
  /** Triangles of the source that nothing from outside sees. */
  hidden: number;
  /** From where it is meant to be seen, m, and by how many px 99 % of its outline are off from there. */
  distance: number;
  outlinePx: number;
  charts: number;
  coverage: number;
  /** px per metre. */
  density: number;
  reaches: { outward: number; inward: number };
  /** Texels of the sheet that a px of the screen shows from that distance: below 1 it has less detail than the screen could show. */
  texelsPerPx: number;
  texels: { all: number; missed: number; stray: number };
  lods: {
    path: string;
    triangles: number;
    error: number;
    errorPx: number;
    distance: number;
    screen: number;
    card: boolean;
  }[];
  maps: Record<string, string>;
  /** Slots of the source that stay apart. */
  apart: string[];
  fidelity: StandInFidelity | null;
}

/** The document of `wembrel stand-in --json`. */
export interface StandInReport {
  models: StandInModel[];
  sheets: { name: string; size: number; maps: Record<string, string> }[];
  seconds: Record<string, number>;
  peakBytes: number;
  written: string[];
  faults: RayBake['faults'];
  errors: { path: string; message: string }[];
}
