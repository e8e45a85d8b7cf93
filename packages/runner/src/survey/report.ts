import { rename, rm, writeFile } from 'node:fs/promises';
import { type Budget, overBudget } from '@wembrel/core/decisions/budget';
import { measuredTotals } from '@wembrel/core/survey/measured';
import { encodePng } from '../pictures/codec.ts';
import { pictureTasks } from '../pictures/picture-tasks.ts';
import type { JobScope } from '../pool/job-scope.ts';
import { modelPicture } from './details.ts';
import { type ReportInput, surveyPage } from './page.ts';
import type { PileSurvey } from './pile.ts';

const SIDE = 160;

/** Writes the whole survey as one HTML page that needs nothing else. @throws Cancelled */
export async function writeSurveyReport(
  file: string,
  pile: PileSurvey,
  budget: Budget,
  scope: JobScope,
): Promise<void> {
  const { read, report, details } = pile;
  const input: ReportInput = {
    title: 'Survey',
    report,
    details,
    budget,
    over: overBudget(budget, measuredTotals(report.totals, details, budget)),
    modelPictures: [],
    texturePictures: new Map(),
  };
  for (const { model } of read.models) {
    scope.checkpoint();
    input.modelPictures.push(await encodePng(await modelPicture(model, read.images, scope, SIDE), SIDE, SIDE, 4));
  }
  for (const key of new Set(details.pictures.map((picture) => picture.key))) {
    scope.checkpoint();
    const bytes = read.images.byPixels(key).stored;
    input.texturePictures.set(key, await scope.run(pictureTasks.thumbnail, { bytes, side: 64 }));
  }
  const partial = `${file}.partial`;
  try {
    await writeFile(partial, surveyPage(input));
    await rename(partial, file);
  } catch (error) {
    await rm(partial, { force: true });
    throw error;
  }
}
