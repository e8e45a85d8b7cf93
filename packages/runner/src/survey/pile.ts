import { MergeDecisions } from '@wembrel/core/decisions/decisions';
import type { Read } from '@wembrel/core/decisions/reads';
import { surveyFindings } from '@wembrel/core/findings/findings';
import type { JobScope } from '../pool/job-scope.ts';
import type { InputFile } from '../read/collect.ts';
import { type ReadFiles, type ReadOptions, readFiles, type SurveyReport } from '../stages/read.ts';
import { type SurveyDetails, surveyDetails } from './details.ts';

/** All of a survey: figures, facts and findings, and the models for who wants to go on with them. */
export interface PileSurvey {
  read: ReadFiles;
  report: SurveyReport;
  details: SurveyDetails;
}

/**
 * Reads any files and says what it costs and what there is to mend.
 * @param decisions budget and required names, which findings depend on
 * @throws Cancelled
 */
export async function surveyPile(
  files: InputFile[],
  scope: JobScope,
  options: ReadOptions & { decisions?: Read<'findings'> } = {},
): Promise<PileSurvey> {
  const read = await readFiles(files, scope, { keepBytes: 0, ...options });
  const details = await surveyDetails(read, files, scope, options.onProgress);
  const { totals, errors } = read.report;
  const findings = surveyFindings({ ...details, totals, errors }, options.decisions ?? MergeDecisions.parse({}));
  return { read, details, report: { ...read.report, findings } };
}
