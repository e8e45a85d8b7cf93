import { Crowd, type Freedom, type Poses } from '@wembrel/kernels/crowd';
import { borderEdges, distanceField, type Field } from '@wembrel/kernels/field';
import { hullArea, QUARTERS, tightestDirection } from './directions.ts';
import { placedBorder, shortfall } from './gaps.ts';
import { type Jam, Separation } from './separate.ts';
import { Sketch } from './sketch.ts';

/** A shape to be packed tightly. */
export interface TightItem {
  /** Triangles, six numbers each, px at scale 1. */
  shape: Float64Array;
  /** Px per px of the shape at a common scale; constant for what does not scale. */
  size: (scale: number) => number;
  freedom: Freedom;
  /** Stays here: the middle of its box, and its direction. */
  fixed?: { x: number; y: number; c: number; s: number; size: number };
}

export interface TightOptions {
  width: number;
  height: number;
  /** Least gap, px; half of it to the border. */
  margin: number;
  /** Greatest common scale. */
  maxScale: number;
  /** Attempts at a tighter layout after the first. */
  effort: number;
  random: () => number;
  cancelled: () => boolean;
  progress: (share: number) => void;
  /** Told of every better layout as it is found. */
  better?: (layout: TightLayout) => void;
}

export interface TightLayout {
  /** Common scale; 0 when nothing fits at any. */
  scale: number;
  /** Middle of each shape's box, and its direction. */
  places: { x: number; y: number; c: number; s: number }[];
  attempts: number;
  /** Rounds of `effort` after which it was found: as many find it again. */
  rounds: number;
}

/** Longest side in working px: finer sheets are packed in units of several px, so that the work stays the same. */
const WORKING_SIDE = 1024;
/** Share of the sheet that may be missing from a sketch that has room for all. */
const NONE = 1e-3;
/** How much larger than the best a layout is looked for, and how many that failed are kept. */
const AIM = 0.002;
const JAMS = 12;
/** Working px by which distance fields may be wrong. */
const SLACK = 0.05;
const TRACE = 0.04;

/**
 * Packs true shapes as tightly as it can: sketches on a grid in many orders, what has no room squeezed in, overlaps separated, and everything
 * grown until it jams; then checked against the exact borders. The first layout comes at once, each attempt may better it.
 */
export function packTightly(items: readonly TightItem[], o: TightOptions): TightLayout {
  return new TightPacker(items, o).run();
}

class TightPacker {
  private readonly unit: number;
  private readonly width: number;
  private readonly height: number;
  private readonly margin: number;
  /** Working px per px of each shape at which fields were made. */
  private readonly reference: Float64Array;
  private readonly base: (readonly [number, number])[];
  /** From the middle of the turned back box to that of the shape's own, px of the shape, turned back. */
  private readonly offsets: (readonly [number, number])[];
  private readonly fields: Field[];
  private readonly borders: Float64Array[];
  private readonly areas: Float64Array;
  private readonly lengths: Float64Array;
  /** Share of their convex hulls that the shapes fill. */
  private readonly fullness: number;
  private readonly crowd: Crowd;
  private readonly separation: Separation;
  private readonly keys: Float64Array[];
  private readonly area: number;
  /** Few enough that each is worth many looks. */
  private readonly few: boolean;
  /** All that may move, large ones first. */
  private readonly bySize: number[];
  /** The scale that is looked for, and what has been found at it. */
  private aim = 0;
  private jams: Jam[] = [];
  private attempts = 0;
  /** Rounds of looking for better ones. */
  private rounds = 0;
  /** The best that was reached, and the best that is exact. */
  private best: { scale: number; poses: Poses } | null = null;
  private exact: { scale: number; poses: Poses } | null = null;

  constructor(
    private readonly items: readonly TightItem[],
    private readonly o: TightOptions,
  ) {
    this.unit = Math.max(1, Math.max(o.width, o.height) / WORKING_SIDE);
    this.width = o.width / this.unit;
    this.height = o.height / this.unit;
    this.margin = o.margin / this.unit + SLACK;
    this.base = items.map((it) => (it.freedom === 2 && !it.fixed ? tightestDirection(it.shape) : ([1, 0] as const)));
    const turned = items.map((it, i) => turnedBack(it.shape, this.base[i]));
    this.offsets = turned.map((t) => t.offset);
    this.borders = turned.map((t) => borderEdges(t.shape));
    this.areas = Float64Array.from(turned, (t) => t.area);
    this.lengths = Float64Array.from(this.borders, lengthOf);
    const hulls = turned.reduce((n, t) => n + hullArea(t.shape), 0);
    this.fullness = Math.min(1, this.areas.reduce((a, b) => a + b, 0) / Math.max(hulls, 1e-9));
    this.area = this.width * this.height;
    this.few = items.length <= 100;
    const sizes = this.sizesAt(solve((s) => this.filling(s) - 0.8, o.maxScale));
    this.reference = sizes;
    this.fields = turned.map((t, i) => {
      const scaled = (v: number) => v * sizes[i];
      const half = [t.halfWidth * sizes[i], t.halfHeight * sizes[i]];
      const step = Math.max(1, Math.max(...half) / 64, Math.sqrt((half[0] * half[1] * items.length) / 2e6));
      const options = { step, band: this.margin + 1.1 * step, spacing: 5, tolerance: 0.05 };
      return distanceField(t.shape.map(scaled), this.borders[i].map(scaled), options);
    });
    this.crowd = new Crowd(
      items.map((it, i) => ({ field: this.fields[i], freedom: it.freedom, fixed: it.fixed !== undefined })),
      this.width,
      this.height,
      this.margin,
    );
    this.separation = new Separation(this.crowd, o.random);
    const reach = (i: number) => this.crowd.radius[i] * sizes[i];
    this.bySize = items.flatMap((it, i) => (it.fixed ? [] : [i])).sort((p, q) => reach(q) - reach(p) || p - q);
    this.keys = ORDERS.map((f) => {
      const k = Float64Array.from(this.fields, f);
      const mean = k.reduce((a, b) => a + b, 0) / Math.max(1, k.length);
      return k.map((v) => v / Math.max(mean, 1e-9));
    });
  }

  /** Working px per px of each shape at a common scale. */
  private sizesAt(scale: number): Float64Array {
    return Float64Array.from(this.items, (it) => (it.fixed?.size ?? it.size(scale)) / this.unit);
  }

  private resize(scale: number): void {
    const now = this.sizesAt(scale);
    const then = this.reference;
    for (let i = 0; i < now.length; i++) this.crowd.size[i] = then[i] > 0 ? now[i] / then[i] : 1;
  }

  run(): TightLayout {
    const { o, items } = this;
    if (items.length === 0) return { scale: o.maxScale, places: [], attempts: 0, rounds: 0 };
    this.first();
    for (let k = 0; k < o.effort && this.best && this.best.scale < o.maxScale && !o.cancelled(); k++) {
      this.rounds = k + 1;
      // Many shapes gain most from orders, few from changing places.
      const before = this.exact;
      if (this.few || k % 4 === 3) this.explore();
      else this.redraw();
      if (this.exact !== before) o.better?.(this.layout());
      o.progress(0.2 + (0.8 * (k + 1)) / o.effort);
    }
    return this.layout();
  }

  private layout(): TightLayout {
    const { exact } = this;
    if (!exact) return { scale: 0, places: [], attempts: this.attempts, rounds: this.rounds };
    const { x, y, c, s } = exact.poses;
    const sizes = this.sizesAt(exact.scale);
    return {
      scale: exact.scale,
      attempts: this.attempts,
      rounds: this.rounds,
      places: this.items.map((it, i) => {
        if (it.fixed) return { x: it.fixed.x, y: it.fixed.y, c: it.fixed.c, s: it.fixed.s };
        const [bc, bs] = this.base[i];
        // Turned back by its base first: a body's direction is on top of that.
        const [dc, ds] = [c[i] * bc + s[i] * bs, s[i] * bc - c[i] * bs];
        const [ox, oy] = this.offsets[i];
        return {
          x: (x[i] + (c[i] * ox - s[i] * oy) * sizes[i]) * this.unit,
          y: (y[i] + (s[i] * ox + c[i] * oy) * sizes[i]) * this.unit,
          c: dc,
          s: ds,
        };
      }),
    };
  }

  /**
   * What the crowd has reached, with the margin kept between exact borders: where a field was not exact enough, a little smaller and pushed
   * apart again. (Smaller alone does not do it: holes shrink as well.)
   */
  private exactly(reached: number): { scale: number; poses: Poses } | null {
    const { crowd } = this;
    const margin = this.o.margin / this.unit + 1e-4;
    let scale = reached;
    for (let k = 0; k < 12; k++) {
      const { x, y, c, s } = crowd;
      const sizes = this.sizesAt(scale);
      const borders = this.borders.map((b, i) => placedBorder(b, sizes[i], x[i], y[i], c[i], s[i]));
      const short = shortfall(borders, this.width, this.height, margin, (i) => this.items[i].fixed !== undefined);
      if (short <= 0) return { scale, poses: crowd.poses() };
      scale *= 1 - Math.min(0.01, Math.max(3e-4, short / 100));
      crowd.rest();
      this.resize(scale);
      for (let r = 0; r < 200; r++) if (crowd.relax(0.5) < TRACE / 8) break;
    }
    return null;
  }

  /** Holds on to a layout that is better than the best. */
  private keep(scale: number): void {
    this.best = { scale, poses: this.crowd.poses() };
    const exact = this.exactly(scale);
    if (!exact || (this.exact && exact.scale <= this.exact.scale)) return;
    this.exact = exact;
    // The first layouts show at once; later ones when their round is over, so that as many rounds find just them again.
    if (this.rounds === 0) this.o.better?.(this.layout());
  }

  private separate(patience: number): boolean {
    this.attempts++;
    const movers = this.few ? 0.3 : 0.04;
    return this.separation.separate({ trace: TRACE, patience, movers, cancelled: this.o.cancelled });
  }

  /** The greatest scale at which a sketch has room for all, or as good as all. */
  private first(): void {
    const { o } = this;
    let low = 0;
    let high = o.maxScale;
    const limit = solve((s) => this.filling(s) - 1.05, o.maxScale);
    if (limit < high) high = limit;
    let scale = Math.min(
      high,
      solve((s) => this.filling(s) - 0.86 * this.fullness, o.maxScale),
    );
    for (let k = 0; k < 40 && !o.cancelled(); k++) {
      let drawn = this.draw(scale, 1);
      // A sketch takes less time than settling it: the first to be settled is the largest that has room for all.
      while (low === 0 && drawn.missing < NONE && scale < high && this.items.length <= 1000 && !o.cancelled()) {
        const next = Math.min(high, scale * 1.03);
        const larger = this.draw(next, 1);
        if (larger.missing >= NONE) {
          high = next;
          this.resize(scale);
          break;
        }
        [drawn, scale] = [larger, next];
      }
      if (drawn.missing < NONE && this.settle(drawn, 3)) {
        low = scale;
        this.keep(scale);
      } else high = scale;
      if (low >= o.maxScale || (low > 0 && high / low < 1.012)) break;
      scale = low > 0 ? Math.min(o.maxScale, high < limit ? (low + high) / 2 : low * 1.03) : scale * 0.95;
      o.progress(0.02 * Math.min(k, 9));
    }
    if (this.best) this.grow(1);
  }

  /** Share of the sheet that all shapes take with half of the margin around them (the area of a Minkowski sum, as if they were convex). */
  private filling(scale: number): number {
    const sizes = this.sizesAt(scale);
    const m = this.margin / 2;
    let sum = 0;
    for (let i = 0; i < sizes.length; i++)
      sum += this.areas[i] * sizes[i] ** 2 + this.lengths[i] * sizes[i] * m + Math.PI * m * m;
    return sum / this.area;
  }

  /** Sketches in several orders, each a change of the best so far. @returns the one that leaves out least */
  private draw(scale: number, tries: number): Drawn {
    const { items, o, fields } = this;
    this.resize(scale);
    const sizes = this.crowd.size;
    const cell = items.length > 1000 ? 2.5 : 2;
    const sketch = new Sketch(
      items.map((it, i) => ({
        field: fields[i],
        size: sizes[i],
        directions: it.freedom === 0 ? QUARTERS.slice(0, 1) : QUARTERS,
        fixed: it.fixed && { x: it.fixed.x / this.unit, y: it.fixed.y / this.unit, c: it.fixed.c, s: it.fixed.s },
      })),
      this.width,
      this.height,
      this.margin,
      cell,
    );
    let best: Drawn | null = null;
    for (let k = 0; k < tries; k++) {
      const keys: Float64Array = k < this.keys.length ? this.keys[k] : this.shuffled((best as Drawn).keys, k);
      const order = items.map((_, i) => i).sort((a, b) => keys[b] - keys[a] || a - b);
      const places = sketch.place(order, o.cancelled);
      let missing = 0;
      places.forEach((p, i) => {
        if (!p) missing += fields[i].area * sizes[i] ** 2;
      });
      missing /= this.area;
      if (!best || missing <= best.missing) best = { places, missing, keys };
      if (missing === 0 || o.cancelled()) break;
    }
    return best as Drawn;
  }

  private shuffled(keys: Float64Array, k: number): Float64Array {
    const { random } = this.o;
    const amount = [0.05, 0.15, 0.4][k % 3];
    const out = keys.slice();
    if (random() < 0.5) for (let i = 0; i < out.length; i++) out[i] *= 1 + (random() * 2 - 1) * amount;
    else
      for (let n = Math.ceil(out.length / 10); n > 0; n--)
        out[Math.floor(random() * out.length)] *= 1 + (random() * 2 - 1) * amount;
    return out;
  }

  /** Takes a sketch to a layout without overlap, if it can. */
  private settle(drawn: Drawn, patience: number): boolean {
    const { crowd, fields } = this;
    crowd.forget();
    crowd.loops.locate();
    drawn.places.forEach((p, i) => {
      if (p) crowd.move(i, p.x, p.y, p.c, p.s);
      // Out of the way until all others stand.
      else crowd.move(i, -4 * this.width, -4 * this.height, 1, 0);
    });
    const left = drawn.places
      .flatMap((p, i) => (p ? [] : [i]))
      .sort((a, b) => fields[b].area - fields[a].area || a - b);
    for (const i of left) this.separation.insert(i, left.length > 100 ? 60 : 300);
    return this.separate(patience);
  }

  /** Sketches anew a little larger than the best, settles and grows it. */
  private redraw(): void {
    const { best, items } = this;
    if (!best) return;
    const scale = Math.min(this.o.maxScale, best.scale * (1 + 0.0025 * (1 + (this.attempts % 3))));
    const drawn = this.draw(scale, items.length > 1000 ? 3 : items.length > 200 ? 12 : 40);
    if (drawn.missing < 0.03 && this.settle(drawn, 5)) {
      this.keep(scale);
      this.grow(2);
    }
  }

  /** Lets the best layout grow where it stands until it failed so often. */
  private grow(failures: number): void {
    const { best, crowd, o } = this;
    if (!best) return;
    let step = this.few ? 0.01 : 0.005;
    for (let failed = 0; failed < failures && !o.cancelled(); ) {
      const now = this.best as { scale: number; poses: Poses };
      if (now.scale >= o.maxScale) return;
      const scale = Math.min(o.maxScale, now.scale * (1 + step));
      crowd.setPoses(now.poses);
      this.resize(scale);
      if (this.separate(this.few ? 4 : 3)) this.keep(scale);
      else {
        failed++;
        step /= 2;
      }
    }
  }

  /**
   * Looks for a layout a little larger than the best: from the jams that remain there, each time with two bodies changing places.
   * (Keeping what has failed after Gardeyn and Wauters 2025.)
   */
  private explore(): void {
    const { best, crowd, o, items } = this;
    if (!best) return;
    if (this.aim <= best.scale) {
      this.aim = Math.min(o.maxScale, best.scale * (1 + AIM));
      this.jams = [];
    }
    // The least ones are taken up again more often.
    const from = this.jams[Math.floor(o.random() * o.random() * this.jams.length)];
    crowd.setPoses((from ?? best).poses);
    this.resize(this.aim);
    crowd.forget();
    if (from) this.separation.exchange(this.bySize, this.few ? 10 : 20, items.length > 100 ? 20 : 6);
    if (this.separate(6)) {
      this.keep(this.aim);
      this.grow(2);
    } else if (this.separation.least) {
      this.jams.push(this.separation.least);
      this.jams.sort((p, q) => p.total - q.total);
      this.jams.length = Math.min(this.jams.length, JAMS);
    }
  }
}

interface Drawn {
  places: ({ x: number; y: number; c: number; s: number } | null)[];
  /** Share of the sheet that found no room. */
  missing: number;
  keys: Float64Array;
}

/** What comes first: large and long. */
const ORDERS: ((f: Field) => number)[] = [
  (f) => Math.sqrt(f.area) + 2 * Math.max(f.halfWidth, f.halfHeight),
  (f) => f.area,
  (f) => Math.sqrt(f.halfWidth * f.halfHeight) + f.halfWidth + f.halfHeight,
  (f) => f.halfWidth * f.halfHeight,
  (f) => Math.max(f.halfWidth, f.halfHeight),
];

/** A shape about the middle of its box after it has been turned back by a direction. */
function turnedBack(
  shape: Float64Array,
  [c, s]: readonly [number, number],
): { shape: Float64Array; halfWidth: number; halfHeight: number; area: number; offset: readonly [number, number] } {
  let [left, right, top, bottom] = [Infinity, -Infinity, Infinity, -Infinity];
  const out = new Float64Array(shape.length);
  let [x0, x1, y0, y1] = [Infinity, -Infinity, Infinity, -Infinity];
  for (let i = 0; i < shape.length; i += 2) {
    left = Math.min(left, shape[i]);
    right = Math.max(right, shape[i]);
    top = Math.min(top, shape[i + 1]);
    bottom = Math.max(bottom, shape[i + 1]);
    out[i] = c * shape[i] + s * shape[i + 1];
    out[i + 1] = c * shape[i + 1] - s * shape[i];
    x0 = Math.min(x0, out[i]);
    x1 = Math.max(x1, out[i]);
    y0 = Math.min(y0, out[i + 1]);
    y1 = Math.max(y1, out[i + 1]);
  }
  let area = 0;
  for (let i = 0; i < out.length; i += 2) {
    out[i] -= (x0 + x1) / 2;
    out[i + 1] -= (y0 + y1) / 2;
  }
  for (let i = 0; i < out.length; i += 6)
    area +=
      Math.abs((out[i + 2] - out[i]) * (out[i + 5] - out[i + 1]) - (out[i + 4] - out[i]) * (out[i + 3] - out[i + 1])) /
      2;
  const [mx, my] = [(left + right) / 2, (top + bottom) / 2];
  const offset = [c * mx + s * my - (x0 + x1) / 2, c * my - s * mx - (y0 + y1) / 2] as const;
  return { shape: out, halfWidth: (x1 - x0) / 2, halfHeight: (y1 - y0) / 2, area, offset };
}

/** The greatest scale up to `most` at which a growing function is not above 0; half of it where it never is. */
function solve(f: (scale: number) => number, most: number): number {
  let low = 1e-6;
  let high = Math.min(most, 1e6);
  if (f(high) <= 0) return high;
  for (let k = 0; k < 48; k++) {
    const mid = Math.sqrt(low * high);
    if (f(mid) <= 0) low = mid;
    else high = mid;
  }
  return low;
}

/** Length of all segments together. */
function lengthOf(edges: Float64Array): number {
  let sum = 0;
  for (let i = 0; i < edges.length; i += 4)
    sum += Math.sqrt((edges[i + 2] - edges[i]) ** 2 + (edges[i + 3] - edges[i + 1]) ** 2);
  return sum;
}
