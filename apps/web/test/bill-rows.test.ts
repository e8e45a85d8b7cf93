import { MergeDecisions } from '@wembrel/core/decisions/decisions';
import { describe, expect, test } from 'vitest';
import type { Forecast } from '../src/project/prediction.ts';
import { type BillSources, billRows, offBy } from '../src/views/workbench/bill-rows.ts';

const DECISIONS = MergeDecisions.parse({});
const totals = (drawCalls: number, bc7: number) => ({
  drawCalls,
  slots: drawCalls,
  gpuVertices: 100,
  triangles: 50,
  textureBytes: { bc7 },
});
const sources = (over: Partial<BillSources> = {}): BillSources =>
  ({
    project: { survey: { totals: totals(29, 30 << 20) }, decisions: DECISIONS },
    forecast: {
      ...totals(6, 0),
      bytes: { bc7: 10 << 20 },
      lowestDensity: 98,
      packed: false,
    } as unknown as Forecast,
    result: null,
    final: false,
    ...over,
  }) as BillSources;
const row = (label: string, over?: Partial<BillSources>) =>
  billRows(sources(over), 64).find((line) => line.label === label);
const baked = { after: totals(6, 9 << 20), density: { p5: 91 } } as unknown as BillSources['result'];

describe('the lines of the bill', () => {
  test('before anything is baked, what is predicted stands beside what was', () => {
    expect(row('Draw calls')).toMatchObject({ before: '29', measured: undefined, predicted: '6', is: [29, 6] });
    expect(row('Lowest density')).toMatchObject({ before: '64 px/m', predicted: '≈ 98 px/m' });
  });

  test('of a proof, memory and how far the density is off stay predictions: its maps are smaller', () => {
    expect(row('Texture memory', { result: baked })).toMatchObject({ measured: undefined, predicted: '10.0 MiB' });
    expect(row('Lowest density', { result: baked })).toMatchObject({ measured: '91 px/m', off: null });
  });

  test('a final is measured throughout, and says how far the prediction was off', () => {
    const memory = row('Texture memory', { result: baked, final: true });
    expect(memory).toMatchObject({ measured: '9.0 MiB', is: [30 << 20, 9 << 20] });
    expect(memory?.off).toBeCloseTo(0.1, 12);
    expect(row('Draw calls', { result: baked, final: true })?.off).toBeNull();
  });

  test('an unread project claims nothing', () => {
    const empty = { project: { survey: null, decisions: DECISIONS }, forecast: null };
    for (const line of billRows(sources(empty as Partial<BillSources>), null))
      expect([line.before, line.measured, line.predicted]).toEqual([undefined, undefined, undefined]);
  });

  test('each figure says how it is found', () => {
    const formulas = billRows(sources(), null).map((line) => line.formula);
    expect(new Set(formulas).size).toBe(6);
    for (const formula of formulas) expect(formula).toMatch(/\.$/);
  });

  test('half a thousandth is no difference', () => {
    expect(offBy(10_000, 10_004)).toBeNull();
    expect(offBy(10_000, 10_010)).toBeCloseTo(0.001, 12);
    expect(offBy(0, 5)).toBeNull();
    expect(offBy(5, undefined)).toBeNull();
  });
});
