import { useQuery } from '@tanstack/react-query';
import type { TrialLoad } from '@wembrel/runner/trial/trial-load';
import { useEffect, useState } from 'react';
import { call } from '../../project/call.ts';
import type { TrialScene } from '../../stage/trial-scene.ts';

/** What an engine meets that loads the delivery of a job. @param job null: nothing is loaded */
export const useTrial = (job: string | null) =>
  useQuery({
    queryKey: ['trial', job],
    enabled: job !== null,
    staleTime: Number.POSITIVE_INFINITY,
    retry: false,
    queryFn: () => call<TrialLoad>(`/api/jobs/${job}/trial`),
  });

/** What the 3D library counts in its own frame; null until it has drawn. */
export function useTrialScene(job: string): TrialScene | null {
  const [scene, setScene] = useState<TrialScene | null>(null);
  useEffect(() => {
    setScene(null);
    const heard = ({ origin, data }: MessageEvent<Partial<TrialScene> | null>) => {
      if (origin === window.location.origin && data?.type === 'wembrel-trial' && data.job === job)
        setScene(data as TrialScene);
    };
    window.addEventListener('message', heard);
    return () => window.removeEventListener('message', heard);
  }, [job]);
  return scene;
}
