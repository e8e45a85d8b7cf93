import type { MergeDecisions } from '@wembrel/core/decisions/decisions';
import type { CancelFlag } from '@wembrel/runner/pool/cancel-flag';
import type { InputFile } from '@wembrel/runner/read/collect';
import type { PipelineInput } from '@wembrel/runner/stages/context';
import type { JobKind, ReadFileView, Region } from '../../contract/project.ts';

/** What a job thread is asked to do. */
export interface JobOrder {
  kind: JobKind;
  /** The one sheet, or pairing, to bake, or null. */
  sheet: string | null;
  /** See `StartJob`. */
  region: Region;
  /** The job's own folder. */
  folder: string;
  worker: string;
  /** Folder of what former jobs found; see `FactsCache`. */
  cache: string;
  files: InputFile[];
  /** Pictures of the input. */
  textures: InputFile[];
  decisions: MergeDecisions;
  /** Folders of earlier jobs of the kind, the newest first. */
  earlier: string[];
  /** See `filesStamp`. */
  filesStamp: string;
  /** One text for the sources alone, however they are read. */
  sourcesStamp: string;
  /** Shared with the server. */
  cancel: CancelFlag;
}

/** Small file in the folder of a survey that says which sources it read. */
export const SOURCES_STAMP = 'sources.stamp';

/** What the stages begin with. */
export const inputOf = ({ files, textures, decisions }: JobOrder): PipelineInput => ({ files, textures, decisions });

/** What it tells back. */
export type JobMessage =
  | { type: 'progress'; share: number; doing: string }
  /** A new picture of the sheet that is being baked: `preview.png` in the job's folder. */
  | { type: 'preview'; sheet: string; count: number }
  /** A survey has read a file; its picture is `thumbs/read-{file}.png` in the job's folder. */
  | { type: 'read'; file: ReadFileView }
  /** Its result is there; what goes on is the comparison. */
  | { type: 'delivered' }
  /** What it turned out to be: a bake that its proof stopped is a proof. */
  | { type: 'became'; kind: JobKind }
  | { type: 'done' }
  | { type: 'cancelled' }
  | { type: 'failed'; message: string };

/** Tells the server. */
export type Emit = (jobMessage: JobMessage) => void;
