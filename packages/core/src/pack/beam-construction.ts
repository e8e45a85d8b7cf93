import { mixBits } from '../math/hash.ts';
import type { BeamWidth, ChoiceRule } from './choice-rule.ts';
import { ChoiceWindow } from './choice-window.ts';
import type { Construction, ConstructionGrid, ConstructionOrder } from './construction-grid.ts';
import type { GridPlace } from './masks.ts';

/** A drawing that is drawn again from somewhere on. */
export interface PartialConstruction {
  construction: Construction;
  /** So many bodies stay where they stand. */
  bodies: number;
}

/** A sheet after some of the bodies. */
interface State {
  /** The sheet before the last of them; null when there is none on it. */
  readonly up: State | null;
  readonly body: number;
  readonly spot: GridPlace | null;
  readonly depth: number;
  /** Sum of what its bodies scored where they were placed. */
  readonly score: number;
  readonly missing: number;
  /** The same for the same bodies in the same places, whichever came first. */
  readonly mark: number;
  /** What may come next, once it has been looked at; the last sheet that goes on from it takes it over. */
  window: ChoiceWindow | null;
  readonly squares: ReadonlyMap<number, number>;
  /** How many go on from it and have not been looked at. */
  waiting: number;
}

/**
 * Draws many sheets side by side: each goes on with any of a few bodies that suit it, and those stay on which all are surrounded most closely (beam
 * search, Lowerre 1976). A single sheet has to live with a choice that turns out badly; here it drops out.
 * @param what with a choice; without one there is nothing to choose from
 * @param o.most px² that may be missing @param o.from what they all begin with
 * @returns those that came through; none when all leave out more, or when cancelled
 */
export function constructBeam(
  grid: ConstructionGrid,
  what: ConstructionOrder,
  width: BeamWidth,
  o: { cancelled: () => boolean; most?: number; from?: PartialConstruction },
): Construction[] {
  const { fit } = what;
  return fit ? new BeamConstruction(grid, { ...what, fit }, width, o).construct(o.cancelled) : [];
}

class BeamConstruction {
  private readonly what: ConstructionOrder;
  /** Bodies that all sheets begin with, in their order, and where those and fixed ones stand. */
  private readonly begun: readonly number[];
  private readonly spots: readonly (GridPlace | null)[];
  private readonly most: number;
  /** What stands on the sheet. */
  private at: State;

  constructor(
    private readonly grid: ConstructionGrid,
    what: ConstructionOrder & { fit: ChoiceRule },
    private readonly width: BeamWidth,
    { most = Number.POSITIVE_INFINITY, from }: { most?: number; from?: PartialConstruction },
  ) {
    const { order, spots } = grid.begin(what);
    this.what = { ...what, order };
    this.most = most;
    this.begun = from ? from.construction.sequence.slice(0, from.bodies) : [];
    let missing = 0;
    for (const i of this.begun) {
      const spot = from?.construction.spots[i] ?? null;
      spots[i] = spot;
      grid.stand(spot);
      missing += grid.missingOf(i, spot);
    }
    this.spots = spots;
    this.at = {
      up: null,
      body: -1,
      spot: null,
      depth: 0,
      score: 0,
      missing,
      mark: 0,
      window: new ChoiceWindow(grid, what.fit, order, what.keys, new Set(this.begun)),
      squares: new Map(),
      waiting: 0,
    };
  }

  construct(cancelled: () => boolean): Construction[] {
    let states = [this.at];
    for (let k = this.what.order.length - this.begun.length; k > 0; k--) {
      const next: State[] = [];
      const known = new Map<number, number>();
      for (const state of states) {
        if (cancelled()) return [];
        for (const after of this.after(state)) {
          const same = known.get(after.mark);
          if (same === undefined) known.set(after.mark, next.push(after) - 1);
          else if (next[same].score < after.score) next[same] = after;
        }
      }
      states = this.best(next, states);
    }
    return states.map((state) => this.construction(state));
  }

  /** The sheets that go on from one. */
  private after(state: State): State[] {
    const { grid } = this;
    this.moveTo(state);
    const window = this.windowOf(state);
    const squares = new Map(state.squares);
    grid.squaresFrom = squares;
    const options = window.options(this.width.options);
    state.window = window;
    return options.flatMap(({ body, spot, score }) => {
      const missing = state.missing + grid.missingOf(body, spot);
      if (missing > this.most) return [];
      const mark = state.mark + markOf(body, spot ? grid.masksOf(body).indexOf(spot.mask) : -1, spot);
      const sum = state.score + score;
      const depth = state.depth + 1;
      return [{ up: state, body, spot, depth, score: sum, missing, mark, window: null, squares, waiting: 0 }];
    });
  }

  /** The best sheets, those that go on from the same one beside each other: little changes from one to the next. */
  private best(all: readonly State[], before: readonly State[]): State[] {
    const position = new Map(before.map((state, i) => [state, i]));
    const from = (state: State) => position.get(state.up as State) as number;
    const best = all
      .map((state, i) => ({ state, i }))
      .sort((a, b) => b.state.score - a.state.score || a.i - b.i)
      .slice(0, this.width.sheets);
    best.sort((a, b) => from(a.state) - from(b.state) || a.i - b.i);
    return best.map(({ state }) => {
      (state.up as State).waiting++;
      return state;
    });
  }

  /** Frees cells and takes others, so that a state stands on the sheet. */
  private moveTo(to: State): void {
    const { grid } = this;
    const path: State[] = [];
    let common = to;
    const rise = () => {
      path.push(common);
      common = common.up as State;
    };
    while (common.depth > this.at.depth) rise();
    while (this.at !== common) {
      grid.leave(this.at.spot);
      this.at = this.at.up as State;
      if (common.depth > this.at.depth) rise();
    }
    for (const state of path.reverse()) grid.stand(state.spot);
    this.at = to;
  }

  /** What may come next on a sheet, of which the last body has just been placed. */
  private windowOf({ up, body, spot, window }: State): ChoiceWindow {
    if (!up) return window as ChoiceWindow;
    const whole = up.window as ChoiceWindow;
    up.waiting--;
    const own = up.waiting > 0 ? whole.clone() : whole;
    if (up.waiting === 0) up.window = null;
    own.remove(body);
    if (spot) own.stood(spot);
    return own;
  }

  private construction(last: State): Construction {
    const spots = [...this.spots];
    const sequence: number[] = [];
    for (let state = last; state.up; state = state.up) {
      spots[state.body] = state.spot;
      sequence.push(state.body);
    }
    sequence.reverse();
    return this.grid.constructionOf(this.what, {
      spots,
      sequence: [...this.begun, ...sequence],
      looked: [],
      missing: last.missing,
    });
  }
}

/** A number for a body at a place in one of its directions; sums of them tell sheets apart. */
function markOf(body: number, direction: number, spot: GridPlace | null): number {
  return mixBits(mixBits(mixBits(body * 8 + direction + 1) ^ (spot ? spot.y : -1)) ^ (spot ? spot.x : -1));
}
