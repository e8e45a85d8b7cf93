import { expect, test } from 'vitest';
import type { JobView, ProjectView } from '../src/contract/project.ts';
import { GUIDE, guideStep } from '../src/views/workbench/guide.ts';

const project = (over: object) =>
  ({
    sources: [{}],
    survey: {},
    jobs: [],
    stamp: 'now',
    decisions: { keepAll: false },
    ...over,
  }) as unknown as ProjectView;
const job = (kind: string, state: string) => ({ kind, state, madeFrom: 'now', sheet: null }) as unknown as JobView;

test.each([
  ['an empty project', { sources: [], survey: null }, 'Add models'],
  ['files that are being read', { survey: null }, 'See what can be gained'],
  ['a plan that merges nothing', { decisions: { keepAll: true } }, 'See what can be gained'],
  ['a plan', {}, 'Bake a proof'],
  ['a proof that runs', { jobs: [job('proof', 'running')], decisions: { keepAll: true } }, 'Bake a proof'],
  ['a proof that failed', { jobs: [job('proof', 'failed')] }, 'Bake a proof'],
  ['a proof', { jobs: [job('proof', 'done')] }, 'Compare, then bake the final'],
  ['a final', { jobs: [job('final', 'done')] }, 'Download'],
])('%s', (_, over, title) => {
  expect(GUIDE[guideStep(project(over))].title).toBe(title);
});
