import type { MergeDecisions } from '../../contract/project.ts';

/** All that undo covers: what is decided, and which files there are. */
export interface ProjectState {
  decisions: MergeDecisions;
  /** Logical path → blob. */
  sources: Record<string, { hash: string; bytes: number }>;
}
