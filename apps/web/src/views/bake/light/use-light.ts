import { useQuery } from '@tanstack/react-query';
import type { LightResultView, ProjectView } from '../../../contract/project.ts';
import { call } from '../../../project/call.ts';

/** The newest light that was baked; one of the present state comes first. */
export function newestLight(project: ProjectView) {
  const done = project.jobs.filter((j) => j.kind === 'light' && j.state === 'done');
  return done.find((j) => j.madeFrom === project.lightStamp) ?? done[0];
}

export function useLightResult(job: string | undefined) {
  return useQuery({
    queryKey: ['light', job],
    enabled: job !== undefined,
    staleTime: Infinity,
    queryFn: () => call<LightResultView>(`/api/jobs/${job}/files/light.json`),
  });
}
