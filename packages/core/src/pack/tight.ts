import { OverlapSolver, type Poses } from '@wembrel/kernels/overlap-solver';
import { BeamSearch } from './beam-search.ts';
import { LayoutBuilder } from './layout-builder.ts';
import { nudge } from './nudge.ts';
import { initialParameters, initialParametersForMany, OrderSearch } from './order-search.ts';
import { initialOrders } from './orders.ts';
import { type InfeasibleLayout, OverlapResolution } from './overlap-resolution.ts';
import { ScaleTarget } from './scale-target.ts';
import { type Candidate, candidateCost, fullScale, type SearchParameters } from './search-parameters.ts';
import { solve } from './solve.ts';
import { type TightItem, type TightPlace, TightShapes, type TightSheet } from './tight-shapes.ts';
import { BEAM_SEARCH, COARSE, CONSTRUCTION, COUNTS, ORDER_SEARCH, PRECISION, RESOLUTION, SCALE } from './tuning.ts';

export interface TightOptions extends TightSheet {
  /** Attempts at a tighter layout after the first. */
  effort: number;
  random: () => number;
  /**
   * Asked once where shapes are crowded, mostly margin: the scale that another way of packing reaches at once. Nothing smaller is looked for then, and no layout
   * is kept that is not larger.
   */
  floor?: () => number;
  cancelled: () => boolean;
  progress: (share: number) => void;
  /** Called with every better layout as it is found. */
  better?: (layout: TightLayout) => void;
}

export interface TightLayout {
  /** Common scale; 0 when nothing fits at any. */
  scale: number;
  places: TightPlace[];
  attempts: number;
  /** Rounds of `effort` after which it was found: as many find it again. */
  rounds: number;
}

/**
 * Packs true shapes as tightly as it can: constructions on a grid in many orders, what has no room squeezed in, overlaps separated, and everything
 * grown until it jams; then checked against the exact borders. The first layout comes at once, each attempt may better it.
 */
export function packTightly(items: readonly TightItem[], options: TightOptions): TightLayout {
  return new TightPacker(items, options).run();
}

class TightPacker {
  private readonly shapes: TightShapes;
  private readonly solver: OverlapSolver;
  private readonly resolution: OverlapResolution;
  private readonly builder: LayoutBuilder;
  private readonly area: number;
  /** Few enough that each is worth many looks. */
  private readonly few: boolean;
  /** So many that each construction takes long. */
  private readonly many: boolean;
  /** Few, or of one direction each, so that many sheets can be drawn side by side. */
  private readonly isWide: boolean;
  /** All that may move, large ones first. */
  private readonly bySize: number[];
  private orderSearch: OrderSearch | null = null;
  private beamSearch: BeamSearch | null = null;
  private readonly target: ScaleTarget;
  private readonly orders: readonly Float64Array[];
  private readonly usual: readonly SearchParameters[];
  /** How the last construction that had room for all was made. */
  private lead: SearchParameters | null = null;
  /** The scale that is looked for, and what has been found at it. */
  private aim = 0;
  private infeasible: InfeasibleLayout[] = [];
  private attempts = 0;
  /** Rounds of looking for better ones. */
  private rounds = 0;
  /** The best that was reached, and the best that is exact. */
  private best: { scale: number; poses: Poses } | null = null;
  private exact: { scale: number; poses: Poses } | null = null;
  /** See `TightOptions`. */
  private floor = 0;

  constructor(
    private readonly items: readonly TightItem[],
    private readonly options: TightOptions,
  ) {
    this.many = items.length > COUNTS.many;
    this.few = items.length <= COUNTS.few;
    this.isWide = this.few || (!this.many && items.every((it) => it.freedom === 0));
    this.target = new ScaleTarget(this.many ? SCALE.stepMany : SCALE.step);
    this.shapes = new TightShapes(items, options);
    const { shapes } = this;
    const { width, height, margin } = shapes;
    this.area = width * height;
    this.solver = new OverlapSolver(
      items.map((it, i) => ({ field: shapes.fields[i], freedom: it.freedom, fixed: it.fixed !== undefined })),
      width,
      height,
      margin,
    );
    this.orders = initialOrders(shapes.fields);
    this.usual = initialParameters(this.orders);
    this.builder = new LayoutBuilder(shapes.forBuilder(), (scale) => shapes.growthAt(scale), {
      width,
      height,
      margin,
      cancelled: options.cancelled,
    });
    this.resolution = new OverlapResolution(this.solver, options.random);
    const reach = items.map((_, i) => shapes.reach(i, this.solver.radius[i]));
    this.bySize = items.flatMap((it, i) => (it.fixed ? [] : [i])).sort((p, q) => reach[q] - reach[p] || p - q);
  }

  /** The scale of the best layout. */
  private get reached(): number {
    return this.best?.scale ?? 0;
  }

  private resize(scale: number): void {
    this.solver.size.set(this.shapes.growthAt(scale));
  }

  run(): TightLayout {
    const { options, items } = this;
    if (items.length === 0) return { scale: options.maxScale, places: [], attempts: 0, rounds: 0 };
    this.first();
    for (
      let k = 0;
      k < options.effort && this.best && this.best.scale < options.maxScale && !options.cancelled();
      k++
    ) {
      this.rounds = k + 1;
      const before = this.exact;
      // Very few gain nothing from constructions, others most.
      const explores =
        items.length <= COUNTS.exploreOnly ||
        (this.few ? k % COUNTS.exploreEveryFew === 0 : k % COUNTS.exploreEvery === COUNTS.exploreEvery - 1);
      if (explores) this.explore();
      else if (this.isWide && (k >= COUNTS.singleRounds || !this.few)) this.searchBeam();
      else this.searchOrders();
      if (options.cancelled()) {
        // As many rounds would find something else than the part of one that there was time for.
        this.exact = before;
        this.rounds = k;
        break;
      }
      if (this.exact !== before) options.better?.(this.layout());
      options.progress(0.2 + (0.8 * (k + 1)) / options.effort);
    }
    return this.layout();
  }

  private layout(): TightLayout {
    const { exact } = this;
    if (!exact) return { scale: 0, places: [], attempts: this.attempts, rounds: this.rounds };
    const places = this.shapes.placesAt(exact.poses, exact.scale);
    return { scale: exact.scale, attempts: this.attempts, rounds: this.rounds, places };
  }

  /**
   * What the solver has reached, with the margin kept between exact borders: where fields were not exact enough, a little apart; where that does not
   * do, a little smaller and pushed apart again. (Smaller alone does not do it: holes shrink as well.)
   */
  private exactly(reached: number): { scale: number; poses: Poses } | null {
    const { solver } = this;
    const kept = {
      width: this.shapes.width,
      height: this.shapes.height,
      margin: this.options.margin / this.shapes.unit + 1e-4,
      stays: (i: number) => this.items[i].fixed !== undefined,
    };
    let scale = reached;
    for (let k = 0; k < 12; k++) {
      const { x, y } = solver;
      const borders = this.shapes.bordersAt(solver, scale);
      const nudged = nudge(borders, kept, PRECISION.nudges);
      if (nudged.short <= 0) {
        const poses = solver.poses();
        return { scale, poses: { ...poses, x: x.map((v, i) => v + nudged.x[i]), y: y.map((v, i) => v + nudged.y[i]) } };
      }
      scale *= 1 - Math.min(0.01, Math.max(1e-4, nudged.short / 100));
      solver.rest();
      this.resize(scale);
      for (let r = 0; r < 200; r++) if (solver.relax(0.5) < PRECISION.trace / 8) break;
    }
    return null;
  }

  /** Holds on to a layout that is better than the best. */
  private keep(scale: number): void {
    this.best = { scale, poses: this.solver.poses() };
    const exact = this.exactly(scale);
    if (!exact || exact.scale <= (this.exact?.scale ?? this.floor)) return;
    this.exact = exact;
    // The first layouts show at once; later ones when their round is over, so that as many rounds find just them again.
    if (this.rounds === 0) this.options.better?.(this.layout());
  }

  private resolve(patience: number): boolean {
    this.attempts++;
    const { moversFew, gainFew, movers: moversMore, gain: gainMore } = RESOLUTION;
    const [movers, gain] = this.few ? [moversFew, gainFew] : [moversMore, gainMore];
    return this.resolution.resolve({
      trace: PRECISION.trace,
      patience,
      movers,
      gain,
      cancelled: this.options.cancelled,
    });
  }

  /** The greatest scale at which a construction has room for all, or as good as all. */
  private first(): void {
    const { options, many } = this;
    const cell = many ? CONSTRUCTION.firstCellMany : CONSTRUCTION.firstCell;
    const parameters = this.usual.find(
      (parameters) => parameters.fit === null && parameters.tilt === 0,
    ) as SearchParameters;
    let low = 0;
    let high = options.maxScale;
    // Constructions that had room for all and could not be resolved. Another try may do it; after some all are taken to be crowded, and the next one is smaller,
    // however much room there is.
    let refused = 0;
    const limit = solve((s) => this.shapes.filling(s) - 1.05, options.maxScale);
    if (limit < high) high = limit;
    let scale = Math.min(
      high,
      solve((s) => this.shapes.filling(s) - (many ? 0.84 : 0.86) * this.shapes.fullness, options.maxScale),
    );
    for (let k = 0; k < 40 && !options.cancelled(); k++) {
      const grid = this.builder.sheet(scale, cell, refused >= CONSTRUCTION.refusedFirst);
      const made = scale;
      let candidate = this.builder.construct(grid, parameters);
      if (!candidate) break;
      // A construction takes less time than resolving it: the first to be resolved is the largest that has room for all.
      while (
        low === 0 &&
        refused < CONSTRUCTION.refusedFirst &&
        !many &&
        candidate.missing < CONSTRUCTION.firstMissing &&
        scale < high &&
        !options.cancelled()
      ) {
        const next = Math.min(high, scale * 1.03);
        const larger = this.builder.construct(
          this.builder.grown(grid, made, next, CONSTRUCTION.sameCoarseCells) ?? this.builder.sheet(next, cell),
          parameters,
        );
        if (!larger || larger.missing >= CONSTRUCTION.firstMissing) {
          high = next;
          break;
        }
        [candidate, scale] = [larger, next];
      }
      this.resize(scale);
      if (candidate.missing < CONSTRUCTION.firstMissing && this.finish(candidate, 3)) {
        low = scale;
        this.keep(scale);
      } else {
        high = scale;
        if (low === 0 && candidate.missing < CONSTRUCTION.firstMissing && ++refused === CONSTRUCTION.refusedFirst)
          this.floor = options.floor?.() ?? 0;
      }
      if (low >= options.maxScale || (low > 0 && (high / low < 1.012 || many))) break;
      scale = low > 0 ? Math.min(options.maxScale, high < limit ? (low + high) / 2 : low * 1.03) : scale * 0.95;
      if (scale <= this.floor) break;
      options.progress(0.02 * Math.min(k, 9));
    }
    // constructions of many come out larger by far than the first layout can grow.
    if (this.best && this.few) this.grow(1);
    else if (this.best) this.coarse();
  }

  /**
   * Constructs all once more on the grid of the first layout, with a rule that looks ahead, and takes the largest: most of what the rounds of search would
   * find, in a fraction of the time of one.
   */
  private coarse(): void {
    const { options, many } = this;
    const cell = many ? CONSTRUCTION.firstCellMany : CONSTRUCTION.firstCell;
    const parameters = this.usual[COARSE.parameters];
    const whole: { candidate: Candidate; scale: number }[] = [];
    let [low, high] = [this.reached, Number.POSITIVE_INFINITY];
    let scale = Math.min(options.maxScale, low * (1 + SCALE.scoutMany));
    for (let k = 0; k < (many ? COARSE.stepsMany : COARSE.steps) && scale > low && !options.cancelled(); k++) {
      const candidate = this.builder.construct(this.builder.sheet(scale, cell), parameters);
      if (!candidate) break;
      if (candidate.missing < CONSTRUCTION.firstMissing) {
        whole.push({ candidate, scale });
        low = scale;
      } else high = Math.min(high, scale);
      if (high / low < 1 + SCALE.step) break;
      const full = fullScale(candidate, scale);
      scale =
        k === 0 && full > low && full < high
          ? full
          : high < Number.POSITIVE_INFINITY
            ? (low + high) / 2
            : low * (1 + 2 * SCALE.step);
      scale = Math.min(options.maxScale, scale);
    }
    // The largest that can be resolved.
    for (const { candidate, scale } of whole.reverse().slice(0, COARSE.resolved))
      if (this.take(candidate, scale)) return;
  }

  /** Takes a construction to a layout without overlap, if it can. */
  private finish(candidate: Candidate, patience: number): boolean {
    const { solver, shapes } = this;
    const { fields, width, height } = shapes;
    solver.forget();
    solver.loops.locate();
    const { places } = candidate.construction;
    places.forEach((place, i) => {
      if (place && place.over < CONSTRUCTION.over) solver.move(i, place.x, place.y, place.c, place.s);
      // Out of the way until all others stand.
      else solver.move(i, -4 * width, -4 * height, 1, 0);
    });
    const left = places
      .flatMap((place, i) => (place && place.over < CONSTRUCTION.over ? [] : [i]))
      .sort((a, b) => fields[b].area - fields[a].area || a - b);
    for (const i of left) this.resolution.insert(i, left.length > 100 ? RESOLUTION.insertMany : RESOLUTION.insert);
    return this.resolve(patience);
  }

  /**
   * Looks for a set of search parameters in which a construction of all that is larger than the best layout has room, and settles it as large as it can be. Where none has,
   * what came nearest to it is resolved a little smaller.
   */
  private searchOrders(): void {
    const { options, many, target, builder } = this;
    if (!this.lead && !this.scout()) return;
    let whole: { candidate: Candidate; scale: number } | null = null;
    let nearest: Candidate | null = null;
    for (let k = 0; k < (many ? ORDER_SEARCH.triesMany : ORDER_SEARCH.tries) && !options.cancelled(); k++) {
      const orderSearch = this.orderSearchAt();
      const { parameters, anew } = orderSearch.next();
      const before = orderSearch.candidate?.construction;
      const candidate = builder.construct(orderSearch.grid, parameters, anew ? undefined : before?.missing, before);
      const less = candidate !== null && orderSearch.keep(candidate, anew);
      if (
        orderSearch.tried === ORDER_SEARCH.short &&
        (orderSearch.candidate?.missing ?? 1) >
          (target.isFar(this.reached) ? CONSTRUCTION.nearMissing / 4 : CONSTRUCTION.nearMissing)
      )
        target.lower(this.reached);
      if (!candidate) continue;
      if (candidate.missing < CONSTRUCTION.wholeMissing) {
        this.lead = parameters;
        target.had(orderSearch.scale);
        nearest = null;
        // Many take long to be resolved: first it is seen how large they can be constructed.
        whole = { candidate, scale: orderSearch.scale };
        target.at((orderSearch.scale + fullScale(candidate, orderSearch.scale)) / 2, this.reached);
      } else if (!whole && less && candidate.missing < CONSTRUCTION.nearMissing) nearest = candidate;
    }
    if (options.cancelled()) return;
    if (whole) {
      this.takeWhole(whole.candidate, whole.scale);
    } else {
      if (nearest && this.orderSearch) this.take(nearest, this.orderSearch.scale * (1 - nearest.missing));
      if (this.orderSearch && this.orderSearch.tried >= ORDER_SEARCH.long) target.lower(this.reached);
    }
  }

  /** The same where constructions take little time: on many sheets side by side. */
  private searchBeam(): void {
    const { options, few, items, target, builder } = this;
    if (!few && !this.lead && !this.scout()) return;
    let nearest: { candidate: Candidate; scale: number } | null = null;
    for (let placed = 0; placed < BEAM_SEARCH.placed * items.length && !options.cancelled(); ) {
      const beamSearch = this.beamSearchAt();
      const before = beamSearch.placed;
      const candidate = builder.constructBeam(
        beamSearch.grid,
        beamSearch.next(),
        CONSTRUCTION.mostMissingBeam * this.area,
      );
      placed += beamSearch.placed - before;
      const best = candidate !== null && beamSearch.keep(candidate);
      if (candidate && candidate.missing < CONSTRUCTION.wholeMissing) {
        nearest = null;
        this.beamSearch = null;
        if (this.takeWhole(candidate, beamSearch.scale))
          target.at((this.reached + fullScale(candidate, beamSearch.scale)) / 2, this.reached);
        continue;
      }
      if (candidate && best && candidate.missing < CONSTRUCTION.nearMissingBeam)
        nearest = { candidate, scale: beamSearch.scale };
      if (beamSearch.placed <= (few ? BEAM_SEARCH.longFew : BEAM_SEARCH.longMore) * items.length) continue;
      target.lower(this.reached);
      if (few || target.above(this.reached) !== beamSearch.scale) this.beamSearch = null;
    }
    if (nearest && !options.cancelled()) this.take(nearest.candidate, nearest.scale * (1 - nearest.candidate.missing));
  }

  /** The search on many sheets as it stands, or another one. */
  private beamSearchAt(): BeamSearch {
    const { options, few, reached, target, beamSearch } = this;
    if (beamSearch && beamSearch.scale >= Math.min(options.maxScale, reached * (1 + SCALE.leastFew))) return beamSearch;
    const more = SCALE.leastFew + (SCALE.mostFew - SCALE.leastFew) * options.random();
    const scale = Math.min(options.maxScale, few ? reached * (1 + more) : target.above(reached));
    this.beamSearch = new BeamSearch(
      scale,
      this.builder.sheet(scale, CONSTRUCTION.fineCell),
      this.orders,
      few,
      options.random,
    );
    return this.beamSearch;
  }

  /** constructions all in the usual search parameters, to begin with the one that fills least of the sheet. @returns whether there is one */
  private scout(): boolean {
    const { options, many, target } = this;
    let ways: readonly SearchParameters[] = many ? [initialParametersForMany(this.orders, options.random)] : this.usual;
    let scale = Math.min(options.maxScale, this.reached * (1 + (many ? SCALE.scoutMany : SCALE.step)));
    for (let round = 0; round < 2; round++) {
      const grid = this.builder.sheet(scale, CONSTRUCTION.fineCell);
      const all: { parameters: SearchParameters; candidate: Candidate }[] = [];
      for (const parameters of ways) {
        const candidate = this.builder.construct(grid, parameters);
        if (!candidate) return false;
        all.push({ parameters, candidate });
      }
      all.sort((p, q) => candidateCost(p.candidate) - candidateCost(q.candidate));
      const [{ parameters, candidate: least }] = all;
      this.lead = parameters;
      const whole = all.find((a) => a.candidate.missing < CONSTRUCTION.wholeMissing);
      if (whole && !this.takeWhole(whole.candidate, scale)) return true;
      target.at(fullScale(least, scale), this.reached);
      // Where much more has room than was thought, the better half are compared there once more.
      if (many || target.scale < scale * (1 + SCALE.compareAgain) || scale >= options.maxScale) break;
      scale = Math.min(options.maxScale, target.scale);
      ways = all.slice(0, Math.ceil(all.length / 2)).map((a) => a.parameters);
    }
    return true;
  }

  /** Takes a construction that has room for all; where it cannot be resolved so large, others are looked for below it. @returns whether it could */
  private takeWhole(candidate: Candidate, scale: number): boolean {
    this.take(candidate, scale);
    const { reached, target } = this;
    if (reached >= scale) {
      target.had(scale);
      return true;
    }
    target.had(reached);
    target.at(this.many ? scale * (1 - SCALE.backMany) : (reached + scale) / 2, reached);
    return false;
  }

  /** The search as it stands. */
  private orderSearchAt(): OrderSearch {
    const scale = Math.min(this.options.maxScale, this.target.above(this.reached));
    const was = this.orderSearch;
    if (!was || was.scale !== scale) {
      const old = was && this.builder.grown(was.grid, was.made, scale, CONSTRUCTION.sameCells);
      const made = old && was ? was.made : scale;
      const grid = old ?? this.builder.sheet(scale, CONSTRUCTION.fineCell);
      this.orderSearch = new OrderSearch(
        scale,
        grid,
        made,
        this.lead as SearchParameters,
        this.options.random,
        this.usual,
      );
    }
    return this.orderSearch as OrderSearch;
  }

  /**
   * Settles a construction and grows it: at the scale that it was made for, else a little below it where all have room, else half-way to the best, else a
   * little above that.
   * @param scale that it is taken at; of very many it is the only one that is tried, but for one a little below it where all have room
   */
  private take(candidate: Candidate, scale: number): boolean {
    const { few, many, options } = this;
    const best = this.reached;
    const least = Math.min(options.maxScale, best * (1 + SCALE.explore / 2));
    const top = Math.max(scale, least);
    const whole = candidate.missing < CONSTRUCTION.wholeMissing;
    const ofMany = whole ? [top, top * (1 - SCALE.yieldMany)] : [top];
    const next = whole ? [scale, ...[1, 2, 3].map((k) => scale * (1 - k * SCALE.yield))] : [scale];
    const patience = few ? (whole ? 12 : 5) : many ? 1 : 2;
    for (const s of many ? ofMany : [...next, (scale + best) / 2, least]) {
      if (s < least || options.cancelled()) continue;
      this.resize(s);
      if (!this.finish(candidate, patience)) continue;
      this.keep(s);
      if (few) this.grow(2, Math.max(SCALE.explore / 2, scale / s - 1));
      return true;
    }
    return false;
  }

  /** Lets the best layout grow where it stands until it failed so often. */
  private grow(failures: number, first = this.few ? 0.01 : 0.005): void {
    const { best, solver, options } = this;
    if (!best) return;
    let step = first;
    for (let failed = 0; failed < failures && !options.cancelled(); ) {
      const now = this.best as { scale: number; poses: Poses };
      if (now.scale >= options.maxScale) return;
      const scale = Math.min(options.maxScale, now.scale * (1 + step));
      solver.setPoses(now.poses);
      this.resize(scale);
      if (this.resolve(this.few ? 4 : 3)) this.keep(scale);
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
    const { best, solver, options, items } = this;
    if (!best) return;
    if (this.aim <= best.scale) {
      this.aim = Math.min(options.maxScale, best.scale * (1 + SCALE.explore));
      this.infeasible = [];
    }
    // The least ones are taken up again more often.
    const from = this.infeasible[Math.floor(options.random() * options.random() * this.infeasible.length)];
    solver.setPoses((from ?? best).poses);
    this.resize(this.aim);
    solver.forget();
    if (from) this.resolution.exchange(this.bySize, this.few ? 10 : 20, items.length > 100 ? 20 : 6);
    if (this.resolve(6)) {
      this.keep(this.aim);
      this.grow(2);
    } else if (this.resolution.least) {
      this.infeasible.push(this.resolution.least);
      this.infeasible.sort((p, q) => p.total - q.total);
      this.infeasible.length = Math.min(this.infeasible.length, SCALE.infeasible);
    }
  }
}
