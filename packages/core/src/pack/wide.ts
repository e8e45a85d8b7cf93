import { mixBits } from '../math/hash.ts';
import { type Fit, FitWindow } from './fit.ts';
import type { Spot } from './masks.ts';
import type { Drawing, DrawOrder, Sketch } from './sketch.ts';

/** How far a sketch looks to the sides. */
export interface Width {
  /** Sheets that are drawn side by side. */
  sheets: number;
  /** In how many ways each may go on. */
  options: number;
}

/** A drawing that is drawn anew from somewhere on. */
export interface Begun {
  drawing: Drawing;
  /** So many bodies stay where they stand. */
  bodies: number;
}

/** A sheet after some of the bodies. */
interface State {
  /** The sheet before the last of them; null when there is none on it. */
  readonly up: State | null;
  readonly body: number;
  readonly spot: Spot | null;
  readonly depth: number;
  /** Sum of what its bodies scored where they were placed. */
  readonly score: number;
  readonly missing: number;
  /** The same for the same bodies in the same places, whichever came first. */
  readonly mark: number;
  /** What may come next, once it has been looked at; the last sheet that goes on from it takes it over. */
  window: FitWindow | null;
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
export function drawWide(
  sketch: Sketch,
  what: DrawOrder,
  width: Width,
  o: { cancelled: () => boolean; most?: number; from?: Begun },
): Drawing[] {
  const { fit } = what;
  return fit ? new WideSketch(sketch, { ...what, fit }, width, o).draw(o.cancelled) : [];
}

class WideSketch {
  private readonly what: DrawOrder;
  /** Bodies that all sheets begin with, in their order, and where those and fixed ones stand. */
  private readonly begun: readonly number[];
  private readonly spots: readonly (Spot | null)[];
  private readonly most: number;
  /** What stands on the sheet. */
  private at: State;

  constructor(
    private readonly sketch: Sketch,
    what: DrawOrder & { fit: Fit },
    private readonly width: Width,
    { most = Number.POSITIVE_INFINITY, from }: { most?: number; from?: Begun },
  ) {
    const { order, spots } = sketch.begin(what);
    this.what = { ...what, order };
    this.most = most;
    this.begun = from ? from.drawing.sequence.slice(0, from.bodies) : [];
    let missing = 0;
    for (const i of this.begun) {
      const spot = from?.drawing.spots[i] ?? null;
      spots[i] = spot;
      sketch.stand(spot);
      missing += sketch.missingOf(i, spot);
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
      window: new FitWindow(sketch, what.fit, order, what.keys, new Set(this.begun)),
      squares: new Map(),
      waiting: 0,
    };
  }

  draw(cancelled: () => boolean): Drawing[] {
    let states = [this.at];
    for (let k = this.what.order.length - this.begun.length; k > 0; k--) {
      const next: State[] = [];
      const known = new Map<number, number>();
      for (const state of states) {
        if (cancelled()) return [];
        for (const after of this.after(state)) {
          const twin = known.get(after.mark);
          if (twin === undefined) known.set(after.mark, next.push(after) - 1);
          else if (next[twin].score < after.score) next[twin] = after;
        }
      }
      states = this.best(next, states);
    }
    return states.map((state) => this.drawing(state));
  }

  /** The sheets that go on from one. */
  private after(state: State): State[] {
    const { sketch } = this;
    this.moveTo(state);
    const window = this.windowOf(state);
    const squares = new Map(state.squares);
    sketch.squaresFrom = squares;
    const options = window.options(this.width.options);
    state.window = window;
    return options.flatMap(({ body, spot, score }) => {
      const missing = state.missing + sketch.missingOf(body, spot);
      if (missing > this.most) return [];
      const mark = state.mark + markOf(body, spot ? sketch.masksOf(body).indexOf(spot.mask) : -1, spot);
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
    const { sketch } = this;
    const path: State[] = [];
    let common = to;
    const rise = () => {
      path.push(common);
      common = common.up as State;
    };
    while (common.depth > this.at.depth) rise();
    while (this.at !== common) {
      sketch.leave(this.at.spot);
      this.at = this.at.up as State;
      if (common.depth > this.at.depth) rise();
    }
    for (const state of path.reverse()) sketch.stand(state.spot);
    this.at = to;
  }

  /** What may come next on a sheet, of which the last body has just been placed. */
  private windowOf({ up, body, spot, window }: State): FitWindow {
    if (!up) return window as FitWindow;
    const whole = up.window as FitWindow;
    up.waiting--;
    const own = up.waiting > 0 ? whole.clone() : whole;
    if (up.waiting === 0) up.window = null;
    own.remove(body);
    if (spot) own.stood(spot);
    return own;
  }

  private drawing(last: State): Drawing {
    const spots = [...this.spots];
    const sequence: number[] = [];
    for (let state = last; state.up; state = state.up) {
      spots[state.body] = state.spot;
      sequence.push(state.body);
    }
    sequence.reverse();
    return this.sketch.drawingOf(this.what, {
      spots,
      sequence: [...this.begun, ...sequence],
      looked: [],
      missing: last.missing,
    });
  }
}

/** A number for a body at a place in one of its directions; sums of them tell sheets apart. */
function markOf(body: number, direction: number, spot: Spot | null): number {
  return mixBits(mixBits(mixBits(body * 8 + direction + 1) ^ (spot ? spot.y : -1)) ^ (spot ? spot.x : -1));
}
