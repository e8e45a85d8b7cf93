import Redo from 'lucide-react/icons/redo-2';
import Undo from 'lucide-react/icons/undo-2';
import type { ReactNode } from 'react';
import type { JobView, ProjectView } from '../../contract/project.ts';
import { failedLast, type Live } from '../../project/api.ts';
import { startDecided } from '../../project/edits.ts';
import { RunningJob } from '../../project/RunningJob.tsx';
import { Button } from '../../ui/Button.tsx';
import { KeyCap, KeyCaps } from '../../ui/KeyCap.tsx';
import { ThemeSwitch } from '../../ui/ThemeSwitch.tsx';
import { Tooltip } from '../../ui/Tooltip.tsx';
import css from './BillFoot.module.css';

export interface BillFootProps {
  project: ProjectView;
  live: Record<string, Live>;
  step: (way: 'undo' | 'redo') => void;
  onHelp: () => void;
  onFind: () => void;
}

/** The job that runs now, and what belongs to no stage. */
export function BillFoot({ project, live, step, onHelp, onFind }: BillFootProps) {
  const job = jobOf(project);
  const failed = failedLast(project, 'survey', 'proof', 'final');
  return (
    <div className={css.foot}>
      {job ? (
        <RunningJob job={job} live={live} />
      ) : failed ? (
        <Failed project={project} job={failed} />
      ) : (
        <span>Idle</span>
      )}
      <div className={css.steps}>
        <Step name="Undo" what={project.undo} onClick={() => step('undo')}>
          <Undo size={16} aria-hidden />
        </Step>
        <Step name="Redo" what={project.redo} onClick={() => step('redo')}>
          <Redo size={16} aria-hidden />
        </Step>
        <span className={css.gap} />
        <Button tone="quiet" onClick={onFind}>
          Find <KeyCaps keys="Ctrl K" />
        </Button>
      </div>
      <div className={css.steps}>
        <Button tone="quiet" onClick={onHelp}>
          Help <KeyCap>?</KeyCap>
        </Button>
        <span className={css.gap} />
        <ThemeSwitch />
      </div>
    </div>
  );
}

/** The job that runs or waits, of any kind but layouts, which are made beside all else. */
export const jobOf = ({ jobs }: ProjectView): JobView | undefined =>
  jobs.find(({ kind, state }) => kind !== 'layout' && (state === 'running' || state === 'queued'));

function Failed({ project, job }: { project: ProjectView; job: JobView }) {
  return (
    <p className={css.failed}>
      The {job.kind} {job.state === 'interrupted' ? 'was interrupted' : 'failed'}: {job.message}{' '}
      <button type="button" className={css.link} onClick={() => void startDecided(project.id, job.kind)}>
        Run it again
      </button>
    </p>
  );
}

interface StepProps {
  name: 'Undo' | 'Redo';
  /** What it would take back or do again; null: nothing. */
  what: string | null;
  onClick: () => void;
  children: ReactNode;
}

function Step({ name, what, onClick, children }: StepProps) {
  return (
    <Tooltip text={what ? `${name}: ${what}` : `Nothing to ${name.toLowerCase()}`}>
      <Button tone="quiet" aria-label={name} aria-disabled={!what} onClick={() => what && onClick()}>
        {children}
      </Button>
    </Tooltip>
  );
}
