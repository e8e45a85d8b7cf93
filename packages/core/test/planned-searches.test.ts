import fc from 'fast-check';
import { expect, test } from 'vitest';
import { MergeDecisions } from '../src/decisions/decisions.ts';
import { SheetDecision } from '../src/decisions/sheets.ts';
import { packSheets } from '../src/layout/layout.ts';
import { packingOf } from '../src/layout/pack-sheet.ts';
import { planSearches } from '../src/layout/planned-searches.ts';
import { numbers } from './build.ts';
import { plot } from './plot.ts';

const sheet = (id: number, more: object = {}) =>
  SheetDecision.parse({ id: String(id), name: `s${id}`, size: 128, margin: 2, ...more });

const oneSheet = fc.record({
  kind: fc.constantFrom('atlas' as const, 'palette' as const, 'trim' as const, 'tile' as const),
  islands: fc.integer({ min: 0, max: 3 }),
  search: fc.option(fc.record({ seed: fc.integer({ min: 0, max: 0x7fffffff }), rounds: fc.constant(9) })),
});

test('threads: each sheet with islands has its share, the first one most; no seed twice on a sheet, what was found goes on', () => {
  fc.assert(
    fc.property(
      fc.array(oneSheet, { minLength: 1, maxLength: 5 }),
      fc.integer({ min: 1, max: 8 }),
      fc.nat(4),
      fc.integer({ min: 0, max: 0x7fffffff }),
      (of, threads, at, seed) => {
        const first = at % of.length;
        const sheets = of.map(({ kind, search }, i) => sheet(i, { kind, search }));
        const open = of.flatMap((o, i) => (o.islands > 0 && (o.kind === 'atlas' || o.kind === 'palette') ? [i] : []));
        const tasks = planSearches(
          sheets,
          of.map((o) => o.islands),
          { seed, threads, first },
        );
        expect(tasks).toHaveLength(open.length === 0 ? 0 : Math.max(threads, open.length));
        const each = open.map((s) => tasks.filter((task) => task.sheet === s));
        for (const [k, list] of each.entries()) {
          expect(list[0].seed).toBe(of[open[k]].search?.seed ?? seed);
          expect(new Set(list.map((plannedSearch) => plannedSearch.seed)).size).toBe(list.length);
          expect(list.length).toBeGreaterThanOrEqual(Math.floor(threads / open.length) || 1);
          if (open.includes(first)) expect(each[open.indexOf(first)].length).toBeGreaterThanOrEqual(list.length);
        }
        for (const task of tasks)
          expect(SheetDecision.shape.search.parse({ seed: task.seed, rounds: 1 })).not.toBeNull();
      },
    ),
  );
});

test('another look takes seeds that the one before had not', () => {
  const sheets = [sheet(1)];
  const before = planSearches(sheets, [5], { seed: 1, threads: 4 });
  const used = Math.max(...before.map((plannedSearch) => plannedSearch.seed));
  const after = planSearches(sheets, [5], { seed: 1, threads: 4, first: 0, used });
  const fresh = after.slice(1).map((plannedSearch) => plannedSearch.seed);
  expect(fresh).toEqual([5, 6, 7]);
  expect(before.map((plannedSearch) => plannedSearch.seed)).toEqual([1, 2, 3, 4]);
});

test('how a layout was found goes before the seed and the effort of the plan, on its sheet alone', () => {
  const random = numbers(5);
  const sides = () => 8 + Math.floor(random() * 30);
  const box = (w: number, h: number) => Float64Array.of(0, 0, w, 0, w, h, 0, 0, w, h, 0, h);
  const all = [0, 1].map((s) => Array.from({ length: 9 }, (_, i) => plot(s * 9 + i, box(sides(), sides()))));
  const decide = (more: object, search: object | null) =>
    MergeDecisions.parse({ sheets: [sheet(1, { size: 64, search }), sheet(2, { size: 64 })], effort: 1, ...more });
  const own = packSheets(all, decide({}, { seed: 7, rounds: 4 }));
  expect(own[0]).toEqual(packSheets(all, decide({ seed: 7, effort: 4 }, null))[0]);
  expect(own[1]).toEqual(packSheets(all, decide({}, null))[1]);
});

test('a sheet of whole textures is no matter for the packer', () => {
  const trim = sheet(1, { kind: 'trim' });
  expect(() => packingOf([], [], trim, 0, MergeDecisions.parse({ sheets: [trim] }))).toThrow(
    /"s1" holds whole textures/,
  );
});
