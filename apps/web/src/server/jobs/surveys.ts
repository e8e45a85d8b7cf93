import { readFile } from 'node:fs/promises';
import { join } from 'node:path';
import type { SourceChanges, SurveyView } from '../../contract/project.ts';
import { database } from '../store/database.ts';
import { jobFolder } from '../store/paths.ts';
import type { ProjectRow } from '../store/projects.ts';
import { sourceChanges } from '../store/source-changes.ts';
import { filesStamp, stampOf, stampOver } from '../store/stamps.ts';
import { SOURCES_STAMP } from './job-message.ts';

/** A finished survey. */
interface SurveyJob {
  id: string;
  madeFrom: string;
  /** See `filesStamp`. */
  files: string;
}

/** Finished surveys of a project, the newest first. */
async function surveysOf(project: string): Promise<SurveyJob[]> {
  const db = await database();
  const rows = await db
    .selectFrom('job')
    .select(['id', 'made_from', 'files_stamp'])
    .where('project', '=', project)
    .where('kind', '=', 'survey')
    .where('state', '=', 'done')
    .orderBy('sequence', 'desc')
    .execute();
  return rows.map((row) => ({ id: row.id, madeFrom: row.made_from, files: row.files_stamp ?? '' }));
}

/** What a survey found. @throws Error when its folder is gone */
export const readSurvey = async (job: string): Promise<SurveyView> =>
  JSON.parse(await readFile(join(jobFolder(job), 'survey.json'), 'utf8')) as SurveyView;

/**
 * The survey of the files as they are now. Where the files are the same and only how they are read, or their faces, is changed, the last one
 * stays in sight until they are read so.
 */
export async function surveyFor(projectRow: ProjectRow): Promise<SurveyJob | null> {
  const surveys = await surveysOf(projectRow.id);
  const stamp = stampOf(projectRow.state, 'survey');
  const files = filesStamp(projectRow.state);
  const exact = surveys.find((survey) => survey.madeFrom === stamp) ?? surveys.find((survey) => survey.files === files);
  if (exact || surveys.length === 0) return exact ?? null;
  const [last] = surveys;
  const read = await readFile(join(jobFolder(last.id), SOURCES_STAMP), 'utf8').catch(() => null);
  return read === stampOver(projectRow.state.sources) ? last : null;
}

/** What came and went against the last reading of other files, or null when nothing did. */
export async function changesSince(job: { id: string; project: string }): Promise<SourceChanges | null> {
  const surveys = await surveysOf(job.project);
  const at = surveys.findIndex((survey) => survey.id === job.id);
  if (at < 0) return null;
  const before = surveys.slice(at + 1).find((survey) => survey.files !== surveys[at].files);
  if (!before) return null;
  const [then, now] = await Promise.all([readSurvey(before.id).catch(() => null), readSurvey(job.id)]);
  return then && sourceChanges(then, now);
}
