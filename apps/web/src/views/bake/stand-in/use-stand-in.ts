import { useQuery } from '@tanstack/react-query';
import { canonicalJson } from '@wembrel/core/canonical-json';
import type { StandInSpec } from '@wembrel/core/decisions/stand-in';
import type { JobView, ProjectView, StandInResultView } from '../../../contract/project.ts';
import { call } from '../../../project/call.ts';

/** The jobs of one model's stand-in. */
export interface StandInJobs {
  /** The newest result; one of the files as they are now comes first. */
  last: JobView | undefined;
  /** What waits or runs. */
  running: JobView | undefined;
  /** The last one, where it came to nothing. */
  failed: JobView | undefined;
}

/** @param model path of its file */
export function standInJobs(
  { jobs, standInStamp }: Pick<ProjectView, 'jobs' | 'standInStamp'>,
  model: string,
): StandInJobs {
  const own = jobs.filter(
    ({ kind, sheet }) => (kind === 'stand-in-proof' || kind === 'stand-in-final') && sheet === model,
  );
  const done = own.filter(({ state }) => state === 'done');
  const [newest] = own;
  return {
    last: done.find(({ madeFrom }) => madeFrom === standInStamp) ?? done[0],
    running: own.find(({ state }) => state === 'running' || state === 'queued'),
    failed: newest?.state === 'failed' || newest?.state === 'interrupted' ? newest : undefined,
  };
}

/** Whether a result is of other files or other settings than are there now. */
export const isOutdated = (
  stamp: string,
  job: Pick<JobView, 'madeFrom'>,
  made: StandInSpec,
  spec: StandInSpec,
): boolean => job.madeFrom !== stamp || canonicalJson(made) !== canonicalJson(spec);

export function useStandInResult(job: string | undefined) {
  return useQuery({
    queryKey: ['stand-in', job],
    enabled: job !== undefined,
    staleTime: Infinity,
    queryFn: () => call<StandInResultView>(`/api/jobs/${job}/files/stand-in.json`),
  });
}

/** Which level of detail is drawn from a distance: the lightest whose error is at most one px from there. @param metres from the eye */
export function levelAt(levels: readonly { distance: number }[], metres: number): number {
  let level = 0;
  levels.forEach((one, i) => {
    if (metres >= one.distance) level = i;
  });
  return level;
}
