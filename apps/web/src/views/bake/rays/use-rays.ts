import { useQuery } from '@tanstack/react-query';
import type { ProjectView, RayResultView, ReachesView, SectionView } from '../../../contract/project.ts';
import { call } from '../../../project/call.ts';

export function useRayResult(job: string | undefined) {
  return useQuery({
    queryKey: ['rays', job],
    enabled: job !== undefined,
    staleTime: Infinity,
    queryFn: () => call<RayResultView>(`/api/jobs/${job}/files/rays.json`),
  });
}

export function useReaches(project: ProjectView) {
  const job = project.jobs.find((j) => j.kind === 'ray-reaches' && j.state === 'done');
  return useQuery({
    queryKey: ['reaches', job?.id],
    enabled: job !== undefined,
    staleTime: Infinity,
    queryFn: () => call<ReachesView>(`/api/jobs/${job?.id}/files/reaches.json`),
  });
}

/** The cut at a texel of a ray bake; the last one stays in sight while the next is made. */
export function useSection(job: string | undefined, sheet: number, at: readonly [number, number] | null, turn: number) {
  return useQuery({
    queryKey: ['section', job, sheet, at?.[0], at?.[1], turn],
    enabled: job !== undefined && at !== null,
    staleTime: Infinity,
    retry: false,
    placeholderData: (last: SectionView | null | undefined) => last,
    queryFn: () =>
      call<SectionView | null>(`/api/jobs/${job}/section?sheet=${sheet}&x=${at?.[0]}&y=${at?.[1]}&turn=${turn}`),
  });
}
