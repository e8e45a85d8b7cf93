import type { MergeDecisions } from '@wembrel/core/decisions/decisions';
import type { JobScope } from '../pool/job-scope.ts';
import { type OnProgress, type Progress, reporter } from '../progress.ts';
import type { InputFile } from '../read/collect.ts';

/** What the stages begin with: files, and what was decided about them. */
export interface PipelineInput {
  files: InputFile[];
  /** Pictures among the input; those that no model names may go to slots by their names. */
  textures?: InputFile[];
  decisions: MergeDecisions;
  /** Give up when any file is bad. */
  strict?: boolean;
}

/** What every stage may use beside its input. */
export interface StageContext {
  scope: JobScope;
  /** How far a stage is. @param share 0 … 1 within the stage */
  report: (stage: Progress['stage'], share: number, doing: string) => void;
  onProgress?: OnProgress;
}

export function stageContext(scope: JobScope, onProgress?: OnProgress): StageContext {
  return { scope, report: reporter(onProgress), onProgress };
}
