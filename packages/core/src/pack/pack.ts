import { Occupancy, type RunMask, toRuns } from '@wembrel/kernels/bitmap';
import { dilate, scaledBox, type Turns, touchedCells, turnedPoints } from './rasterise.ts';

/** A shape to be placed. */
export interface PackItem {
  /** Triangles, six numbers each, px at scale 1, all ≥ 0. */
  shape: Float64Array;
  /** Relative size on top of the common scale, and the greatest size that it grows to, px per px of the shape. */
  factor: number;
  most?: number;
  mayTurn: boolean;
  /** Size in px that does not scale (a swatch): the shape is this square. */
  fixedSide?: number;
  /** Its upper left stands on multiples of this, px; 1 when not given. */
  align?: number;
}

export interface PackOptions {
  width: number;
  height: number;
  /** Least gap between shapes, px; half of it to the border. */
  margin: number;
  /** Room that stays free, px. */
  reserves?: readonly { x: number; y: number; width: number; height: number }[];
  /** Shapes that are there already: where, how turned, px per px of the shape; a swatch has its side, px. */
  fixed?: readonly { shape: Float64Array; side?: number; scale: number; x: number; y: number; turns: Turns }[];
  rotate: 'none' | 'quarter';
  /** The common scale never exceeds this. */
  maxScale: number;
  /** Attempts at a greater scale after the first layout that fits. */
  effort: number;
  seed: number;
  /** Polled between attempts. */
  cancelled?: () => boolean;
  progress?: (share: number) => void;
}

export interface Placement {
  /** Upper left of the turned box, whole px. */
  x: number;
  y: number;
  turns: Turns;
}

export interface PackResult {
  /** Common scale, or 0 when nothing fits at any scale. */
  scale: number;
  placements: Placement[];
  /** How many layouts were tried. */
  attempts: number;
}

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

const ORDERS: ((p: Prepared) => number)[] = [
  (p) => Math.sqrt(p.area) + p.side,
  (p) => p.area,
  (p) => p.side,
  (p) => Math.sqrt(p.area) * 2 + p.side,
  (p) => Math.sqrt(p.area) + 2 * p.side,
];

/** Grid cell in px: one texel up to 1024, then two, four, …, so that the work stays the same. */
export function packCell(width: number, height: number): number {
  let cell = 1;
  while (Math.max(width, height) / cell > 1024) cell *= 2;
  return cell;
}

function prepare(items: PackItem[], scale: number, o: PackOptions, cell: number): Prepared[] | null {
  const out: Prepared[] = [];
  const groups = new Map<string, number>();
  let cells = 0;
  const room = (o.width / cell) * (o.height / cell);
  for (let i = 0; i < items.length; i++) {
    const it = items[i];
    const shape = it.fixedSide ? square(it.fixedSide) : it.shape;
    const s = it.fixedSide ? 1 : Math.min(it.most ?? Number.POSITIVE_INFINITY, scale * it.factor);
    const [w, h] = scaledBox(shape, s);
    if (Math.min(w, h) > Math.max(o.width, o.height)) return null;
    const options: Oriented[] = [];
    let area = 0;
    const all: Turns[] = o.rotate === 'quarter' && it.mayTurn && !it.fixedSide ? [0, 1, 2, 3] : [0];
    for (const turns of all) {
      const t = touchedCells(turnedPoints(shape, s, turns), cell);
      const body = toRuns(t.mask, t.width, t.height);
      // A shape that fills its box gains nothing from half turns.
      if (turns >= 2 && body.cells > 0.92 * t.width * t.height) break;
      const d = dilate(t.mask, t.width, t.height, o.margin, cell);
      const [side, top] = largestSquare(d.mask, d.width, d.height);
      options.push({
        turns,
        body,
        halo: longestFirst(toRuns(d.mask, d.width, d.height)),
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

/** Side and top row of the largest full square in a mask. */
function largestSquare(mask: Uint8Array, width: number, height: number): [number, number] {
  const row = new Int32Array(width + 1);
  let best = 0;
  let top = 0;
  for (let y = 0; y < height; y++) {
    let diagonal = 0;
    for (let x = 0; x < width; x++) {
      const above = row[x + 1];
      row[x + 1] = mask[y * width + x] ? Math.min(above, row[x], diagonal) + 1 : 0;
      diagonal = above;
      if (row[x + 1] > best) {
        best = row[x + 1];
        top = y - best + 1;
      }
    }
  }
  return [best, top];
}

/** Runs ordered by length: long ones rule out most places, so a full row shows after a few of them. */
function longestFirst(mask: RunMask): RunMask {
  const { runs } = mask;
  const order = Array.from({ length: runs.length / 3 }, (_, i) => i).sort(
    (a, b) => runs[b * 3 + 2] - runs[a * 3 + 2] || a - b,
  );
  return { ...mask, runs: Int32Array.from(order.flatMap((i) => [runs[i * 3], runs[i * 3 + 1], runs[i * 3 + 2]])) };
}

function squareMask(side: number): RunMask {
  return toRuns(new Uint8Array(side * side).fill(1), side, side);
}

function hashRuns(mask: RunMask): number {
  let h = 0;
  for (const v of mask.runs) h = (Math.imul(h, 31) + v) | 0;
  return h;
}

function square(side: number): Float64Array {
  return Float64Array.of(0, 0, side, 0, side, side, 0, 0, side, side, 0, side);
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
  for (const r of reserves) grid.add(r.mask, r.x + frame, r.y);
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
  for (const p of order) {
    let best: { x: number; y: number; o: Oriented; rank: number } | null = null;
    for (let k = 0; k < p.options.length; k++) {
      const o = p.options[k];
      const { halo, body, reach } = o;
      const lastY = height - border - body.height;
      const key = p.group * 4 + o.turns;
      const bound = squareRow(o.square) - o.squareTop + reach;
      for (let y = Math.max(border, bound, startRow.get(key) ?? border); y <= lastY; y++) {
        if (best && y + body.height > best.rank) break;
        if (y % p.align !== 0) continue;
        const minX = frame + border - reach;
        const maxX = frame + width - border - body.width - reach;
        let x = grid.firstFitWithin(halo, y - reach, minX, maxX);
        // From a place between two multiples on to the next.
        for (let off = (x - frame + reach) % p.align; x >= minX && off !== 0; off = (x - frame + reach) % p.align) {
          const from = x + p.align - off;
          x = grid.firstFitWithin(halo, y - reach, from, maxX);
          if (x < from) x = minX - 1;
        }
        if (x < minX) continue;
        const rank = y + body.height;
        if (!best || rank < best.rank || (rank === best.rank && x - frame + reach < best.x))
          best = { x: x - frame + reach, y, o, rank };
        if (best.o === o) startRow.set(key, y);
        break;
      }
    }
    if (!best) return null;
    grid.add(best.o.body, best.x + frame, best.y);
    out[p.item] = { x: best.x * cell, y: best.y * cell, turns: best.o.turns };
  }
  return out;
}

/** Deterministic numbers in 0 … 1 (xorshift32). */
function randomNumbers(seed: number): () => number {
  let s = (seed | 0) === 0 ? 0x1234567 : seed | 0;
  return () => {
    s ^= s << 13;
    s ^= s >>> 17;
    s ^= s << 5;
    return (s >>> 0) / 4294967296;
  };
}

/**
 * Packs true shapes into a sheet: the greatest common scale found at which all have room, never above `maxScale`. Shapes are
 * turned by quarter turns at most, never mirrored, and stand on whole texels. The gap is kept by construction: cells that a
 * shape touches are taken, cells within the margin of them must be free. Method: bottom-left first fit on bit rows, bisection
 * on the scale, then refinement with other orders, since whether a scale fits is not monotonic.
 */
export function pack(items: PackItem[], o: PackOptions): PackResult {
  const cell = packCell(o.width, o.height);
  // Free columns to the left of the sheet, so that a halo that sticks out there starts inside the grid.
  const frame = Math.ceil(o.margin / cell) + 1;
  const grid = new Occupancy(Math.floor(o.width / cell) + frame, Math.floor(o.height / cell));
  const border = Math.ceil(o.margin / 2 / cell);
  const random = randomNumbers(o.seed);
  const reserves = (o.reserves ?? []).map((r): Reserved => {
    const [x, y] = [Math.floor(r.x / cell), Math.floor(r.y / cell)];
    const [w, h] = [Math.ceil((r.x + r.width) / cell) - x, Math.ceil((r.y + r.height) / cell) - y];
    return { mask: toRuns(new Uint8Array(w * h).fill(1), w, h), x, y };
  });
  for (const f of o.fixed ?? []) {
    const t = f.side
      ? touchedCells(turnedPoints(square(f.side), 1, 0), cell)
      : touchedCells(turnedPoints(f.shape, f.scale, f.turns), cell);
    reserves.push({ mask: toRuns(t.mask, t.width, t.height), x: Math.floor(f.x / cell), y: Math.floor(f.y / cell) });
  }
  let attempts = 0;
  const attempt = (scale: number, orders: ((p: Prepared) => number)[]): Placement[] | null => {
    const prepared = prepare(items, scale, o, cell);
    if (!prepared) return null;
    for (const rank of orders) {
      attempts++;
      const ranks = prepared.map(rank);
      const order = prepared.map((_, i) => i).sort((a, b) => ranks[b] - ranks[a] || a - b);
      const placed = place(
        order.map((i) => prepared[i]),
        grid,
        frame,
        border,
        cell,
        reserves,
      );
      if (placed) return placed;
      if (o.cancelled?.()) return null;
    }
    return null;
  };
  const basic = ORDERS.slice(0, 1);
  let best = attempt(o.maxScale, ORDERS.slice(0, 2));
  if (best) return { scale: o.maxScale, placements: best, attempts };
  if (items.length === 0) return { scale: o.maxScale, placements: [], attempts };

  // First guess from the area, then bracket and bisect.
  const scaling = items.reduce((n, it) => n + (it.fixedSide ? 0 : shapeArea(it.shape) * it.factor * it.factor), 0);
  const guess = scaling > 0 ? Math.sqrt((0.75 * o.width * o.height) / scaling) : o.maxScale / 2;
  let high = o.maxScale;
  let low = 0;
  let s = Math.min(guess, o.maxScale * 0.98);
  for (let i = 0; i < 40 && low === 0; i++) {
    const placed = attempt(s, basic);
    if (placed) {
      best = placed;
      low = s;
    } else {
      high = s;
      s *= 0.9;
    }
    if (o.cancelled?.()) break;
  }
  if (!best) return { scale: 0, placements: [], attempts };
  for (let step = 1.04; high / low > step; ) {
    const placed = attempt(low * step, basic);
    if (!placed) {
      high = low * step;
      break;
    }
    best = placed;
    low *= step;
    if (o.cancelled?.()) break;
  }
  for (let i = 0; i < 12 && high / low > 1.004; i++) {
    const mid = (low + high) / 2;
    const placed = attempt(mid, basic);
    if (placed) {
      best = placed;
      low = mid;
    } else high = mid;
    o.progress?.(((i + 1) / 12) * 0.5);
    if (o.cancelled?.()) break;
  }
  for (let i = 0; i < o.effort && low < o.maxScale; i++) {
    if (o.cancelled?.()) break;
    const next = Math.min(o.maxScale, low * (i < o.effort / 2 ? 1.012 : 1.005));
    const jitter = new Map<number, number>();
    const base = ORDERS[(i + 1) % ORDERS.length];
    const shaken = (p: Prepared) => {
      const k = jitter.get(p.item) ?? 1 + (random() - 0.5) * 0.25;
      jitter.set(p.item, k);
      return base(p) * k;
    };
    const placed = attempt(next, [i < ORDERS.length - 1 ? base : shaken, shaken]);
    if (placed) {
      best = placed;
      low = next;
    }
    o.progress?.(0.5 + ((i + 1) / o.effort) * 0.5);
  }
  return { scale: low, placements: best, attempts };
}

function shapeArea(shape: Float64Array): number {
  let sum = 0;
  for (let i = 0; i < shape.length; i += 6)
    sum += Math.abs(
      (shape[i + 2] - shape[i]) * (shape[i + 5] - shape[i + 1]) -
        (shape[i + 4] - shape[i]) * (shape[i + 3] - shape[i + 1]),
    );
  return sum / 2;
}
