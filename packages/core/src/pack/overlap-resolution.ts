import type { OverlapSolver, Poses } from '@wembrel/kernels/overlap-solver';
import { QUARTERS, TURNS } from './directions.ts';
import { RESOLUTION as R } from './tuning.ts';

/** How hard one separation tries. */
export interface ResolutionOptions {
  /** Px² by which two may stay in each other's way, and px by which they may stay too near. */
  trace: number;
  /** Rounds without a gain after which it gives up. */
  patience: number;
  /** What is in the way has to become less than this share of it for a round to be a gain. */
  gain: number;
  /** Share of all bodies that may look for another place in a round. */
  movers: number;
  cancelled: () => boolean;
}

/** A layout in which some are in each other's way still, and how much in all, px². */
export interface InfeasibleLayout {
  poses: Poses;
  total: number;
}

/** Takes bodies that overlap apart: they push each other, and those that stay in the way look for better places. */
export class OverlapResolution {
  /** The least jam that the last separation came through; null when pushing alone did it. */
  least: InfeasibleLayout | null = null;

  constructor(
    private readonly solver: OverlapSolver,
    private readonly random: () => number,
  ) {}

  /** @returns whether nothing is too near any more */
  resolve(options: ResolutionOptions): boolean {
    const { solver } = this;
    this.least = null;
    solver.forget();
    solver.rest();
    let best = Infinity;
    let idle = 0;
    const most = Math.max(4, Math.ceil(solver.count * options.movers));
    for (;;) {
      for (let k = 0; k < R.pushes; k++) {
        if (solver.relax(R.momentum) < options.trace) return true;
        if (k % 8 === 7 && options.cancelled()) return false;
      }
      const { conflicting, total } = solver.reweigh(options.trace);
      if (!this.least || total < this.least.total) this.least = { poses: solver.poses(), total };
      if (total < best * options.gain) {
        best = total;
        idle = 0;
      } else if (++idle > options.patience) return false;
      solver.loops.locate();
      for (const i of conflicting.slice(0, most)) {
        if (options.cancelled()) return false;
        this.relocate(i);
      }
    }
  }

  /** Where a body is least in the way among places anywhere; for one that has no place yet. */
  insert(i: number, places: number): void {
    const { solver } = this;
    let best = Infinity;
    let to: [number, number, number, number] | null = null;
    for (let k = 0; k < places; k++) {
      const at = this.anywhere(i);
      if (!at) continue;
      const cost = solver.cost(i, ...at, best);
      if (cost < best) {
        best = cost;
        to = at;
      }
    }
    if (to) solver.move(i, ...to);
  }

  /**
   * Lets two bodies of about the same size change places, turned as suits them: those of some pairs that are least in the way then.
   * @param bySize the bodies that may, large ones first @param near how far apart in that list
   */
  exchange(bySize: readonly number[], pairs: number, near: number): void {
    const { solver, random } = this;
    solver.loops.locate();
    let least = Number.POSITIVE_INFINITY;
    let best: { i: number; j: number; atI: Place; atJ: Place } | null = null;
    for (let k = 0; k < pairs; k++) {
      const a = Math.floor(random() * bySize.length);
      const b = a + Math.round((random() * 2 - 1) * near);
      if (b < 0 || b >= bySize.length) continue;
      const [i, j] = [bySize[a], bySize[b]];
      if (this.alike(i, j)) continue;
      const [wasI, wasJ] = [this.placeNow(i), this.placeNow(j)];
      solver.move(j, -4 * solver.width, -4 * solver.height, 1, 0);
      const atI = this.fit(i, wasJ, wasI);
      this.put(i, atI);
      const atJ = this.fit(j, wasI, wasJ);
      this.put(i, wasI);
      this.put(j, wasJ);
      const more = atI.cost + atJ.cost - wasI.cost - wasJ.cost;
      if (more >= least) continue;
      least = more;
      best = { i, j, atI, atJ };
    }
    if (!best) return;
    this.put(best.i, best.atI);
    this.put(best.j, best.atJ);
  }

  /** The same body, or one that would stand there just so. */
  private alike(i: number, j: number): boolean {
    const { halfWidth, halfHeight, size } = this.solver;
    const apart =
      Math.abs(halfWidth[i] * size[i] - halfWidth[j] * size[j]) +
      Math.abs(halfHeight[i] * size[i] - halfHeight[j] * size[j]);
    return i === j || apart < 0.02;
  }

  private placeNow(i: number): Place {
    const { x, y, c, s } = this.solver;
    return { x: x[i], y: y[i], c: c[i], s: s[i], cost: this.solver.cost(i, x[i], y[i], c[i], s[i], Infinity) };
  }

  private put(i: number, place: Place): void {
    this.solver.move(i, place.x, place.y, place.c, place.s);
  }

  /** Body i near a place, turned from its own direction by the quarter that is least in the way. */
  private fit(i: number, { x, y }: Place, { c, s }: Place): Place {
    const { solver } = this;
    let best: Place = { x, y, c, s, cost: solver.cost(i, x, y, c, s, Infinity) };
    if (solver.freedom[i] > 0)
      for (const [qc, qs] of QUARTERS.slice(1)) {
        const [tc, ts] = [c * qc - s * qs, s * qc + c * qs];
        const cost = solver.cost(i, x, y, tc, ts, best.cost);
        if (cost < best.cost) best = { x, y, c: tc, s: ts, cost };
      }
    return this.refine(i, best, solver.radius[i] * solver.size[i]);
  }

  private direction(i: number): readonly [number, number] {
    const { freedom, c, s } = this.solver;
    if (freedom[i] === 0) return [c[i], s[i]];
    if (freedom[i] === 1 || this.random() < 0.6) return QUARTERS[Math.floor(this.random() * 4)];
    return TURNS[Math.floor(this.random() * 64)];
  }

  /** A place on the sheet; null when the body is larger than it that way. */
  private anywhere(i: number): [number, number, number, number] | null {
    const { solver, random } = this;
    const [c, s] = this.direction(i);
    const rx = solver.reachX(i, c, s) + solver.margin / 2;
    const ry = solver.reachY(i, c, s) + solver.margin / 2;
    if (2 * rx > solver.width || 2 * ry > solver.height) return null;
    return [rx + random() * (solver.width - 2 * rx), ry + random() * (solver.height - 2 * ry), c, s];
  }

  /** Looks for a place at which a body is less in the way: some anywhere, some nearby, the best of them refined. */
  private relocate(i: number): void {
    const { solver, random } = this;
    solver.attend(i);
    const here = solver.cost(i, solver.x[i], solver.y[i], solver.c[i], solver.s[i], Infinity);
    const found: Place[] = [];
    let bound = here;
    const consider = (x: number, y: number, c: number, s: number) => {
      const cost = solver.cost(i, x, y, c, s, bound);
      if (cost >= bound) return;
      found.push({ x, y, c, s, cost });
      found.sort((p, q) => p.cost - q.cost);
      if (found.length > 2) found.length = 2;
      if (found.length === 2) bound = found[1].cost;
    };
    for (let k = 0; k < R.places; k++) {
      const at = this.anywhere(i);
      if (at) consider(...at);
    }
    const reach = solver.radius[i] * solver.size[i];
    for (let k = 0; k < R.places; k++) {
      const [c, s] = random() < 0.5 ? this.direction(i) : [solver.c[i], solver.s[i]];
      consider(solver.x[i] + (random() - 0.5) * reach, solver.y[i] + (random() - 0.5) * reach, c, s);
    }
    let best = here * 0.98;
    let to: Place | null = null;
    for (const place of found) {
      const r = this.refine(i, place, reach);
      if (r.cost < best) {
        best = r.cost;
        to = r;
      }
      if (best === 0) break;
    }
    if (to) solver.move(i, to.x, to.y, to.c, to.s);
    solver.ignore(i);
  }

  /** Small steps while they help, each shorter after one that does not. */
  private refine(i: number, from: Place, reach: number): Place {
    const { solver, random } = this;
    let at = from;
    let step = reach * 0.1;
    let turn = 0.1;
    const free = solver.freedom[i] === 2;
    for (let k = 0; k < 30 && step > 0.3 && at.cost > 0; k++) {
      let { x, y, c, s } = at;
      if (free && random() < 0.33) {
        const t = random() < 0.5 ? turn : -turn;
        const [c1, s1] = [c - s * t, s + c * t];
        const l = Math.sqrt(c1 * c1 + s1 * s1);
        c = c1 / l;
        s = s1 / l;
      } else {
        const d = Math.floor(random() * 8);
        x += DX[d] * step;
        y += DY[d] * step;
      }
      const cost = solver.cost(i, x, y, c, s, at.cost);
      if (cost < at.cost) {
        at = { x, y, c, s, cost };
        step *= 1.1;
        turn *= 1.1;
      } else {
        step *= 0.85;
        turn *= 0.9;
      }
    }
    return at;
  }
}

interface Place {
  x: number;
  y: number;
  c: number;
  s: number;
  cost: number;
}

const DX = [1, -1, 0, 0, 1, 1, -1, -1];
const DY = [0, 0, 1, -1, 1, -1, 1, -1];
