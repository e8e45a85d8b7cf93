import { Condition } from '@wembrel/core/decisions/recipe/condition';
import { LookSource } from '@wembrel/core/decisions/recipe/look';
import { Recipe } from '@wembrel/core/decisions/recipe/recipe';
import type { RecipeProblem } from '@wembrel/core/recipes/prepare';
import type { TexelReading } from '@wembrel/core/recipes/readings/at-texel';
import type { MeasureHistogram } from '@wembrel/core/recipes/readings/histogram';
import type { LineReport } from '@wembrel/runner/recipes/evaluate';
import type { LayoutKind } from '@wembrel/runner/recipes/own-uvs';
import { z } from 'zod';

/** What may be asked while a recipe is tuned. Answers come as JSON with bytes behind it, see `live-bytes.ts`. */

/** What the recipe is laid on: a model of the project, or a cell of so many metres. */
export const LiveSubject = z.union([
  z.object({ model: z.string().min(1).max(400) }),
  z.object({ cell: z.tuple([z.number().gt(0).max(1e4), z.number().gt(0).max(1e4)]) }),
]);
export type LiveSubject = z.infer<typeof LiveSubject>;

/** Side of the maps, px. */
const side = z.union([z.literal(256), z.literal(512), z.literal(1024)]);
export type LiveSide = z.infer<typeof side>;

const asked = { recipe: Recipe, side };

export const LiveAsk = z.discriminatedUnion('ask', [
  /** The model with its UVs, as GLB. */
  z.object({ ask: z.literal('model') }),
  /** The maps of the recipe as it is now. */
  z.object({ ask: z.literal('lay'), ...asked }),
  /** Where a line acts: a byte a texel. */
  z.object({ ask: z.literal('line'), ...asked, line: z.string() }),
  /** How often each value is met of what a condition measures. */
  z.object({ ask: z.literal('histogram'), ...asked, where: Condition }),
  /** What a condition measures at each texel. */
  z.object({ ask: z.literal('measured'), ...asked, where: Condition }),
  /** What is known of a texel; x and y in shares of the sheet. */
  z.object({ ask: z.literal('texel'), ...asked, x: z.number().min(0).max(1), y: z.number().min(0).max(1) }),
  /** One repeat of a look, RGBA. */
  z.object({ ask: z.literal('slab'), look: LookSource, px: z.number().int().min(8).max(256) }),
]);
export type LiveAsk = z.infer<typeof LiveAsk>;

export const LiveQuestion = z.object({ on: LiveSubject, question: LiveAsk });
export type LiveQuestion = z.infer<typeof LiveQuestion>;

/** Bytes of a question: strokes may have many points. */
export const LIVE_BYTES = 8_000_000;

/** Maps of a recipe; their bytes follow in this order, those that are null left out. RGBA, RGB, RGB, RGB. */
export interface LaidView {
  ask: 'lay';
  width: number;
  height: number;
  normal: boolean;
  emissive: boolean;
  emissiveStrength: number;
  lines: LineReport[];
  problems: RecipeProblem[];
  /** How many lines were taken from the time before. */
  from: number;
  odd: Record<string, number>;
  ids: Record<string, { colour: number; name: string | null }[]>;
  milliseconds: number;
}

export type LiveAnswer =
  | { ask: 'model'; layout: LayoutKind; apart: string[] }
  | LaidView
  /** A byte a texel follows; null where it cannot be asked. */
  | { ask: 'line'; share: number | null }
  | { ask: 'histogram'; histogram: MeasureHistogram | null }
  /** A float a texel follows, little-endian, NaN where nothing is measured; nothing where it cannot be asked. */
  | { ask: 'measured' }
  | { ask: 'texel'; texel: TexelReading | null }
  /** RGBA follows; else why it cannot be read. */
  | { ask: 'slab'; problem: string | null };
