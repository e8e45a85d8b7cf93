import { Occupancy } from '@wembrel/kernels/occupancy';
import { type RunMask, toRuns } from '@wembrel/kernels/run-mask';
import { xorshift32 } from '../math/random.ts';
import { type Covered, covered } from './covered.ts';
import { isCrowded } from './crowded.ts';
import { QUARTERS } from './directions.ts';
import type { PackItem, PackOptions, PackResult, Placement } from './items.ts';
import { latticeItems, withoutFrames } from './lattice.ts';
import { largestSquare, longestFirst, squareMask } from './masks.ts';
import { mapInBox, mapPoints, turnedBox, turnedBy } from './placed-map.ts';
import { dilate, scaledBox, type Turns, touchedCells } from './rasterise.ts';
import { packTightly, type TightLayout } from './tight.ts';
import type { TightItem } from './tight-shapes.ts';

interface Oriented {
  turns: Turns;
  /** Cells that the shape touches: what it takes. */
  body: RunMask;
  /** Those and all within the margin: what must be free. */
  halo: RunMask;
  reach: number;
  /** Largest square inside the halo: its side and how far down it starts. Where it has no room, the halo has none. */
  square: number;
  squareTop: number;
}

/** Cells that nothing may take. */
interface Reserved {
  mask: RunMask;
  x: number;
  y: number;
}

interface Prepared {
  item: number;
  options: Oriented[];
  area: number;
  side: number;
  /** Cells on whose multiples it stands. */
  align: number;
  /** Shapes with equal masks share the row from which to look: rows above were full for one of them already. */
  group: number;
}

const ORDERS: ((prepared: Prepared) => number)[] = [
  (prepared) => Math.sqrt(prepared.area) + prepared.side,
  (prepared) => prepared.area,
  (prepared) => prepared.side,
  (prepared) => Math.sqrt(prepared.area) * 2 + prepared.side,
  (prepared) => Math.sqrt(prepared.area) + 2 * prepared.side,
];

/** Grid cell in px: one texel up to 1024, then two, four, …, so that the work stays the same. */
function packCell(width: number, height: number): number {
  let cell = 1;
  while (Math.max(width, height) / cell > 1024) cell *= 2;
  return cell;
}

function prepare(items: PackItem[], scale: number, packOptions: PackOptions, cell: number): Prepared[] | null {
  const out: Prepared[] = [];
  const groups = new Map<string, number>();
  let cells = 0;
  const room = (packOptions.width / cell) * (packOptions.height / cell);
  for (let i = 0; i < items.length; i++) {
    const it = items[i];
    const shape = it.fixedSide ? square(it.fixedSide) : it.shape;
    const s = it.fixedSide ? 1 : Math.min(it.most ?? Number.POSITIVE_INFINITY, scale * it.factor);
    const [w, h] = it.box ?? scaledBox(shape, s);
    if (Math.min(w, h) > Math.max(packOptions.width, packOptions.height)) return null;
    const options: Oriented[] = [];
    let area = 0;
    const all: Turns[] = packOptions.rotate !== 'none' && it.mayTurn && !it.fixedSide ? [0, 1, 2, 3] : [0];
    for (const turns of all) {
      const t = touchedCells(mapPoints(mapInBox(it.box ?? scaledBox(shape, s), { turns }, s), shape), cell);
      const body = toRuns(t.mask, t.width, t.height);
      // A shape that fills its box gains nothing from half turns.
      if (turns >= 2 && body.cells > 0.92 * t.width * t.height) break;
      const d = dilate(t.mask, t.width, t.height, packOptions.margin, cell);
      const [side, top] = largestSquare(d.mask, d.width, d.height);
      options.push({
        turns,
        body,
        halo: sorted(toRuns(d.mask, d.width, d.height)),
        reach: d.reach,
        square: side,
        squareTop: top,
      });
      area = body.cells;
    }
    cells += area;
    if (cells > room) return null;
    const key = `${w}x${h}:${it.align ?? 1}:${hashRuns(options[0].body)}`;
    const group = groups.get(key) ?? groups.size;
    groups.set(key, group);
    const align = Math.max(1, Math.ceil((it.align ?? 1) / cell));
    out.push({ item: i, options, area, side: Math.max(w, h) / cell, align, group });
  }
  return out;
}

const sorted = (mask: RunMask): RunMask => ({ ...mask, runs: longestFirst(mask.runs) });

function hashRuns(mask: RunMask): number {
  let h = 0;
  for (const v of mask.runs) h = (Math.imul(h, 31) + v) | 0;
  return h;
}

const square = (side: number) => oblong(side, side);

function oblong(w: number, h: number): Float64Array {
  return Float64Array.of(0, 0, w, 0, w, h, 0, 0, w, h, 0, h);
}

/** One bottom-left pass in the given order; null when an item finds no place. */
function place(
  order: Prepared[],
  grid: Occupancy,
  frame: number,
  border: number,
  cell: number,
  reserves: readonly Reserved[],
): Placement[] | null {
  grid.clear();
  for (const reserve of reserves) grid.add(reserve.mask, reserve.x + frame, reserve.y);
  const out: Placement[] = [];
  const width = grid.width - frame;
  const { height } = grid;
  const startRow = new Map<number, number>();
  // For each side of a square the first row at which it has room anywhere; only ever grows while the sheet fills.
  const squares = new Map<number, { mask: RunMask; row: number }>();
  const squareRow = (side: number): number => {
    let s = squares.get(side);
    if (!s) {
      s = { mask: squareMask(side), row: -side };
      squares.set(side, s);
    }
    while (s.row < height && grid.firstFitWithin(s.mask, s.row, 0, frame + width - 1) < 0) s.row++;
    return s.row;
  };
  for (const prepared of order) {
    let best: { x: number; y: number; o: Oriented; rank: number } | null = null;
    for (let k = 0; k < prepared.options.length; k++) {
      const oriented = prepared.options[k];
      const { halo, body, reach } = oriented;
      const lastY = height - border - body.height;
      const key = prepared.group * 4 + oriented.turns;
      const bound = squareRow(oriented.square) - oriented.squareTop + reach;
      for (let y = Math.max(border, bound, startRow.get(key) ?? border); y <= lastY; y++) {
        if (best && y + body.height > best.rank) break;
        if (y % prepared.align !== 0) continue;
        const minX = frame + border - reach;
        const maxX = frame + width - border - body.width - reach;
        let x = grid.firstFitWithin(halo, y - reach, minX, maxX);
        // From a place between two multiples on to the next.
        for (
          let off = (x - frame + reach) % prepared.align;
          x >= minX && off !== 0;
          off = (x - frame + reach) % prepared.align
        ) {
          const from = x + prepared.align - off;
          x = grid.firstFitWithin(halo, y - reach, from, maxX);
          if (x < from) x = minX - 1;
        }
        if (x < minX) continue;
        const rank = y + body.height;
        if (!best || rank < best.rank || (rank === best.rank && x - frame + reach < best.x))
          best = { x: x - frame + reach, y, o: oriented, rank };
        if (best.o === oriented) startRow.set(key, y);
        break;
      }
    }
    if (!best) return null;
    grid.add(best.o.body, best.x + frame, best.y);
    out[prepared.item] = { x: best.x * cell, y: best.y * cell, turns: best.o.turns };
  }
  return out;
}

/**
 * Packs true shapes into a sheet: the greatest common scale found at which all have room, never above `maxScale`. Shapes are turned as
 * `rotate` says, never mirrored. Where all have room at the greatest scale, they stand on whole texels, on the lattice of their sources if there is room
 * for that too; else they are packed as tightly as
 * possible (`tight.ts`), or on whole texels with `snap`. Deterministic for a given effort.
 */
export function pack(items: PackItem[], options: PackOptions): PackResult {
  if (items.length === 0) return { scale: options.maxScale, placements: [], attempts: 0, rounds: 0 };
  const taken = items.map((it) => covered(it.shape));
  const crowded = isCrowded(items, taken, options);
  const framed = crowded ? null : latticeItems(items, options.maxScale);
  const onLattice = framed && new GridPacker(framed, options).atMost();
  if (onLattice) return withoutFrames(onLattice, items, framed);
  const grid = new GridPacker(items, options);
  const aligned = items.some((it) => (it.align ?? 1) > 1);
  const roomy = crowded ? null : grid.atMost();
  if (roomy) return roomy;
  if (options.snap || aligned) return grid.run(taken);
  const tight = tightly(items, taken, options, () => grid.run(taken, 0).scale);
  // Shapes that are mostly margin: cells do better there.
  return tight.scale > 0 || options.cancelled?.() ? tight : grid.run(taken);
}

/** Packs with `tight.ts` and says it in turned boxes. @param floor see `TightOptions` */
function tightly(items: PackItem[], taken: readonly Covered[], options: PackOptions, floor: () => number): PackResult {
  const boxed = (shape: Float64Array, scale: number): [number, number, number, number] => {
    let [w, h] = [0, 0];
    for (let i = 0; i < shape.length; i += 2) {
      w = Math.max(w, shape[i]);
      h = Math.max(h, shape[i + 1]);
    }
    return [...scaledBox(shape, scale), w * scale, h * scale];
  };
  const wanted = items.map((it, i): TightItem => {
    const most = it.most ?? Number.POSITIVE_INFINITY;
    return {
      shape: it.fixedSide ? square(it.fixedSide) : it.shape,
      ...(it.fixedSide ? {} : { covered: taken[i] }),
      size: it.fixedSide ? () => 1 : (scale) => Math.min(most, scale * it.factor),
      freedom: it.fixedSide || !it.mayTurn || options.rotate === 'none' ? 0 : options.rotate === 'free' ? 2 : 1,
    };
  });
  const standing = (shape: Float64Array, size: number, at: Placement): TightItem => {
    const [c, s] = at.direction ?? QUARTERS[at.turns];
    const [bw, bh, w, h] = boxed(shape, size);
    const [tw, th] = turnedBox([bw, bh], at);
    const [dx, dy] = [(w - bw) / 2, (h - bh) / 2];
    return {
      shape,
      size: () => size,
      freedom: 0,
      fixed: {
        x: at.x + tw / 2 + c * dx - s * dy,
        y: at.y + th / 2 + s * dx + c * dy,
        c,
        s,
        size,
      },
    };
  };
  const there = [
    ...(options.fixed ?? []).map((fixedShape) =>
      standing(
        fixedShape.side ? square(fixedShape.side) : fixedShape.shape,
        fixedShape.side ? 1 : fixedShape.scale,
        fixedShape,
      ),
    ),
    ...(options.reserves ?? []).map((reserve) =>
      standing(oblong(reserve.width, reserve.height), 1, { x: reserve.x, y: reserve.y, turns: 0 }),
    ),
  ];
  const all = [...wanted, ...there];
  const resultOf = ({ scale, places, attempts, rounds }: TightLayout): PackResult => ({
    scale,
    attempts,
    rounds,
    placements: places.slice(0, items.length).map(({ x, y, c, s }, i) => {
      const [bw, bh, w, h] = boxed(wanted[i].shape, wanted[i].size(scale));
      const [dx, dy] = [(bw - w) / 2, (bh - h) / 2];
      const turned = turnedBy(c, s);
      const [tw, th] = turnedBox([bw, bh], turned);
      return { x: x + c * dx - s * dy - tw / 2, y: y + s * dx + c * dy - th / 2, ...turned };
    }),
  });
  return resultOf(
    packTightly(all, {
      width: options.width,
      height: options.height,
      margin: options.margin,
      maxScale: options.maxScale,
      effort: options.effort,
      random: xorshift32(options.seed),
      floor,
      cancelled: options.cancelled ?? (() => false),
      progress: options.progress ?? (() => {}),
      better: options.better && ((tightLayout) => options.better?.(resultOf(tightLayout))),
    }),
  );
}

/**
 * Packs on whole texels. The gap is kept by construction: cells that a shape touches are taken, cells within the margin of them must be
 * free. Method: bottom-left first fit on bit rows, bisection on the scale, then refinement with other orders, since whether a scale fits is
 * not monotonic.
 */
class GridPacker {
  private readonly cell: number;
  private readonly frame: number;
  private readonly grid: Occupancy;
  private readonly border: number;
  private readonly reserves: Reserved[];
  private attempts = 0;

  constructor(
    private readonly items: PackItem[],
    private readonly options: PackOptions,
  ) {
    const cell = packCell(options.width, options.height);
    this.cell = cell;
    // Free columns to the left of the sheet, so that a halo that sticks out there starts inside the grid.
    this.frame = Math.ceil(options.margin / cell) + 1;
    this.grid = new Occupancy(Math.floor(options.width / cell) + this.frame, Math.floor(options.height / cell));
    this.border = Math.ceil(options.margin / 2 / cell);
    this.reserves = (options.reserves ?? []).map((reserve): Reserved => {
      const [x, y] = [Math.floor(reserve.x / cell), Math.floor(reserve.y / cell)];
      const [w, h] = [
        Math.ceil((reserve.x + reserve.width) / cell) - x,
        Math.ceil((reserve.y + reserve.height) / cell) - y,
      ];
      return { mask: toRuns(new Uint8Array(w * h).fill(1), w, h), x, y };
    });
    for (const fixedShape of options.fixed ?? []) {
      const [shape, size] = fixedShape.side ? [square(fixedShape.side), 1] : [fixedShape.shape, fixedShape.scale];
      const points = mapPoints(mapInBox(scaledBox(shape, size), fixedShape, size), shape);
      // Where it stands between texels counts too.
      const [fx, fy] = [
        fixedShape.x / cell - Math.floor(fixedShape.x / cell),
        fixedShape.y / cell - Math.floor(fixedShape.y / cell),
      ];
      const t = touchedCells(
        points.map((v, k) => v + (k % 2 === 0 ? fx : fy) * cell),
        cell,
      );
      this.reserves.push({
        mask: toRuns(t.mask, t.width, t.height),
        x: Math.floor(fixedShape.x / cell),
        y: Math.floor(fixedShape.y / cell),
      });
    }
  }

  private attempt(scale: number, orders: ((p: Prepared) => number)[]): Placement[] | null {
    const { options } = this;
    const prepared = prepare(this.items, scale, options, this.cell);
    if (!prepared) return null;
    for (const rank of orders) {
      this.attempts++;
      const ranks = prepared.map(rank);
      const order = prepared.map((_, i) => i).sort((a, b) => ranks[b] - ranks[a] || a - b);
      const list = order.map((i) => prepared[i]);
      const placed = place(list, this.grid, this.frame, this.border, this.cell, this.reserves);
      if (placed) return placed;
      if (options.cancelled?.()) return null;
    }
    return null;
  }

  /** The layout at the greatest scale, if all have room at it. */
  atMost(): PackResult | null {
    const scale = this.options.maxScale;
    const placements = this.attempt(scale, ORDERS.slice(0, 2));
    return placements && { scale, placements, attempts: this.attempts, rounds: 0 };
  }

  /** @param taken what each shape covers @param effort rounds of looking for a better one than the first */
  run(taken: readonly Covered[], effort = this.options.effort): PackResult {
    const { items, options } = this;
    const random = xorshift32(options.seed);
    let best: Placement[] | null = null;
    const basic = ORDERS.slice(0, 1);
    // First guess from the area, then bracket and bisect.
    const scaling = items.reduce((sum, it, i) => sum + (it.fixedSide ? 0 : taken[i].area * it.factor * it.factor), 0);
    const guess = scaling > 0 ? Math.sqrt((0.75 * options.width * options.height) / scaling) : options.maxScale / 2;
    let high = options.maxScale;
    let low = 0;
    let s = Math.min(guess, options.maxScale * 0.98);
    for (let i = 0; i < 40 && low === 0; i++) {
      const placed = this.attempt(s, basic);
      if (placed) {
        best = placed;
        low = s;
      } else {
        high = s;
        s *= 0.9;
      }
      if (options.cancelled?.()) break;
    }
    if (!best) return { scale: 0, placements: [], attempts: this.attempts, rounds: 0 };
    for (let step = 1.04; high / low > step; ) {
      const placed = this.attempt(low * step, basic);
      if (!placed) {
        high = low * step;
        break;
      }
      best = placed;
      low *= step;
      if (options.cancelled?.()) break;
    }
    for (let i = 0; i < 12 && high / low > 1.004; i++) {
      const mid = (low + high) / 2;
      const placed = this.attempt(mid, basic);
      if (placed) {
        best = placed;
        low = mid;
      } else high = mid;
      options.progress?.(((i + 1) / 12) * 0.5);
      if (options.cancelled?.()) break;
    }
    let rounds = 0;
    let failed = 0;
    for (let i = 0; i < effort && low < options.maxScale; i++) {
      if (options.cancelled?.()) break;
      // Large steps until they fail: what is tried depends on what was found, not on how many rounds are still to come.
      const next = Math.min(options.maxScale, low * (failed < 3 ? 1.012 : 1.005));
      const jitter = new Map<number, number>();
      const base = ORDERS[(i + 1) % ORDERS.length];
      const shaken = (prepared: Prepared) => {
        const k = jitter.get(prepared.item) ?? 1 + (random() - 0.5) * 0.25;
        jitter.set(prepared.item, k);
        return base(prepared) * k;
      };
      const placed = this.attempt(next, [i < ORDERS.length - 1 ? base : shaken, shaken]);
      if (placed) {
        best = placed;
        low = next;
        failed = 0;
        rounds = i + 1;
        options.better?.({ scale: low, placements: best, attempts: this.attempts, rounds });
      } else failed++;
      options.progress?.(0.5 + ((i + 1) / effort) * 0.5);
    }
    return { scale: low, placements: best, attempts: this.attempts, rounds };
  }
}
