import type { MergeDecisions, ProjectView } from '../contract/project.ts';
import type { Dropped, Live } from './api.ts';
import type { Forecast } from './prediction.ts';
import type { ViewName } from './stages.ts';

export interface ViewProps {
  project: ProjectView;
  live: Record<string, Live>;
  /** What the present plan will cost; null before the files were read. */
  forecast: Forecast | null;
  /** Makes one change of the decisions, which undo takes back as one. */
  edit: (label: string, apply: (d: MergeDecisions) => MergeDecisions) => void;
  go: (view: ViewName) => void;
  /** Sends files and adds them to the project. */
  add: (files: Dropped[]) => void;
  /** What is being sent, or null. */
  sending: string | null;
}
