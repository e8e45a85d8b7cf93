import { describe, expect, test } from 'vitest';
import { MergeDecisions } from '../src/decisions/decisions.ts';
import { PlanFile, planFileOf, withPlanFile } from '../src/decisions/plan-file.ts';
import {
  mergeRoutes,
  namedTwice,
  routeSlots,
  routesFrom,
  routeTo,
  weighSlots,
  weightOf,
} from '../src/decisions/routes.ts';
import { pinnedBays, pinnedList, SheetDecision } from '../src/decisions/sheets.ts';

const bay = (key: string, x: number) => ({ key, x, y: 0, width: 9, height: 9, turns: 0 as const, scale: 1 });

describe('routes as a list', () => {
  const routes = routesFrom({ Wood: '1', Tin: 'apart' });
  test('one more, another one, none', () => {
    expect(routeSlots(routes, ['Zinc'], '2')).toEqual([...routes, { slot: 'Zinc', to: '2' }]);
    expect(routeSlots(routes, ['Wood', 'Wood'], '2').map((slot) => slot.to)).toEqual(['2', 'apart']);
    expect(routeSlots(routes, ['Wood', 'never'], null)).toEqual([{ slot: 'Tin', to: 'apart' }]);
    expect(mergeRoutes(routes, routesFrom({ Tin: '1' }))).toEqual(routesFrom({ Wood: '1', Tin: '1' }));
    expect(routeTo(routes, 'toString')).toBeUndefined();
  });

  test('a weight of 1 is no weight', () => {
    const weights = weighSlots([], ['A', 'B'], 2);
    expect(weights).toEqual([
      { slot: 'A', weight: 2 },
      { slot: 'B', weight: 2 },
    ]);
    expect(weighSlots(weights, ['A'], 1)).toEqual([{ slot: 'B', weight: 2 }]);
    expect([weightOf(weights, 'A'), weightOf(weights, 'constructor')]).toEqual([2, 1]);
  });

  test('a slot that is named twice is refused with its name', () => {
    const twice = [...routes, { slot: 'Wood', to: 'apart' }];
    expect([namedTwice(routes), namedTwice(twice)]).toEqual([null, 'Wood']);
    const read = MergeDecisions.safeParse({ routes: twice });
    expect(read.error?.issues.map((i) => i.message)).toContain('"Wood" is named twice');
  });
});

describe('locked bays under their keys', () => {
  test('come in the order of their keys, whichever was locked first', () => {
    const [a, b] = [bay('a', 1), bay('b', 2)];
    expect(pinnedList(pinnedBays([b, a]))).toEqual([a, b]);
    expect(pinnedList(pinnedBays([a, b]))).toEqual([a, b]);
  });
});

describe('what earlier versions wrote', () => {
  test('objects of routes and weights, and lists of locked bays, are read as what they are now', () => {
    const sheet = { id: '1', name: 'halt', size: 512, margin: 4 };
    const old = PlanFile.parse({
      format: 'wembrel-plan',
      version: 1,
      sheets: [{ ...sheet, pinned: [bay('k', 3)] }],
      routes: { Wood: '1' },
      weights: { Wood: 2 },
    });
    const now = PlanFile.parse({
      format: 'wembrel-plan',
      version: 1,
      sheets: [SheetDecision.parse({ ...sheet, pinned: pinnedBays([bay('k', 3)]) })],
      routes: [{ slot: 'Wood', to: '1' }],
      weights: [{ slot: 'Wood', weight: 2 }],
    });
    expect(old).toEqual(now);
    const written = planFileOf(withPlanFile(MergeDecisions.parse({}), old));
    expect(PlanFile.parse(JSON.parse(JSON.stringify(written)))).toEqual(written);
  });
});
