import type { MergeDecisions } from '@wembrel/core/decisions/decisions';
import type { PackingSearch } from '@wembrel/core/decisions/sheets';
import type { BayLook } from '@wembrel/core/layout/bay-look';
import type { PackedFigures } from '@wembrel/core/layout/coverage';
import type { PackablePlot } from '@wembrel/core/layout/packable';
import type { Frame } from '@wembrel/core/layout/place';

/**
 * Islands of all sheets as the browser gets them: `plots.json` with this index, `shapes.bin` with the triangles of all plots
 * (float64, six numbers each) and `faces.bin` with their faces (uint32: numbers of triangles of the part).
 */
export interface PlotIndex {
  sheets: PlotEntry[][];
  /** What the bays of each material show; islands that were gathered before this was told have none. */
  looks?: BayLook[];
}

interface PlotEntry extends Omit<PackablePlot, 'shape'> {
  /** Slot of its first face, as it is called. */
  slot: string;
  /** See `plotStretch`; older islands have none. */
  stretch?: number | null;
  /** First triangle in `shapes.bin`, and how many. */
  shape: [first: number, count: number];
  /** Which faces lie here: model, part, then first entry in `faces.bin` and how many. */
  islands: [model: number, part: number, first: number, count: number][];
}

/** A plot with its triangles, as the packing worker packs it. */
export type PackableEntry = Omit<PlotEntry, 'shape'> & { shape: Float64Array };

/** What the packing worker is asked, and what it answers. */
export interface PackRequest {
  id: number;
  index: PlotIndex;
  shapes: Float64Array;
  decisions: MergeDecisions;
  /** Only the sheet at this position; `done` then has this one. */
  only?: number;
  /** Only this sheet, with this seed, until the worker is ended. */
  look?: { sheet: number; seed: number };
}

export type PackAnswer =
  | { id: number; type: 'progress'; share: number }
  /** Islands in rows: something to look at until they are packed. */
  | { id: number; type: 'inRows'; index: number; sheet: PackedSheet }
  | { id: number; type: 'better'; index: number; sheet: PackedSheet; seconds: number }
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
  /** How it is found again. */
  search: PackingSearch;
  /** Held bays that are nearer to each other than the margin. */
  tooNear: number[];
  plots: {
    id: number;
    slot: string;
    material: number;
    /** By what it is known again; see `PinnedBay`. */
    key: string;
    /** It stays where a hand or an earlier delivery put it. */
    pinned: boolean;
    /** Keys by which a hand has mirrored it; none: it is not. */
    flipped: string[];
    x: number;
    y: number;
    /** Degrees by which it is turned, clockwise. */
    turned: number;
    /** px per texel of the source. */
    scale: number;
    /** Upper left and size of the box as turned, px. */
    box: [number, number, number, number];
    /** Upper left and size of the box around what it shows, px: where it is turned by no quarter, that is less. */
    extent: [number, number, number, number];
    /** Its box before it is turned, px; and that of its shape at scale 1, null for a swatch. */
    size: [number, number];
    natural: [number, number] | null;
    /** px per metre; null where it shows no surface. */
    density: number | null;
    /** How much longer its texels are on the surface than wide; null where that cannot be determined. */
    stretch: number | null;
    /** A hand may move it: no strip and no cell. */
    movable: boolean;
    mayTurn: boolean;
    stacked: number;
    /** From the texels of its material to px of the sheet; null where it shows one colour. */
    frame: Frame | null;
    path: string;
  }[];
}
