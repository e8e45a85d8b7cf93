import { describe, expect, test } from 'vitest';
import type { JobKind, JobState, JobView, ProjectView } from '../src/contract/project.ts';
import { VIEWS } from '../src/project/stages.ts';
import { type Missing, missingIn, missingText } from '../src/project/view-state.ts';

const job = (kind: JobKind, state: JobState, madeFrom = 'now') => ({ kind, state, madeFrom, sheet: null }) as JobView;
const project = (files: number, read: boolean, ...jobs: JobView[]) =>
  ({
    sources: Array.from({ length: files }, (_, i) => ({ path: `${i}.glb` })),
    survey: read ? {} : null,
    jobs,
    stamp: 'now',
  }) as unknown as ProjectView;

describe('what is missing', () => {
  test.each<[string, ProjectView, Missing | null, Missing | null]>([
    ['no file', project(0, false), 'empty', 'empty'],
    ['a survey that waits', project(1, false, job('survey', 'queued')), 'reading', 'reading'],
    ['a survey under way', project(1, false, job('survey', 'running')), 'reading', 'reading'],
    ['a survey that failed', project(1, false, job('survey', 'failed')), 'unread', 'unread'],
    ['a survey that was cancelled', project(1, false, job('survey', 'cancelled')), 'unread', 'unread'],
    ['files that were read', project(1, true), null, 'unbaked'],
    ['a first final under way', project(1, true, job('final', 'running')), null, 'baking'],
    ['a final that waits for the survey', project(1, false, job('final', 'queued')), 'unread', 'baking'],
    ['a bake that failed', project(1, true, job('final', 'failed')), null, 'failed'],
    ['a bake that the end of the server broke off', project(1, true, job('proof', 'interrupted')), null, 'failed'],
    ['a bake that was cancelled', project(1, true, job('proof', 'cancelled')), null, 'cancelled'],
    ['a final', project(1, true, job('final', 'done')), null, null],
    ['a result, and a final under way', project(1, true, job('final', 'running'), job('proof', 'done')), null, null],
    ['a result that is out of date', project(1, true, job('final', 'done', 'before')), null, null],
    ['a result, and a later failure', project(1, true, job('final', 'failed'), job('final', 'done')), null, null],
  ])('%s', (_, state, survey, result) => {
    expect([missingIn(state, 'survey'), missingIn(state, 'result')]).toEqual([survey, result]);
  });

  test('a bake of a single sheet is no result that could be compared', () => {
    const one = { ...job('final', 'done'), sheet: 's1' };
    expect(missingIn(project(1, true, one), 'result')).toBe('unbaked');
  });
});

describe('what views say', () => {
  const STATES: Missing[] = ['empty', 'reading', 'unread', 'predicting', 'baking', 'failed', 'cancelled', 'unbaked'];

  test.each(VIEWS)('%s: while something runs there is no button, and it is not told that there is nothing', (view) => {
    for (const missing of ['reading', 'baking', 'predicting'] as const) {
      const { title, text, way } = missingText(view, missing);
      expect(way).toBeUndefined();
      expect(`${title} ${text}`).not.toMatch(/\b(no|nothing|not)\b/i);
    }
  });

  test.each(VIEWS)('%s: where nothing runs one button leads on; that of a bake is in the head of its view', (view) => {
    for (const missing of STATES.filter((state) => !['reading', 'baking', 'predicting'].includes(state))) {
      const bakes = ['failed', 'cancelled', 'unbaked'].includes(missing);
      expect([missing, missingText(view, missing).way !== undefined]).toEqual([missing, !(view === 'bake' && bakes)]);
    }
  });
});
