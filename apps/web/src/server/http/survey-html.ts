import { readFile } from 'node:fs/promises';
import { join } from 'node:path';
import { overBudget } from '@wembrel/core/decisions/budget';
import { surveyFindings } from '@wembrel/core/findings/findings';
import { measuredTotals } from '@wembrel/core/survey/measured';
import { surveyPage } from '@wembrel/runner/survey/page';
import { readSurvey, surveyFor } from '../jobs/surveys.ts';
import { jobFolder } from '../store/paths.ts';
import { Problem } from '../store/problem.ts';
import { requireProject } from '../store/projects.ts';

/** The survey of a project as a page that needs nothing else. @throws Problem when nothing was read yet */
export async function surveyHtml(id: string | undefined): Promise<{ name: string; html: string }> {
  const project = await requireProject(id);
  const surveyJob = (await surveyFor(project))?.id;
  if (!surveyJob) throw new Problem(409, 'the files are not read yet');
  const survey = await readSurvey(surveyJob);
  const { decisions } = project.state;
  const { budget } = decisions;
  const thumb = (name: string) =>
    readFile(join(jobFolder(surveyJob), 'thumbs', `${name}.png`)).catch(() => Buffer.alloc(0));
  const texturePictures = new Map<string, Uint8Array>();
  for (const { key } of survey.pictures) if (!texturePictures.has(key)) texturePictures.set(key, await thumb(key));
  return {
    name: project.name,
    html: surveyPage({
      title: `${project.name}: survey`,
      report: { ...survey, findings: surveyFindings(survey, decisions) },
      details: survey,
      budget,
      over: overBudget(budget, measuredTotals(survey.totals, survey, budget)),
      modelPictures: await Promise.all(survey.models.map((_, i) => thumb(`model-${i}`))),
      texturePictures,
    }),
  };
}
