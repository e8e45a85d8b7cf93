import { readFile } from 'node:fs/promises';
import { join } from 'node:path';
import type { ProjectSummary, ResultView, SurveyView } from '../../contract/project.ts';
import { database } from '../store/database.ts';
import { jobFolder } from '../store/paths.ts';
import { readState } from '../store/projects.ts';
import { stampOf } from '../store/stamps.ts';
import { readSurvey } from './surveys.ts';

/** Models of a project that are shown as pictures. */
const MOST_PICTURES = 3;

type Figures = Pick<SurveyView['totals'], 'drawCalls' | 'textureBytes'>;

interface SurveyCard extends Figures {
  models: number;
  pictures: string[];
}

/** What was said of finished jobs: they never change. */
const surveyCards = new Map<string, SurveyCard>();
const resultFigures = new Map<string, Figures>();

/** All projects, the one changed last first, with what each costs before and after. */
export async function projectCards(): Promise<ProjectSummary[]> {
  const db = await database();
  const rows = await db
    .selectFrom('project')
    .selectAll()
    .where('deleted', 'is', null)
    .orderBy('changed', 'desc')
    .execute();
  const jobs = await db
    .selectFrom('job')
    .select(['id', 'project', 'kind', 'made_from'])
    .where('state', '=', 'done')
    .where('kind', 'in', ['survey', 'proof', 'final'])
    .where('sheet', 'is', null)
    .orderBy('sequence', 'desc')
    .execute();
  return Promise.all(
    rows.map(async (row): Promise<ProjectSummary> => {
      const own = jobs.filter((job) => job.project === row.id);
      const state = readState(row.state);
      const survey = own.find((job) => job.kind === 'survey');
      const made = own.find((job) => job.kind !== 'survey');
      const [card, figures] = await Promise.all([survey && cardOf(survey.id), made && figuresOf(made.id)]);
      const { format } = state.decisions.budget;
      const shown = (of: Figures) => ({ drawCalls: of.drawCalls, textureBytes: of.textureBytes[format] });
      return {
        id: row.id,
        name: row.name,
        changed: row.changed,
        sources: Object.keys(state.sources).length,
        models: card?.models ?? null,
        pictures: card?.pictures ?? [],
        before: card ? shown(card) : null,
        result:
          made && figures
            ? {
                kind: made.kind === 'final' ? 'final' : 'proof',
                stale: made.made_from !== stampOf(state, 'final'),
                ...shown(figures),
              }
            : null,
      };
    }),
  );
}

/** Null where the folder of the job is gone. */
async function cardOf(job: string): Promise<SurveyCard | null> {
  const known = surveyCards.get(job);
  if (known) return known;
  const survey = await readSurvey(job).catch(() => null);
  if (!survey) return null;
  const slots = survey.models.map((_, m) => survey.slots.filter((slot) => slot.model === m).length);
  const costliest = survey.models
    .map((model, m) => ({ m, slots: slots[m], triangles: model.triangles }))
    .sort((a, b) => b.slots - a.slots || b.triangles - a.triangles || a.m - b.m);
  const card = {
    models: survey.models.length,
    pictures: costliest.slice(0, MOST_PICTURES).map(({ m }) => `/api/jobs/${job}/files/thumbs/model-${m}.png`),
    drawCalls: survey.totals.drawCalls,
    textureBytes: survey.totals.textureBytes,
  };
  surveyCards.set(job, card);
  return card;
}

async function figuresOf(job: string): Promise<Figures | null> {
  const known = resultFigures.get(job);
  if (known) return known;
  const text = await readFile(join(jobFolder(job), 'result.json'), 'utf8').catch(() => null);
  if (!text) return null;
  const { after } = JSON.parse(text) as ResultView;
  const figures = { drawCalls: after.drawCalls, textureBytes: after.textureBytes };
  resultFigures.set(job, figures);
  return figures;
}
