import { useEffect, useRef } from 'react';
import type { JobKind, JobView, ProjectView } from '../../contract/project.ts';
import { type Live, running } from '../../project/api.ts';
import { notify } from '../../project/notices.ts';
import { VIEW_TITLES, type ViewName } from '../../project/stages.ts';
import { percent } from '../../ui/format.ts';

/** A job that took less is seen to end anyway, s. */
const LONG = 8;

/** Jobs whose end is told, and where their result is looked at. */
const TOLD: Partial<Record<JobKind, { text: string; label: string; view: ViewName }>> = {
  final: { text: 'The final is baked', label: 'Compare', view: 'compare' },
  proof: { text: 'The proof is baked', label: 'Compare', view: 'compare' },
  'ray-final': { text: 'High to low is baked', label: 'Look at it', view: 'bake' },
  'ray-all': { text: 'High to low is baked', label: 'Look at it', view: 'bake' },
  'stand-in-final': { text: 'The stand-in is made', label: 'Look at it', view: 'bake' },
  'recipe-final': { text: 'The recipe is laid', label: 'Look at it', view: 'bake' },
  light: { text: 'The light is baked', label: 'Look at it', view: 'bake' },
  survey: { text: 'All files are read', label: 'Survey', view: 'survey' },
};

/** The title of the window: how far the work is, what is in sight, and whose. */
export function windowTitle(project: string, view: ViewName, job: { share: number } | null): string {
  const parts = [job && percent(job.share), VIEW_TITLES[view], project, 'Wembrel'];
  return parts.filter((part) => part !== null).join(' · ');
}

/** Of the jobs that ran before, those that are done now. */
export function finished(before: ReadonlyMap<string, number>, jobs: readonly JobView[]): JobView[] {
  return jobs.filter((job) => before.has(job.id) && job.state === 'done');
}

/** Keeps the window's title, and tells the end of long jobs to whoever looks elsewhere. */
export function useNews(
  project: ProjectView | undefined,
  live: Readonly<Record<string, Live>>,
  view: ViewName,
  go: (view: ViewName) => void,
): void {
  const job =
    project &&
    running(
      project,
      'survey',
      'proof',
      'final',
      'ray-proof',
      'ray-final',
      'ray-all',
      'light',
      'stand-in-final',
      'recipe-final',
    );
  const share = job ? (live[job.id]?.share ?? job.share) : null;
  useEffect(() => {
    if (project) document.title = windowTitle(project.name, view, share === null ? null : { share });
  }, [project, view, share]);

  /** When each job that runs was first seen to. */
  const since = useRef(new Map<string, number>());
  const seen = useRef(view);
  seen.current = view;
  const jobs = project?.jobs;
  useEffect(() => {
    if (!jobs) return;
    for (const done of finished(since.current, jobs)) {
      const told = TOLD[done.kind];
      const seconds = (Date.now() - (since.current.get(done.id) ?? 0)) / 1000;
      if (told && seconds >= LONG && (told.view !== seen.current || document.hidden))
        notify({ tone: 'plain', text: told.text, action: { label: told.label, run: () => go(told.view) } });
    }
    const under = jobs.filter((one) => one.state === 'running' || one.state === 'queued');
    since.current = new Map(under.map((one) => [one.id, since.current.get(one.id) ?? Date.now()]));
  }, [jobs, go]);
}
