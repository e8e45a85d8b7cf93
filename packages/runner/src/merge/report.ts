import type { Fidelity } from '@wembrel/core/compare/fidelity';
import { protectedMip } from '@wembrel/core/decisions/sheets';
import type { FaceEditReport } from '@wembrel/core/faces/apply-faces';
import type { Manifest } from '@wembrel/core/handover/manifest';
import { round } from '@wembrel/core/handover/round';
import type { SheetLayout } from '@wembrel/core/layout/layout';
import type { JoinOffer } from '@wembrel/core/plan/join-offer';
import type { Density } from '@wembrel/core/survey/density';
import type { Totals } from '@wembrel/core/survey/figures';
import type { SheetDressed } from '../recipes/dress-sheet.ts';
import type { BakedSheet } from '../stages/bake.ts';
import type { Cut } from '../stages/cut.ts';
import type { Repaired } from '../stages/mend.ts';
import type { Fault } from './faults.ts';

/** The document of `wembrel merge --json`. */
export interface MergeReport {
  before: Totals;
  after: Totals;
  sheets: SheetReport[];
  keptApart: Manifest['keptApart'];
  /** What joining parts across nodes would save besides, in draw calls; null where it saves nothing or is done. */
  joinOffer: JoinOffer | null;
  /** What was done to faces, by model. */
  edited: { path: string; edits: FaceEditReport[] }[];
  /** What was mended on the way. */
  repaired: Repaired;
  /** What was cut at the repeats of its texture. */
  cut: Cut;
  /** Slots whose colour went into vertices. */
  coloured: number;
  density: Density | null;
  /** How like its original the result looks; null where it was not compared. */
  /** Recipes that were laid on sheets, and how far their lines reach. */
  recipes: SheetDressed[];
  fidelity: Fidelity | null;
  seconds: Record<string, number>;
  peakBytes: number;
  written: string[];
  faults: Fault[];
  errors: { path: string; message: string }[];
}

export interface SheetReport {
  name: string;
  /** Width, px. */
  size: number;
  width: number;
  height: number;
  coverage: number;
  /** Path in the delivery, by map. */
  maps: Record<string, string>;
  protectedMip: number;
  /** 1: as sharp as the sources. */
  scale: number;
}

export function sheetReport(sheet: SheetLayout, baked: BakedSheet, maps: Record<string, string>): SheetReport {
  const { width, height } = baked.maps;
  return {
    name: sheet.name,
    size: width,
    width,
    height,
    coverage: round(baked.coverage),
    maps,
    protectedMip: protectedMip(sheet.margin),
    scale: round(sheet.scale),
  };
}

export const roundedDensity = (density: Density): Density => ({
  mean: round(density.mean),
  median: round(density.median),
  p5: round(density.p5),
  p95: round(density.p95),
});
