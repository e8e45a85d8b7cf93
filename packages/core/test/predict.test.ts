import fc from 'fast-check';
import { describe, expect, test } from 'vitest';
import { MergeDecisions } from '../src/decisions/decisions.ts';
import { APART } from '../src/decisions/rules.ts';
import { evenSheets } from '../src/decisions/sheets.ts';
import { plotsBySheet } from '../src/layout/layout.ts';
import { spread } from '../src/plan/assign.ts';
import { route } from '../src/plan/route.ts';
import { predict } from '../src/predict/predict.ts';
import { slotFacts } from '../src/survey/slot-facts.ts';
import { buildModel, decide, type PartSpec, PICTURES, quad, type SlotSpec, sizesOf } from './build.ts';
import { runs } from './sampling.ts';

const SIZE = 64;
const known = () => ({ width: SIZE, height: SIZE });

const part = (slot: string, x = 0, du = 0.5): PartSpec => ({ ...quad(x, 0, 1, 1, 0.1, 0.1, du, du), slot });

function facts(slots: SlotSpec[], parts: PartSpec[]) {
  const models = [buildModel(slots, parts)];
  return { models, slots: slotFacts(models, { sizes: sizesOf(SIZE), pixelKey: (i) => i }) };
}

const letters = ['a', 'b', 'c', 'd', 'e', 'f'];
const slotSpec = fc.record({
  image: fc.constantFrom('p', 'q', 'r'),
  alphaMode: fc.constantFrom('OPAQUE' as const, 'OPAQUE' as const, 'MASK' as const),
  doubleSided: fc.boolean(),
  repeats: fc.constantFrom(0.3, 0.8, 6),
});

describe('the prediction routes as the merge does', () => {
  test('any slots, any routes by hand: the same sheets and the same reasons', () => {
    fc.assert(
      fc.property(
        fc.array(slotSpec, { minLength: 1, maxLength: 6 }),
        fc.array(fc.constantFrom('1', '2', '3', APART, ''), { minLength: 6, maxLength: 6 }),
        fc.integer({ min: 1, max: 3 }),
        fc.boolean(),
        fc.boolean(),
        (specs, routes, sheets, mergeAll, join) => {
          const slots = specs.map(
            (spec, i): SlotSpec => ({
              name: letters[i],
              baseColor: spec.image,
              alphaMode: spec.alphaMode,
              doubleSided: spec.doubleSided,
            }),
          );
          const parts = specs.map((spec, i) => part(letters[i], i * 2, spec.repeats));
          const decisions = decide({
            sheets,
            size: 128,
            mergeAll,
            join,
            routes: letters.flatMap((slot, i) =>
              routes[i] === '' || (routes[i] !== APART && Number(routes[i]) > sheets) ? [] : [{ slot, to: routes[i] }],
            ),
          });
          const { models, slots: rows } = facts(slots, parts);
          const { routing } = plotsBySheet(models, route(models, decisions, PICTURES), decisions.sheets, sizesOf(SIZE));
          const predicted = predict(rows, decisions, known);
          for (const flow of predicted.flows) {
            const { model, slot } = rows[flow.slot];
            const at = routing.routed.get(`${model}:${slot}`);
            expect(flow.sheet).toBe(at === undefined ? -1 : routing.materials[at].sheet);
            const kept = routing.keptApart.find((k) => k.model === model && k.slot === slot);
            expect(flow.code).toBe(kept?.code);
            expect(flow.reason).toBe(kept?.reason);
          }
        },
      ),
      { numRuns: runs(60) },
    );
  });

  test('memory is that of the maps that will be written, and of the textures kept apart', () => {
    const { slots } = facts(
      [
        { name: 'plain', baseColor: 'p' },
        { name: 'bumpy', baseColor: 'q', normal: 'n' },
        { name: 'glass', baseColor: 'r' },
      ],
      [part('plain'), part('bumpy', 2), part('glass', 4)],
    );
    const prediction = predict(slots, decide({ size: 256, keepApart: ['glass'] }), known);
    const chain = (side: number): number => (side === 1 ? 4 : side * side * 4 + chain(side / 2));
    // Base colour and normal, and the one texture of the glass; roughness and metallic are the same everywhere, so factors.
    expect(prediction.bytes.rgba8).toBe(2 * chain(256) + chain(SIZE));
    expect(prediction.textures).toBe(3);
    expect(prediction.slots).toBe(2);
    const none = predict(slots, decide({ size: 256, keepApart: ['plain', 'bumpy', 'glass'] }), known);
    expect(none.bytes.rgba8).toBe(4 * chain(SIZE));
    expect(none.lowestDensity).toBeNull();
  });

  test('a larger sheet never makes anything less sharp, a larger margin never sharper', () => {
    const { slots } = facts(
      letters.map((name) => ({ name, baseColor: name })),
      letters.map((letter, i) => part(letter, i * 2, 0.8)),
    );
    fc.assert(
      fc.property(fc.integer({ min: 6, max: 10 }), fc.integer({ min: 0, max: 24 }), (power, margin) => {
        const scale = (size: number, m: number) => predict(slots, decide({ size, margin: m }), known).sheets[0].scale;
        const here = scale(2 ** power, margin);
        expect(scale(2 ** (power + 1), margin)).toBeGreaterThanOrEqual(here);
        expect(scale(2 ** power, margin + 2)).toBeLessThanOrEqual(here);
        expect(here).toBeGreaterThanOrEqual(0);
        expect(here).toBeLessThanOrEqual(1);
      }),
      { numRuns: runs(40) },
    );
  });

  test('joining counts parts that stand alone, and leaves instanced ones', () => {
    const slots: SlotSpec[] = [
      { name: 'a', baseColor: 'p' },
      { name: 'b', baseColor: 'q' },
    ];
    const { slots: rows } = facts(slots, [part('a'), part('b', 2), part('a', 4)]);
    expect(predict(rows, decide(), known).drawCalls).toBe(3);
    expect(predict(rows, decide({ join: true }), known).drawCalls).toBe(1);
    expect(predict(rows, decide({ join: true, keepApart: ['b'] }), known).drawCalls).toBe(2);
    const twice = rows.map((row) => ({
      ...row,
      parts: row.parts.map((part) => ({ ...part, drawCalls: 2, apart: true })),
    }));
    expect(predict(twice, decide({ join: true }), known).drawCalls).toBe(6);
  });
});

describe('decisions', () => {
  const sheet = { id: '1', name: 'sheet', size: 512, margin: 4 };
  const reason = (input: unknown) => {
    const r = MergeDecisions.safeParse(input);
    return r.success ? null : r.error.issues[0].message;
  };

  test('what is left out gets its default', () => {
    expect(MergeDecisions.parse({})).toMatchObject({
      sheets: [{ id: '1', name: 'sheet', size: 2048, margin: 12 }],
      routes: {},
      samples: 4,
      rotate: 'quarter',
      join: false,
      viewDistance: null,
    });
  });

  test('sheets cannot share an id or a name, routes must lead somewhere', () => {
    expect(reason({ sheets: [sheet, { ...sheet, name: 'b' }] })).toBe('two sheets have the id "1"');
    expect(reason({ sheets: [sheet, { ...sheet, id: '2', name: 'Sheet' }] })).toBe('two sheets are called "Sheet"');
    expect(reason({ sheets: [{ ...sheet, id: 'apart' }] })).toBe('two sheets have the id "apart"');
    expect(reason({ sheets: [sheet], routes: { a: '2' } })).toBe('"a" is routed to a sheet that does not exist');
    expect(reason({ sheets: [sheet], routes: { a: '1', b: 'apart' } })).toBeNull();
    expect(reason({ sheets: [] })).toBe('at least one sheet is needed');
  });

  test('a name that would leave the folder is refused', () => {
    for (const name of ['../x', '', '.hidden', 'a/b', 'ü'.repeat(80)])
      expect(reason({ sheets: [{ ...sheet, name }] }), name).not.toBeNull();
  });

  test('sheets of one kind are numbered only when there are several', () => {
    expect(evenSheets(1, 'halt', 512, 4).map((sheet) => sheet.name)).toEqual(['halt']);
    expect(evenSheets(3, 'halt', 512, 4).map((sheet) => sheet.name)).toEqual(['halt_1', 'halt_2', 'halt_3']);
  });
});

test('a sheet twice as wide takes four times the area before it counts as full', () => {
  const groups = letters.map(() => ({ area: 10, sheet: -1, allowed: [0, 1] }));
  const sheets = spread(groups, [100 ** 2, 200 ** 2]);
  expect([0, 1].map((s) => sheets.filter((of) => of === s).length)).toEqual([1, 5]);
});
