import { StandInSpec, standInOf, withStandIn } from '@wembrel/core/decisions/stand-in';
import { describe, expect, test } from 'vitest';
import type { JobKind, JobState, JobView } from '../src/contract/project.ts';
import { isOutdated, levelAt, standInJobs } from '../src/views/bake/stand-in/use-stand-in.ts';

const job = (id: string, kind: JobKind, state: JobState, sheet: string | null, madeFrom = 'now') =>
  ({ id, kind, state, sheet, madeFrom }) as JobView;

describe('the jobs of a stand-in', () => {
  const project = (...jobs: JobView[]) => ({ jobs, standInStamp: 'now' });

  test('are those of its own model; a result of the present files goes before a newer one of others', () => {
    const { last, running, failed } = standInJobs(
      project(
        job('5', 'stand-in-final', 'running', 'a.glb'),
        job('4', 'stand-in-final', 'done', 'b.glb'),
        job('3', 'stand-in-proof', 'done', 'a.glb', 'before'),
        job('2', 'final', 'done', null),
        job('1', 'stand-in-final', 'done', 'a.glb'),
      ),
      'a.glb',
    );
    expect([last?.id, running?.id, failed]).toEqual(['1', '5', undefined]);
  });

  test('one that failed is told until another one is begun', () => {
    const failed = job('1', 'stand-in-proof', 'failed', 'a.glb');
    expect(standInJobs(project(failed), 'a.glb').failed).toBe(failed);
    expect(standInJobs(project(job('2', 'stand-in-proof', 'done', 'a.glb'), failed), 'a.glb').failed).toBeUndefined();
  });
});

test('a result is out of date with other files or other settings of its own model alone', () => {
  const spec = StandInSpec.parse({});
  expect(isOutdated('now', { madeFrom: 'now' }, spec, StandInSpec.parse({}))).toBe(false);
  expect(isOutdated('now', { madeFrom: 'before' }, spec, spec)).toBe(true);
  expect(isOutdated('now', { madeFrom: 'now' }, spec, StandInSpec.parse({ goal: { px: 2 } }))).toBe(true);
});

test('going away, the lightest level is drawn whose distance is reached', () => {
  const levels = [{ distance: 0 }, { distance: 7.4 }, { distance: 80 }];
  expect([0, 7.3, 7.4, 79, 1e6].map((metres) => levelAt(levels, metres))).toEqual([0, 0, 1, 1, 2]);
  expect(levelAt([], 5)).toBe(0);
});

test('settings of one model replace its own, in the order of names', () => {
  const hull = StandInSpec.parse({ as: 'hull' });
  const list = withStandIn(withStandIn(withStandIn([], 'b.glb', StandInSpec.parse({})), 'a.glb', hull), 'b.glb', hull);
  expect(list.map(({ model }) => model)).toEqual(['a.glb', 'b.glb']);
  expect(standInOf(list, 'b.glb').as).toBe('hull');
  expect(standInOf(list, 'c.glb').as).toBe('simplified');
});
