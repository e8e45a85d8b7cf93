import { useQuery } from '@tanstack/react-query';
import { useEffect, useRef, useState } from 'react';
import type { PlotIndex } from '../../contract/plots.ts';
import type { ProjectView } from '../../contract/project.ts';
import { failedLast, running, startJob } from '../api.ts';
import { call } from '../call.ts';

export interface GatheredIslands {
  index: PlotIndex;
  shapes: Float64Array;
  faces: Uint32Array;
}

async function binary(url: string): Promise<ArrayBuffer> {
  const response = await fetch(url);
  if (!response.ok) throw new Error(`the server answered ${response.status}`);
  return response.arrayBuffer();
}

/**
 * Islands of the present routes; gathered again by the server when the routes have changed.
 * @param wished false: nothing is asked of the server
 */
export function useIslands(
  project: ProjectView,
  wished = true,
): {
  islands: GatheredIslands | null;
  gathering: boolean;
  problem: string | null;
} {
  const job = project.jobs.find((j) => j.kind === 'layout' && j.state === 'done' && j.madeFrom === project.layoutStamp);
  const busy = running(project, 'layout');
  const failed = failedLast(project, 'layout');
  const [problem, setProblem] = useState<string | null>(null);
  const asked = useRef('');
  const wanted = !wished || job || busy || !project.survey ? null : project.layoutStamp;
  useEffect(() => {
    if (!wanted || asked.current === wanted) return;
    asked.current = wanted;
    startJob(project.id, 'layout').then(
      () => setProblem(null),
      (error: Error) => setProblem(error.message),
    );
  }, [wanted, project.id]);
  const { data, error } = useQuery({
    queryKey: ['islands', job?.id],
    enabled: job !== undefined,
    staleTime: Infinity,
    queryFn: async (): Promise<GatheredIslands> => {
      const base = `/api/jobs/${job?.id}/files`;
      const [index, shapes, faces] = await Promise.all([
        call<PlotIndex>(`${base}/plots.json`),
        binary(`${base}/shapes.bin`),
        binary(`${base}/faces.bin`),
      ]);
      return { index, shapes: new Float64Array(shapes), faces: new Uint32Array(faces) };
    },
  });
  return {
    islands: job ? (data ?? null) : null,
    gathering: Boolean(busy) || (!job && !failed),
    problem: problem ?? error?.message ?? (!job && !busy ? (failed?.message ?? null) : null),
  };
}
