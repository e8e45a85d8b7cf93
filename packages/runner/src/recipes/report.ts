import type { LineReport } from './evaluate.ts';
import type { LayoutKind } from './own-uvs.ts';

/** Something that is not as somebody would wish. */
export interface RecipeFault {
  code: 'line' | 'stacked' | 'ids' | 'extension' | 'cell';
  /** Model and line, or model and picture. */
  subject: string;
  message: string;
}

/** A model that was dressed, or a cell. */
export interface DressedModel {
  /** File that was written. */
  path: string;
  source: string;
  layout: LayoutKind | 'cell';
  /** px */
  size: number;
  coverage: number;
  /** px per metre, in the mean. */
  density: number;
  /** Slots that stay as they were. */
  apart: string[];
  lines: LineReport[];
  maps: Record<string, string>;
}

/** The document of `wembrel recipe apply --json`. */
export interface RecipeReport {
  recipe: string;
  models: DressedModel[];
  seconds: Record<string, number>;
  peakBytes: number;
  written: string[];
  faults: RecipeFault[];
  errors: { path: string; message: string }[];
}
