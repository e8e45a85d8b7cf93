import type { JobView } from '../contract/project.ts';
import { Progress } from '../ui/Progress.tsx';
import { cancelJob, type Live, pauseJob } from './api.ts';
import { notify } from './notices.ts';

const notifyFault = (error: Error) => notify({ tone: 'fault', text: error.message });

/** A running job, with what stops it or lets it wait. */
export function RunningJob({ job, live }: { job: JobView; live: Readonly<Record<string, Live>> }) {
  const now = live[job.id] ?? job;
  return (
    <Progress
      share={now.share}
      doing={now.doing}
      left={now.left}
      paused={job.paused}
      onPause={job.state === 'running' ? (on) => void pauseJob(job.id, on).catch(notifyFault) : undefined}
      onCancel={() => void cancelJob(job.id).catch(notifyFault)}
    />
  );
}
