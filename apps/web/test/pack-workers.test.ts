import { MergeDecisions } from '@wembrel/core/decisions/decisions';
import { afterEach, beforeEach, expect, test, vi } from 'vitest';
import type { PackAnswer, PackedSheet, PackRequest } from '../src/contract/plots.ts';
import { continueSearch, packAll } from '../src/project/packing/pack-workers.ts';
import type { GatheredIslands } from '../src/project/packing/use-islands.ts';

/** Workers as the page would have them: what each was asked, and by hand what it answers. */
class Desk {
  static all: Desk[] = [];
  asked: PackRequest[] = [];
  ended = false;
  onmessage: ((e: { data: PackAnswer }) => void) | null = null;
  onerror: ((e: { message: string }) => void) | null = null;
  constructor() {
    Desk.all.push(this);
  }
  postMessage(request: PackRequest): void {
    this.asked.push(request);
  }
  terminate(): void {
    this.ended = true;
  }
  say(a: Record<string, unknown>): void {
    if (!this.ended) this.onmessage?.({ data: { id: 1, ...a } as PackAnswer });
  }
  done(...names: string[]): void {
    this.say({ type: 'done', seconds: 1, sheets: names.map((name) => ({ name }) as PackedSheet) });
  }
  get only(): number | undefined {
    return this.asked.at(-1)?.only;
  }
}

beforeEach(() => {
  Desk.all = [];
  vi.stubGlobal('Worker', Desk);
  vi.stubGlobal('navigator', { hardwareConcurrency: 3 });
});
afterEach(() => {
  vi.unstubAllGlobals();
});

const islands = (...counts: number[]): GatheredIslands =>
  ({
    index: { sheets: counts.map((count) => new Array(count).fill({})) },
    shapes: new Float64Array(0),
    faces: new Uint32Array(0),
  }) as GatheredIslands;

const plan = (count: number, scale: MergeDecisions['scale'] = 'relative') =>
  MergeDecisions.parse({
    scale,
    sheets: Array.from({ length: count }, (_, i) => ({ id: String(i + 1), name: `s${i}`, size: 256, margin: 4 })),
  });

const told = () => ({ progress: vi.fn(), better: vi.fn(), inRows: vi.fn(), done: vi.fn(), failed: vi.fn() });
const names = (on: ReturnType<typeof told>) =>
  on.done.mock.calls[0]?.[0].map((packedSheet: PackedSheet) => packedSheet.name);

test('several sheets: as many at a time as there are cores for, those with most islands first, all in their order', () => {
  const on = told();
  packAll(islands(2, 9, 5, 1), plan(4), on);
  expect(Desk.all.map((desk) => desk.only)).toEqual([1, 2]);
  Desk.all[0].say({ type: 'progress', share: 0.5 });
  expect(on.progress).toHaveBeenLastCalledWith(0.125);
  Desk.all[1].done('s2');
  expect(Desk.all[1].only).toBe(0);
  Desk.all[1].say({ type: 'progress', share: 0.5 });
  expect(on.progress).toHaveBeenLastCalledWith(0.5);
  Desk.all[1].done('s0');
  Desk.all[0].done('s1');
  expect(Desk.all.map((desk) => desk.ended)).toEqual([true, false]);
  expect(on.done).not.toHaveBeenCalled();
  Desk.all[1].done('s3');
  expect(names(on)).toEqual(['s0', 's1', 's2', 's3']);
  expect(Desk.all.map((desk) => desk.ended)).toEqual([true, true]);
});

test.each([
  ['one sheet', 1, 'relative' as const],
  ['at even density', 3, 'even' as const],
])('%s: all in one worker', (_, count, scale) => {
  const on = told();
  packAll(islands(...new Array(count).fill(4)), plan(count, scale), on);
  expect(Desk.all.map((desk) => desk.only)).toEqual([undefined]);
  const all = plan(count).sheets.map((sheet) => sheet.name);
  Desk.all[0].done(...all);
  expect(names(on)).toEqual(all);
});

test('where one does not fit, all end and it is said once; what is overtaken says nothing any more', () => {
  const on = told();
  packAll(islands(3, 3, 3), plan(3), on);
  Desk.all[1].say({ type: 'failed', message: '3 islands do not fit' });
  Desk.all[0].done('s0');
  expect(on.failed.mock.calls).toEqual([['3 islands do not fit']]);
  expect(on.done).not.toHaveBeenCalled();
  const other = told();
  const end = packAll(islands(3), plan(1), other);
  end();
  Desk.all.at(-1)?.done('s0');
  expect(other.done).not.toHaveBeenCalled();
});

test('looking on ends by itself when all are done; a worker that breaks is told, and then it is not whole', () => {
  const tasks = [
    { sheet: 0, seed: 1 },
    { sheet: 0, seed: 2 },
  ];
  const on = told();
  continueSearch(islands(3), plan(1), tasks, on);
  expect(Desk.all.map((desk) => desk.asked[0].look)).toEqual(tasks);
  Desk.all[0].say({ type: 'better', index: 0, sheet: { name: 's0' }, seconds: 2 });
  expect(on.better).toHaveBeenCalledWith(0, { name: 's0' }, 2);
  Desk.all[0].done();
  expect(on.done).not.toHaveBeenCalled();
  Desk.all[1].onerror?.({ message: 'out of memory' });
  expect(on.failed.mock.calls).toEqual([['out of memory']]);
  expect(on.done.mock.calls).toEqual([[false]]);
});
