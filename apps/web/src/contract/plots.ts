import type { PackedFigures } from '@wembrel/core/plan/predict';
import type { PackablePlot } from '@wembrel/core/uv/layout';

/**
 * Islands of all sheets as the browser gets them: `plots.json` with this index, `shapes.bin` with the triangles of all plots
 * (float64, six numbers each) and `faces.bin` with their faces (uint32: numbers of triangles of the part).
 */
export interface PlotIndex {
  sheets: PlotEntry[][];
}

export interface PlotEntry extends Omit<PackablePlot, 'shape'> {
  /** Slot of its first face, as it is called. */
  slot: string;
  /** First triangle in `shapes.bin`, and how many. */
  shape: [first: number, count: number];
  /** Which faces lie here: model, part, then first entry in `faces.bin` and how many. */
  islands: [model: number, part: number, first: number, count: number][];
}

/** What the packing worker is asked, and what it answers. */
export interface PackRequest {
  id: number;
  index: PlotIndex;
  shapes: Float64Array;
  decisions: import('@wembrel/core/plan/decisions').MergeDecisions;
}

export type PackAnswer =
  | { id: number; type: 'progress'; share: number }
  | { id: number; type: 'done'; sheets: PackedSheet[]; seconds: number }
  | { id: number; type: 'failed'; message: string };

export interface PackedSheet {
  name: string;
  width: number;
  height: number;
  /** Room that stays free, px. */
  reserves: { id: string; x: number; y: number; width: number; height: number; note: string }[];
  margin: number;
  scale: number;
  coverage: number;
  /** What that means for the prediction; null when nothing lies there. */
  figures: PackedFigures | null;
  attempts: number;
  plots: {
    id: number;
    slot: string;
    material: number;
    x: number;
    y: number;
    turns: number;
    box: [number, number, number, number];
    stacked: number;
    path: string;
  }[];
}
