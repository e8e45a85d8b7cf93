import type { Field } from './field.ts';
import overlapWasm from './generated/overlap.ts';
import { allocate, instantiate } from './wasm.ts';

/** How a body may turn: not at all, by quarter turns, or by any angle. */
export type Freedom = 0 | 1 | 2;

export interface SolverShape {
  field: Field;
  freedom: Freedom;
  /** Stays where it is. */
  fixed: boolean;
}

/** Where all bodies are: middles, directions as (cosine, sine), sizes. */
export interface Poses {
  x: Float64Array;
  y: Float64Array;
  c: Float64Array;
  s: Float64Array;
  size: Float64Array;
}

/** The loops over all bodies: in WebAssembly (assembly/crowd.ts) or in plain TypeScript (crowd-reference.ts), with the same results. */
export interface OverlapLoops {
  /** One round of pushing apart; the greatest depth, px, by which anything is too near. */
  relax(pairs: number, pairWeights: number, wake: number, pairCount: number, momentum: number): number;
  /** Marks where all bodies are, for `cost`. */
  locate(): void;
  /** Puts a body elsewhere, without momentum. */
  move(i: number, x: number, y: number, c: number, s: number): void;
  /** What a body would be in the way at a place, px²; stops counting at `bound`. */
  cost(a: number, x: number, y: number, c: number, s: number, bound: number): number;
  /** How deep two bodies are in each other's way, px². */
  between(a: number, b: number): number;
  /** What of a body lies outside the sheet or too near to its border, px². */
  outside(a: number, x: number, y: number, c: number, s: number): number;
}

interface Wasm extends OverlapLoops {
  setUp(...numbers: number[]): void;
}

/** Arrays of one number a body, in the order of the kernel. */
const NUMBERS = [
  ...['x', 'y', 'c', 's', 'size', 'halfWidth', 'halfHeight', 'spacing', 'left', 'top', 'step', 'lightness', 'arm2'],
  ...['wall', 'row', 'vx', 'vy', 'vt', 'ax', 'ay', 'at', 'aw', 'motion'],
] as const;
const COUNTS = ['freedom', 'fixed', 'columns', 'rows', 'fieldAt', 'sampleAt', 'sampleCount'] as const;

/** Px that a body may move before the list of neighbours is made again. */
const SKIN = 2;

/** Most that two may count in pushing: with more they are kept apart at the cost of all around them, and everything flies apart. */
const MOST_PUSH = 4;

/**
 * Rigid shapes on a sheet that keep a distance. What is too near is pushed apart along the gradient of its distance field: position-based
 * dynamics (Müller et al. 2007), every contact weighted by its depth, with momentum. How much two are in each other's way is the depth of
 * the samples of each in the field of the other times the border that they stand for: about the area by which their margins overlap. Only
 * + − × ÷ √, so that every engine gives the same.
 */
export class OverlapSolver {
  readonly count: number;
  readonly x: Float64Array;
  readonly y: Float64Array;
  readonly c: Float64Array;
  readonly s: Float64Array;
  /** Px per px of the shape. */
  readonly size: Float64Array;
  readonly halfWidth: Float64Array;
  readonly halfHeight: Float64Array;
  readonly radius: Float64Array;
  readonly freedom: Int32Array;
  readonly fixed: Int32Array;
  private readonly speed: Float64Array[];
  private readonly wall: Float64Array;
  private readonly row: Float64Array;
  readonly loops: OverlapLoops;
  private readonly pairs: Int32Array;
  private readonly pairWeights: Float64Array;
  private readonly pairsAt: number;
  private readonly weightsAt: number;
  private readonly wakeAt: number;
  private readonly wake: Float64Array;
  private pairCount = 0;
  private readonly weights: Map<number, number>[];
  private weighted = false;
  private stale = true;
  private readonly seen: Poses;

  /**
   * @param margin least distance, px; half of it to the border
   * @param reference the same loops in plain TypeScript, for tests: given the layout of the memory
   */
  constructor(
    bodies: readonly SolverShape[],
    readonly width: number,
    readonly height: number,
    readonly margin: number,
    reference?: (layout: OverlapMemory) => OverlapLoops,
  ) {
    const n = bodies.length;
    this.count = n;
    let end = 1024;
    const take = (bytes: number) => {
      const at = end;
      end += (bytes + 15) & ~15;
      return at;
    };
    const body = take(NUMBERS.length * n * 8);
    const counts = take(COUNTS.length * n * 4);
    const fieldAt = bodies.map((body) => body.field.distance.length);
    const sampleAt = bodies.map((body) => ((body.field.samples.length / 2 + 3) >> 2) << 2);
    const field = take(fieldAt.reduce((sum, b) => sum + b, 0) * 4);
    const samples = sampleAt.reduce((sum, b) => sum + b, 0);
    const sampleX = take(samples * 4);
    const sampleY = take(samples * 4);
    const across = Math.max(4, Math.min(64, Math.ceil(Math.sqrt(n) * 1.5)));
    const cell = Math.max(width, height) / across;
    const columns = Math.ceil(width / cell);
    const rows = Math.ceil(height / cell);
    const words = (n + 63) >> 6;
    const grid = take(columns * rows * words * 8);
    const most = Math.max(64, Math.min((n * (n - 1)) / 2, n * 64));
    this.pairsAt = take(most * 8);
    this.weightsAt = take(most * 8);
    this.wakeAt = take(most * 16);
    const buffer = allocate(end);
    const numbers = Object.fromEntries(
      NUMBERS.map((name, k) => [name, new Float64Array(buffer, body + k * n * 8, n)]),
    ) as Record<(typeof NUMBERS)[number], Float64Array>;
    const ints = Object.fromEntries(
      COUNTS.map((name, k) => [name, new Int32Array(buffer, counts + k * n * 4, n)]),
    ) as Record<(typeof COUNTS)[number], Int32Array>;
    const layout: OverlapMemory = {
      ...numbers,
      ...ints,
      count: n,
      width,
      height,
      margin,
      field: new Float32Array(buffer, field, (sampleX - field) / 4),
      sampleX: new Float32Array(buffer, sampleX, samples),
      sampleY: new Float32Array(buffer, sampleY, samples),
      pairs: new Int32Array(buffer, this.pairsAt, most * 2),
      pairWeights: new Float64Array(buffer, this.weightsAt, most),
    };
    this.x = layout.x;
    this.y = layout.y;
    this.c = layout.c.fill(1);
    this.s = layout.s;
    this.size = layout.size.fill(1);
    this.halfWidth = layout.halfWidth;
    this.halfHeight = layout.halfHeight;
    this.freedom = layout.freedom;
    this.fixed = layout.fixed;
    this.wall = layout.wall.fill(1);
    this.row = layout.row.fill(1);
    this.speed = [layout.vx, layout.vy, layout.vt];
    this.pairs = layout.pairs;
    this.wake = new Float64Array(buffer, this.wakeAt, most * 2);
    this.pairWeights = layout.pairWeights;
    this.radius = new Float64Array(n);
    this.weights = bodies.map(() => new Map());
    this.seen = this.poses();
    let f = 0;
    let at = 0;
    bodies.forEach((body, i) => {
      const { samples: points, distance } = body.field;
      layout.halfWidth[i] = body.field.halfWidth;
      layout.halfHeight[i] = body.field.halfHeight;
      layout.spacing[i] = body.field.spacing;
      layout.left[i] = body.field.left;
      layout.top[i] = body.field.top;
      layout.step[i] = body.field.step;
      layout.lightness[i] = body.fixed ? 0 : 1 / Math.sqrt(Math.max(1, body.field.area));
      layout.freedom[i] = body.freedom;
      layout.fixed[i] = body.fixed ? 1 : 0;
      layout.columns[i] = body.field.columns;
      layout.rows[i] = body.field.rows;
      layout.fieldAt[i] = f;
      layout.sampleAt[i] = at;
      layout.sampleCount[i] = points.length / 2;
      layout.field.set(distance, f);
      let far = 0;
      let sum = 0;
      for (let k = 0; k < points.length / 2; k++) {
        layout.sampleX[at + k] = points[2 * k];
        layout.sampleY[at + k] = points[2 * k + 1];
        const d = points[2 * k] * points[2 * k] + points[2 * k + 1] * points[2 * k + 1];
        far = Math.max(far, d);
        sum += d;
      }
      this.radius[i] = Math.sqrt(far);
      layout.arm2[i] = Math.max(1e-6, sum / Math.max(1, points.length / 2));
      f += distance.length;
      at += sampleAt[i];
    });
    if (reference) this.loops = reference(layout);
    else {
      const kernel = instantiate<Wasm>(overlapWasm, buffer);
      const where = [body, counts, field, sampleX, sampleY];
      kernel.setUp(n, ...where, width, height, margin, grid, cell, columns, rows);
      this.loops = kernel;
    }
  }

  poses(): Poses {
    return { x: this.x.slice(), y: this.y.slice(), c: this.c.slice(), s: this.s.slice(), size: this.size.slice() };
  }

  setPoses(poses: Poses): void {
    this.x.set(poses.x);
    this.y.set(poses.y);
    this.c.set(poses.c);
    this.s.set(poses.s);
    this.size.set(poses.size);
    this.rest();
  }

  /** All momentum gone; neighbours are looked for again. */
  rest(): void {
    for (const v of this.speed) v.fill(0);
    this.stale = true;
  }

  /** Puts a body elsewhere; `locate` must have been called since bodies moved by themselves. */
  move(i: number, x: number, y: number, c: number, s: number): void {
    this.loops.move(i, x, y, c, s);
    this.stale = true;
  }

  /** Half the upright box around a body in a direction, px. */
  reachX(i: number, c: number, s: number): number {
    return (Math.abs(c) * this.halfWidth[i] + Math.abs(s) * this.halfHeight[i]) * this.size[i];
  }

  reachY(i: number, c: number, s: number): number {
    return (Math.abs(s) * this.halfWidth[i] + Math.abs(c) * this.halfHeight[i]) * this.size[i];
  }

  /** One round of pushing apart. @param momentum 0 … 1 @returns the greatest depth, px, by which anything is too near */
  relax(momentum: number): number {
    this.neighbours();
    return this.loops.relax(this.pairsAt, this.weightsAt, this.wakeAt, this.pairCount, momentum);
  }

  /** What body i would be in the way at a place; `attend` must have been called for it. */
  cost(i: number, x: number, y: number, c: number, s: number, bound: number): number {
    return this.loops.cost(i, x, y, c, s, bound);
  }

  /** Lets `cost` weigh what stands between body i and others; to be followed by `ignore`. */
  attend(i: number): void {
    for (const [j, w] of this.weights[i]) this.row[j] = w;
  }

  ignore(i: number): void {
    for (const j of this.weights[i].keys()) this.row[j] = 1;
  }

  /** All count the same again. */
  forget(): void {
    for (const weight of this.weights) weight.clear();
    this.weighted = false;
    this.wall.fill(1);
    this.pairWeights.fill(1);
  }

  private neighbours(): void {
    const { seen, x, y, c, s, size, radius, count } = this;
    let moved = this.stale;
    for (let i = 0; i < count && !moved; i++) {
      const dx = Math.abs(x[i] - seen.x[i]) + Math.abs(y[i] - seen.y[i]);
      const dt = Math.abs(c[i] - seen.c[i]) + Math.abs(s[i] - seen.s[i]) + Math.abs(size[i] / seen.size[i] - 1);
      moved = dx + dt * radius[i] * size[i] > SKIN / 2;
    }
    if (!moved) return;
    this.stale = false;
    seen.x.set(x);
    seen.y.set(y);
    seen.c.set(c);
    seen.s.set(s);
    seen.size.set(size);
    const rx = new Float64Array(count);
    const ry = new Float64Array(count);
    const from = new Float64Array(count);
    const order = new Int32Array(count);
    const slack = (this.margin + SKIN) / 2;
    for (let i = 0; i < count; i++) {
      rx[i] = this.reachX(i, c[i], s[i]) + slack;
      ry[i] = this.reachY(i, c[i], s[i]) + slack;
      from[i] = x[i] - rx[i];
      order[i] = i;
    }
    order.sort((a, b) => from[a] - from[b] || a - b);
    let k = 0;
    const most = this.pairWeights.length;
    for (let p = 0; p < count; p++) {
      const i = order[p];
      const right = x[i] + rx[i];
      for (let q = p + 1; q < count; q++) {
        const j = order[q];
        if (from[j] > right) break;
        if (Math.abs(y[i] - y[j]) >= ry[i] + ry[j] || (this.fixed[i] && this.fixed[j]) || k === most) continue;
        this.pairs[2 * k] = i < j ? i : j;
        this.pairs[2 * k + 1] = i < j ? j : i;
        k++;
      }
    }
    this.pairCount = k;
    this.wake.fill(0, 0, 2 * k);
    this.weighPairs();
  }

  private weighPairs(): void {
    if (!this.weighted) return;
    for (let p = 0; p < this.pairCount; p++) {
      const counts = this.weights[this.pairs[2 * p]].get(this.pairs[2 * p + 1]) ?? 1;
      this.pairWeights[p] = Math.min(MOST_PUSH, counts);
    }
  }

  /**
   * Bodies that are in each other's way beyond a trace; what stays so counts more from time to time (guided local search, Voudouris and
   * Tsang 1999). @returns who they are, most in the way first, and the sum of it, px²
   */
  reweigh(trace: number): { conflicting: number[]; total: number } {
    this.neighbours();
    const { pairs, loops, fixed, wall } = this;
    const over = new Float64Array(this.pairCount);
    let most = 0;
    let total = 0;
    const conflicting = new Map<number, number>();
    const add = (i: number, v: number) => conflicting.set(i, (conflicting.get(i) ?? 0) + v);
    for (let p = 0; p < over.length; p++) {
      over[p] = loops.between(pairs[2 * p], pairs[2 * p + 1]);
      most = Math.max(most, over[p]);
    }
    const setWeight = (i: number, j: number, w: number) => {
      this.weights[i].set(j, w);
      this.weights[j].set(i, w);
    };
    for (let p = 0; p < over.length; p++) {
      const [i, j] = [pairs[2 * p], pairs[2 * p + 1]];
      const w = this.weights[i].get(j);
      if (over[p] > trace) {
        const counts = (w ?? 1) * (1.2 + (0.8 * over[p]) / most);
        setWeight(i, j, counts);
        if (!fixed[i]) add(i, over[p] * counts);
        if (!fixed[j]) add(j, over[p] * counts);
        total += over[p];
      } else if (w !== undefined) {
        if (w * 0.95 > 1) setWeight(i, j, w * 0.95);
        else {
          this.weights[i].delete(j);
          this.weights[j].delete(i);
        }
      }
    }
    for (let i = 0; i < this.count; i++) {
      if (fixed[i]) continue;
      const v = loops.outside(i, this.x[i], this.y[i], this.c[i], this.s[i]);
      if (v > trace) {
        wall[i] *= 1.5;
        add(i, v * wall[i]);
        total += v;
      } else wall[i] = Math.max(1, wall[i] * 0.95);
    }
    this.weighted = true;
    this.weighPairs();
    return { conflicting: [...conflicting].sort((p, q) => q[1] - p[1] || p[0] - q[0]).map(([i]) => i), total };
  }
}

/** The arrays that a crowd keeps in its memory. */
export type OverlapMemory = Record<(typeof NUMBERS)[number], Float64Array> &
  Record<(typeof COUNTS)[number], Int32Array> & {
    count: number;
    width: number;
    height: number;
    margin: number;
    field: Float32Array;
    sampleX: Float32Array;
    sampleY: Float32Array;
    pairs: Int32Array;
    pairWeights: Float64Array;
  };
