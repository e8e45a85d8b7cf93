import type { QueryClient } from '@tanstack/react-query';
import type {
  DecisionsView,
  MergeDecisions,
  ProjectHead,
  ProjectView,
  SourceChanges,
  SourceView,
  SurveyView,
} from '../contract/project.ts';
import { call } from './call.ts';
import { withTexts } from './face-set-texts.ts';

export const projectKey = (id: string) => ['project', id];
const decisionsKey = (id: string, version: number) => ['decisions', id, version];

/** Fetched once and kept: what a stamp, a version or a finished job names never changes. */
const kept = { staleTime: Number.POSITIVE_INFINITY, gcTime: 10 * 60_000 };

/** Keeps the decisions of a version that this page made itself. */
export function keepDecisions(client: QueryClient, id: string, version: number, decisions: MergeDecisions): void {
  client.setQueryData(decisionsKey(id, version), decisions);
}

/** How often it is asked again when the project changes between two answers. */
const TRIES = 5;

/** The head of a project and the decisions of just that version. */
async function loadHead(client: QueryClient, id: string): Promise<{ head: ProjectHead; decisions: MergeDecisions }> {
  for (let i = 0; i < TRIES; i++) {
    const head = await call<ProjectHead>(`/api/projects/${id}`);
    const known = client.getQueryData<MergeDecisions>(decisionsKey(id, head.version));
    if (known) return { head, decisions: known };
    const stored = await call<DecisionsView>(`/api/projects/${id}/decisions`);
    const decisions = await withTexts(stored.decisions);
    keepDecisions(client, id, stored.version, decisions);
    if (stored.version === head.version) return { head, decisions };
  }
  throw new Error('the project changes faster than it can be fetched; load the page again');
}

/** A project as the views see it, put together from its head and what the head names. */
export async function loadProject(client: QueryClient, id: string): Promise<ProjectView> {
  const { head, decisions } = await loadHead(client, id);
  const keep = <T>(queryKey: string[], path: string) =>
    client.fetchQuery({ queryKey, queryFn: () => call<T>(path), ...kept });
  const { surveyJob } = head;
  const [sources, survey, changes] = await Promise.all([
    keep<SourceView[]>(['sources', id, head.sourcesStamp], `/api/projects/${id}/sources`),
    surveyJob ? keep<SurveyView>(['survey', surveyJob], `/api/jobs/${surveyJob}/files/survey.json`) : null,
    surveyJob ? keep<SourceChanges | null>(['changes', surveyJob], `/api/jobs/${surveyJob}/changes`) : null,
  ]);
  const removed = new Set(decisions.removedResults);
  const jobs = head.jobs.filter((job) => !removed.has(job.id));
  return { ...head, jobs, decisions, sources, survey, changes };
}
