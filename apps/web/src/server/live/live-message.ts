import type { FaceDecisions } from '@wembrel/core/decisions/face-decisions';
import type { ReadingDecisions } from '@wembrel/core/decisions/reading';
import type { CancelFlag } from '@wembrel/runner/pool/cancel-flag';
import type { InputFile } from '@wembrel/runner/read/collect';
import type { LiveAnswer, LiveQuestion } from '../../contract/live-recipe.ts';

/** What the thread is asked. */
export interface LiveOrder extends LiveQuestion {
  /** What all that was read and baked before depends on: with another one it is done anew. */
  key: string;
  worker: string;
  /** The model, its high-polys, and other models whose materials the recipe takes; of a cell none. */
  file: InputFile | null;
  high: InputFile[];
  others: InputFile[];
  textures: InputFile[];
  reading: ReadingDecisions;
  faces: FaceDecisions;
  /** Side and margin of the sheet in the end, px. */
  sheet: number;
  margin: number;
  /** Shared with the server. */
  cancel: CancelFlag;
}

/** What it tells back. */
export type LiveMessage =
  | { type: 'progress'; share: number; doing: string }
  | { type: 'answer'; head: LiveAnswer; blocks: Uint8Array[] }
  | { type: 'cancelled' }
  | { type: 'failed'; message: string; known: boolean };
