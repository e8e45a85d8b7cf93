import { ROW } from '@wembrel/kernels/occupancy';
import { OccupancyReference } from '@wembrel/kernels/occupancy-reference';
import { toRuns } from '@wembrel/kernels/run-mask';
import fc from 'fast-check';
import { expect, test } from 'vitest';
import type { ChoiceRule } from '../src/pack/choice-rule.ts';
import { type ChoiceOption, ChoiceWindow, type PlacementGrid } from '../src/pack/choice-window.ts';
import type { GridPlace, Mask } from '../src/pack/masks.ts';
import { CONSTRUCTION } from '../src/pack/tuning.ts';
import { runs } from './sampling.ts';

const [COLUMNS, ROWS] = [34, 30];

/** A rectangle with a margin of one cell around it. */
function rectangle(w: number, h: number): Mask {
  const full = (a: number, b: number) => toRuns(new Uint8Array(a * b).fill(1), a, b);
  const inner = full(w, h);
  const runs = inner.runs.map((v, k) => (k % 3 === 2 ? v : v + 1));
  return {
    direction: [1, 0],
    halo: full(w + 2, h + 2),
    body: { ...inner, width: w + 2, height: h + 2, runs },
    midX: w / 2 + 1,
    midY: h / 2 + 1,
    bodyTop: 1,
    bodyBottom: h,
    bodyLeft: 1,
    bodyRight: w,
    square: 1,
    squareTop: 0,
    squareLeft: 0,
  };
}

/** A sheet on which every place is looked at, one by one. */
class Plain implements PlacementGrid {
  readonly rows = ROWS;
  private readonly grid = new OccupancyReference(COLUMNS, ROWS);

  constructor(
    private readonly masks: readonly Mask[][],
    private readonly tilt: number,
    /** Of the least that a body can begin at: at most that. */
    private readonly slack: number,
  ) {}

  masksOf(body: number): readonly Mask[] {
    return this.masks[body];
  }

  along({ x, y }: GridPlace, columns: number, rows: number): number {
    return ROW * (y + rows) + this.tilt * (x + columns);
  }

  private first(mask: Mask, least: number): GridPlace | null {
    let best: GridPlace | null = null;
    let end = Number.POSITIVE_INFINITY;
    for (let y = -1; y + mask.halo.height - 1 <= ROWS; y++)
      for (let x = -1; x + mask.halo.width - 1 <= COLUMNS; x++) {
        const along = this.along({ mask, x, y }, 0, 0);
        if (along < least || along >= end || this.grid.firstFitWithin(mask.halo, y, x, x) !== x) continue;
        best = { mask, x, y };
        end = along;
      }
    return best;
  }

  firstSpot(mask: Mask): GridPlace | null {
    return this.first(mask, Number.NEGATIVE_INFINITY);
  }

  firstFrom(spot: GridPlace): GridPlace | null {
    return this.first(spot.mask, this.along(spot, 0, 0));
  }

  leastAlong(mask: Mask): number {
    const spot = this.firstSpot(mask);
    return spot ? this.along(spot, mask.bodyLeft, mask.bodyTop) - this.slack : 1 << 30;
  }

  closeness({ mask, x, y }: GridPlace): number {
    const { width, height } = mask.halo;
    const around = toRuns(
      Uint8Array.from({ length: (width + 2 * CONSTRUCTION.ring) * (height + 2 * CONSTRUCTION.ring) }, () => 1),
      width + 2 * CONSTRUCTION.ring,
      height + 2 * CONSTRUCTION.ring,
    );
    let taken = 0;
    for (let k = 0; k < around.runs.length; k += 3)
      for (let i = 0; i < around.runs[k + 2]; i++) {
        const [cx, cy] = [x - CONSTRUCTION.ring + around.runs[k + 1] + i, y - CONSTRUCTION.ring + around.runs[k]];
        const outside = cx < 0 || cx >= COLUMNS || cy < 0;
        if (outside || this.grid.firstFitWithin(DOT, cy, cx, cx) !== cx) taken++;
      }
    return taken / around.cells;
  }

  add(spot: GridPlace): void {
    this.grid.add(spot.mask.body, spot.x, spot.y);
  }
}

const DOT = toRuns(Uint8Array.of(1), 1, 1);

/** What may come next when everything is looked for again each time, the best first. */
function plainly(sheet: Plain, fit: ChoiceRule, left: number[], keys: Float64Array): ChoiceOption[] {
  const window = left.slice(0, fit.look);
  const seats = window.flatMap((body) =>
    sheet.masksOf(body).flatMap((mask) => {
      const spot = sheet.firstSpot(mask);
      return spot ? [{ body, spot, begin: sheet.along(spot, mask.bodyLeft, mask.bodyTop) }] : [];
    }),
  );
  const lowest = Math.min(...seats.map((seat) => seat.begin)) + fit.band * ROWS * ROW;
  const most = keys[window[0]];
  const best = new Map<number, ChoiceOption>();
  for (const { body, spot, begin } of seats) {
    const score = sheet.closeness(spot) - fit.bias * (1 - keys[body] / most);
    if (begin <= lowest && score > (best.get(body)?.score ?? Number.NEGATIVE_INFINITY))
      best.set(body, { body, spot, score });
  }
  // As they come in the order where they score alike.
  const all = [...best.values()].sort((a, b) => b.score - a.score || left.indexOf(a.body) - left.indexOf(b.body));
  return all.length > 0 ? all : [{ body: window[0], spot: null, score: -1 }];
}

test('what is chosen is what looking for every place anew would choose', () => {
  const side = fc.integer({ min: 1, max: 9 });
  fc.assert(
    fc.property(
      fc.array(fc.tuple(side, side), { minLength: 4, maxLength: 26 }),
      fc.record({
        look: fc.integer({ min: 1, max: 12 }),
        bias: fc.double({ min: 0, max: 1, noNaN: true }),
        band: fc.constantFrom(0, 0.05, 0.3),
      }),
      fc.constantFrom(0, 0, 200, 900),
      fc.constantFrom(0, 3 * ROW, Number.POSITIVE_INFINITY),
      (sides, fit, tilt, slack) => {
        const masks = sides.map(([w, h]) => [rectangle(w, h), rectangle(h, w)]);
        const keys = Float64Array.from(sides, ([w, h], i) => w * h + 1 / (i + 2));
        const order = sides.map((_, i) => i).sort((a, b) => keys[b] - keys[a]);
        const sheet = new Plain(masks, tilt, slack);
        let window = new ChoiceWindow(sheet, fit, order, keys, new Set());
        const left = [...order];
        const shown = ({ body, spot }: { body: number; spot: GridPlace | null }) => ({
          body,
          at: spot && [spot.x, spot.y, spot.mask.halo.width],
        });
        while (left.length > 0) {
          const expected = plainly(sheet, fit, left, keys);
          // One that goes on as a copy, of which the first has been looked at, is the same.
          const copy = window.clone();
          for (const choiceWindow of [copy, window]) {
            const options = choiceWindow.options(3);
            expect(options.map(shown)).toEqual(expected.slice(0, 3).map(shown));
            options.forEach((option, k) => {
              expect(option.score).toBeCloseTo(expected[k].score, 9);
            });
          }
          window.remove(expected[0].body);
          window = copy;
          const { body, spot } = window.take();
          expect(shown({ body, spot })).toEqual(shown(expected[0]));
          left.splice(left.indexOf(body), 1);
          if (!spot) continue;
          sheet.add(spot);
          window.stood(spot);
        }
      },
    ),
    { numRuns: runs(60) },
  );
});
