import fc from 'fast-check';
import { expect, test } from 'vitest';
import { runs } from '../../core/test/sampling.ts';
import { Occupancy, ROW } from '../src/occupancy.ts';
import { OccupancyReference } from '../src/occupancy-reference.ts';
import { toRuns } from '../src/run-mask.ts';

const bytes = (n: number, percent: number) =>
  fc
    .array(fc.integer({ min: 0, max: 99 }), { minLength: n, maxLength: n })
    .map((a) => Uint8Array.from(a, (v) => (v < percent ? 1 : 0)));

interface Hole {
  x: number;
  y: number;
  w: number;
  h: number;
}

/** A rectangle somewhere on a sheet, as far as it lies on it. */
const hole = (s: { w: number; h: number }) =>
  fc.record({
    x: fc.integer({ min: 0, max: s.w }),
    y: fc.integer({ min: 0, max: s.h }),
    w: fc.integer({ min: 1, max: 40 }),
    h: fc.integer({ min: 1, max: 30 }),
  });

/** Frees the cells of holes. */
function dig(taken: Uint8Array, width: number, height: number, holes: readonly Hole[]): void {
  for (const { x, y, w, h } of holes)
    for (let j = y; j < Math.min(height, y + h); j++)
      for (let i = x; i < Math.min(width, x + w); i++) taken[j * width + i] = 0;
}

const kinds = [
  ['the twin', OccupancyReference],
  ['the kernel', Occupancy],
] as const;

test.each(kinds)('%s: the first free x agrees with looking at every cell', (_, Kind) => {
  const scene = fc
    .record({
      w: fc.integer({ min: 1, max: 140 }),
      h: fc.integer({ min: 1, max: 12 }),
      mw: fc.integer({ min: 1, max: 50 }),
      mh: fc.integer({ min: 1, max: 6 }),
      fill: fc.integer({ min: 0, max: 30 }),
      solid: fc.integer({ min: 30, max: 100 }),
    })
    .chain((s) =>
      fc.record({
        size: fc.constant(s),
        taken: bytes(s.w * s.h, s.fill),
        mask: bytes(s.mw * s.mh, s.solid),
        y: fc.integer({ min: -4, max: s.h }),
        minX: fc.integer({ min: 0, max: s.w }),
        span: fc.integer({ min: 0, max: s.w }),
      }),
    );
  fc.assert(
    fc.property(scene, ({ size: { w, h, mw, mh }, taken, mask, y, minX, span }) => {
      const grid = new Kind(w, h);
      grid.add(toRuns(taken, w, h), 0, 0);
      const maxX = Math.min(w - 1, minX + span);
      const free = (x: number) => {
        for (let j = 0; j < mh; j++)
          for (let i = 0; i < mw; i++) {
            const cx = x + i;
            const cy = y + j;
            if (mask[j * mw + i] && cx >= 0 && cx < w && cy >= 0 && cy < h && taken[cy * w + cx]) return false;
          }
        return true;
      };
      let expected = minX - 1;
      for (let x = minX; x <= maxX; x++)
        if (free(x)) {
          expected = x;
          break;
        }
      expect(grid.firstFitWithin(toRuns(mask, mw, mh), y, minX, maxX)).toBe(expected);
    }),
    { numRuns: runs(300) },
  );
});

test('the first row with a place, found by blocks, is the one that looking at every row finds', () => {
  const scene = fc
    .record({
      w: fc.integer({ min: 1, max: 300 }),
      h: fc.integer({ min: 1, max: 40 }),
      mw: fc.integer({ min: 1, max: 24 }),
      mh: fc.integer({ min: 1, max: 24 }),
      // Mostly full, so that blocks are.
      fill: fc.constantFrom(80, 97, 100),
      solid: fc.constantFrom(60, 100),
    })
    .chain((s) =>
      fc.record({
        size: fc.constant(s),
        taken: bytes(s.w * s.h, s.fill),
        holes: fc.array(hole(s), { minLength: 1, maxLength: 1 }),
        mask: bytes(s.mw * s.mh, s.solid),
        y: fc.integer({ min: 0, max: s.h }),
        more: fc.integer({ min: -1, max: s.h }),
        minX: fc.integer({ min: 0, max: s.w }),
        span: fc.integer({ min: -1, max: s.w }),
        // How much further right it begins in the first row.
        later: fc.oneof(fc.constant(0), fc.nat(200)),
      }),
    );
  let found = 0;
  fc.assert(
    fc.property(scene, ({ size: { w, h, mw, mh }, taken, holes, mask, y, more, minX, span, later }) => {
      dig(taken, w, h, holes);
      const [reference, kernel] = kinds.map(([, Kind]) => new Kind(w, h)) as [OccupancyReference, Occupancy];
      const all = toRuns(taken, w, h);
      // In two parts, so that rows of blocks are filled more than once.
      const half = Math.floor(all.runs.length / 6) * 3;
      for (const grid of [reference, kernel])
        for (const runs of [all.runs.subarray(0, half), all.runs.subarray(half)]) grid.add({ ...all, runs }, 0, 0);
      const shape = toRuns(mask, mw, mh);
      const [lastY, maxX] = [Math.min(h - 1, y + more), Math.min(w - 1, minX + span)];
      let expected: { x: number; y: number } | null = null;
      for (let r = y; r <= lastY && !expected; r++) {
        const first = r === y ? minX + later : minX;
        const x = reference.firstFitWithin(shape, r, first, maxX);
        if (x >= first) expected = { x, y: r };
      }
      if (expected) found++;
      expect(kernel.firstRow(shape, y, lastY, minX, maxX, minX + later)).toEqual(expected);
      // What was held is forgotten.
      reference.clear();
      kernel.clear();
      if (maxX >= minX && lastY >= y) expect(kernel.firstRow(shape, y, lastY, minX, maxX)).toEqual({ x: minX, y });
    }),
    { numRuns: runs(500) },
  );
  expect(found).toBeGreaterThan(runs(500) / 10);
});

test('the place that lies least far along is the one that looking at every place finds', () => {
  const scene = fc
    .record({
      w: fc.integer({ min: 1, max: 300 }),
      h: fc.integer({ min: 1, max: 40 }),
      mw: fc.integer({ min: 1, max: 20 }),
      mh: fc.integer({ min: 1, max: 20 }),
      fill: fc.constantFrom(5, 80, 100),
      solid: fc.constantFrom(60, 100),
    })
    .chain((s) =>
      fc.record({
        size: fc.constant(s),
        taken: bytes(s.w * s.h, s.fill),
        holes: fc.array(hole(s), { minLength: 1, maxLength: 3 }),
        mask: bytes(s.mw * s.mh, s.solid),
        y: fc.integer({ min: 0, max: s.h }),
        more: fc.integer({ min: -1, max: s.h }),
        minX: fc.integer({ min: 0, max: s.w }),
        span: fc.integer({ min: -1, max: s.w }),
        tilt: fc.constantFrom(1, 7, 100, 1024, 5000),
        least: fc.integer({ min: -5000, max: 15_000 }),
        room: fc.constantFrom(3000, 1 << 28, 1 << 28),
      }),
    );
  let found = 0;
  fc.assert(
    fc.property(scene, ({ size: { w, h, mw, mh }, taken, holes, mask, y, more, minX, span, tilt, least, room }) => {
      dig(taken, w, h, holes);
      const [reference, kernel] = kinds.map(([, Kind]) => new Kind(w, h)) as [OccupancyReference, Occupancy];
      for (const grid of [reference, kernel]) grid.add(toRuns(taken, w, h), 0, 0);
      const shape = toRuns(mask, mw, mh);
      const [lastY, maxX] = [Math.min(h - 1, y + more), Math.min(w - 1, minX + span)];
      const most = least + room;
      let bound = Number.POSITIVE_INFINITY;
      let expected: { x: number; y: number } | null = null;
      for (let r = y; r <= lastY; r++)
        for (let x = minX; x <= maxX; x++) {
          const along = ROW * r + tilt * x;
          if (along < least || along > most || along >= bound) continue;
          if (reference.firstFitWithin(shape, r, x, x) !== x) continue;
          bound = along;
          expected = { x, y: r };
        }
      if (expected) found++;
      expect(kernel.firstAlong(shape, y, lastY, minX, maxX, { tilt, least, most })).toEqual(expected);
    }),
    { numRuns: runs(300) },
  );
  expect(found).toBeGreaterThan(runs(300) / 10);
});

test.each(kinds)('%s: placing a mask takes exactly its cells', (_, Kind) => {
  const grid = new Kind(70, 4);
  grid.add(toRuns(Uint8Array.from([1, 0, 1, 1]), 2, 2), 31, 1);
  const dot = toRuns(Uint8Array.from([1]), 1, 1);
  const taken = [];
  for (let y = 0; y < 4; y++)
    for (let x = 0; x < 70; x++) if (grid.firstFitWithin(dot, y, x, x) !== x) taken.push([x, y]);
  expect(taken).toEqual([
    [31, 1],
    [31, 2],
    [32, 2],
  ]);
});

test('the kernel counts taken cells under a mask, those beside and above the sheet with them', () => {
  const scene = fc.record({
    w: fc.integer({ min: 1, max: 200 }),
    h: fc.integer({ min: 1, max: 20 }),
    mw: fc.integer({ min: 1, max: 90 }),
    mh: fc.integer({ min: 1, max: 8 }),
  });
  const placed = scene.chain((s) =>
    fc.record({
      size: fc.constant(s),
      taken: bytes(s.w * s.h, 30),
      mask: bytes(s.mw * s.mh, 60),
      x: fc.integer({ min: -s.mw, max: s.w }),
      y: fc.integer({ min: -s.mh, max: s.h }),
      edge: fc.integer({ min: 0, max: 3 }),
    }),
  );
  fc.assert(
    fc.property(placed, ({ size: { w, h, mw, mh }, taken, mask, x, y, edge }) => {
      const grid = new Occupancy(w, h);
      grid.add(toRuns(taken, w, h), 0, 0);
      let expected = 0;
      for (let j = 0; j < mh; j++)
        for (let i = 0; i < mw; i++) {
          const [cx, cy] = [x + i, y + j];
          if (!mask[j * mw + i] || cy >= h) continue;
          if (cy < 0 || cx < edge || cx >= w - edge || taken[cy * w + cx]) expected++;
        }
      expect(grid.taken(toRuns(mask, mw, mh), x, y, edge, w - edge)).toBe(expected);
    }),
    { numRuns: runs(200) },
  );
});

test('what is freed is free again, and nothing else: the kernel and its twin find what they find on a sheet where it never stood', () => {
  const scene = fc
    .record({ w: fc.integer({ min: 8, max: 220 }), h: fc.integer({ min: 4, max: 40 }) })
    .chain(({ w, h }) =>
      fc.record({
        size: fc.constant({ w, h }),
        cells: bytes(w * h, 40),
        from: fc.integer({ min: 0, max: w }),
        mask: fc.tuple(fc.integer({ min: 1, max: 30 }), fc.integer({ min: 1, max: 9 })),
        at: fc.tuple(fc.integer({ min: -5, max: w }), fc.integer({ min: -3, max: h })),
      }),
    );
  fc.assert(
    fc.property(scene, ({ size: { w, h }, cells, from, mask: [mw, mh], at: [x, y] }) => {
      // Two that share no cell: to the left and to the right of a column.
      const part = (left: boolean) =>
        toRuns(
          cells.map((v, i) => (i % w < from === left ? v : 0)),
          w,
          h,
        );
      const [stays, goes] = [part(true), part(false)];
      const mask = toRuns(new Uint8Array(mw * mh).fill(1), mw, mh);
      const found = [new OccupancyReference(w, h), new Occupancy(w, h)].flatMap((grid) => {
        grid.add(stays, 0, 0);
        const never = grid.firstFitWithin(mask, y, Math.max(0, x), w - 1);
        grid.add(goes, 0, 0);
        grid.remove(goes, 0, 0);
        return [never, grid.firstFitWithin(mask, y, Math.max(0, x), w - 1)];
      });
      expect(new Set(found).size).toBe(1);
      const kernel = new Occupancy(w, h);
      const fresh = new Occupancy(w, h);
      for (const grid of [kernel, fresh]) grid.add(stays, 0, 0);
      kernel.add(goes, 0, 0);
      kernel.remove(goes, 0, 0);
      expect(kernel.firstRow(mask, 0, h - 1, 0, w - 1)).toEqual(fresh.firstRow(mask, 0, h - 1, 0, w - 1));
      const along = { tilt: 70, least: 0, most: 1 << 20 };
      expect(kernel.firstAlong(mask, 0, h - 1, 0, w - 1, along)).toEqual(
        fresh.firstAlong(mask, 0, h - 1, 0, w - 1, along),
      );
      const all = toRuns(new Uint8Array(w * h).fill(1), w, h);
      expect(kernel.taken(all, 0, 0)).toBe(stays.cells);
    }),
  );
});
