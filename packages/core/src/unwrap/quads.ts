import { quadPairs } from '../mesh/quad-pairs.ts';
import { type Surface, sideEnds } from '../mesh/surface.ts';
import type { Flat } from './flatten.ts';

/** Two triangles as a quad: its four sides around, each a side of a triangle (triangle · 3 + k). */
interface Quad {
  triangles: [number, number];
  sides: [number, number, number, number];
}

/** Least cosine between the two halves of a quad. */
const BENT = 0.5;

/** Quads of a surface, see `quadPairs`. */
function quadsOf(surface: Surface): { quads: Quad[]; of: Int32Array } {
  const of = new Int32Array(surface.areas.length).fill(-1);
  const next = (s: number, by: number) => s - (s % 3) + ((s + by) % 3);
  const quads = quadPairs(surface, BENT).map((pair, i): Quad => {
    const e = surface.twin[pair];
    const [t, o] = [Math.floor(pair / 3), Math.floor(e / 3)];
    of[t] = i;
    of[o] = i;
    // Around: the two sides after the diagonal in one triangle, then the two in the other.
    return { triangles: [t, o], sides: [next(pair, 1), next(pair, 2), next(e, 1), next(e, 2)] };
  });
  return { quads, of };
}

/**
 * Rows and columns of quads laid out as exact rectangles: each piece of the surface whose quads fit a grid becomes one chart, its columns as
 * wide as their sides are in the mean and its rows as high as their area asks. A tube is cut along one of its lines. What is not made of quads is returned.
 * @returns charts, and the triangles left over
 */
export function stripCharts(surface: Surface): { flats: Flat[]; rest: Uint32Array } {
  const { quads, of } = quadsOf(surface);
  const done = new Uint8Array(quads.length);
  const flats: Flat[] = [];
  for (let seed = 0; seed < quads.length; seed++) {
    if (done[seed]) continue;
    flats.push(rectangleFrom(surface, quads, of, done, seed));
  }
  const rest = Uint32Array.from([...of.keys()].filter((key) => of[key] < 0));
  return { flats, rest };
}

/** A quad in a grid: side `east` of its four leads to the next column. */
interface Cell {
  quad: number;
  east: number;
  i: number;
  j: number;
}

/** Steps of the grid beyond each side from the eastern one on, in the order of the quad: east, north, west, south. */
const STEPS = [
  [1, 0],
  [0, 1],
  [-1, 0],
  [0, -1],
] as const;

function rectangleFrom(surface: Surface, quads: Quad[], of: Int32Array, done: Uint8Array, seed: number): Flat {
  const cells: Cell[] = [{ quad: seed, east: eastOf(surface, quads[seed]), i: 0, j: 0 }];
  const taken = new Map<string, Cell>([['0 0', cells[0]]]);
  const bySide = new Map<number, Cell>([[seed, cells[0]]]);
  done[seed] = 1;
  for (let at = 0; at < cells.length; at++) {
    const cell = cells[at];
    for (let k = 0; k < 4; k++) {
      const side = quads[cell.quad].sides[(cell.east + k) % 4];
      const twin = surface.twin[side];
      if (twin < 0) continue;
      const q = of[Math.floor(twin / 3)];
      if (q < 0 || done[q]) continue;
      const [i, j] = [cell.i + STEPS[k][0], cell.j + STEPS[k][1]];
      if (taken.has(`${i} ${j}`)) continue;
      const entered = quads[q].sides.indexOf(twin);
      if (entered < 0) continue;
      // It was entered by the side opposite of step k.
      const next = { quad: q, east: (entered - ((k + 2) % 4) + 4) % 4, i, j };
      if (!touchesOnlyItsOwn(surface, quads, of, bySide, next)) continue;
      done[q] = 1;
      taken.set(`${i} ${j}`, next);
      bySide.set(q, next);
      cells.push(next);
    }
  }
  return laid(surface, quads, cells);
}

/** Whether a cell's neighbours on the grid that are its neighbours on the surface lie there turned the same way. */
function touchesOnlyItsOwn(
  surface: Surface,
  quads: Quad[],
  of: Int32Array,
  known: ReadonlyMap<number, Cell>,
  cell: Cell,
): boolean {
  for (let k = 0; k < 4; k++) {
    const twin = surface.twin[quads[cell.quad].sides[(cell.east + k) % 4]];
    const other = twin < 0 ? undefined : known.get(of[Math.floor(twin / 3)]);
    if (!other || other.i !== cell.i + STEPS[k][0] || other.j !== cell.j + STEPS[k][1]) continue;
    if (quads[other.quad].sides[(other.east + k + 2) % 4] !== twin) return false;
  }
  return true;
}

/** The side across which the quad is longest: rows run along strips. */
function eastOf(surface: Surface, quad: Quad): number {
  const l = quad.sides.map((side) => sideLength(surface, side));
  return l[0] + l[2] <= l[1] + l[3] ? 0 : 1;
}

function sideLength(surface: Surface, side: number): number {
  const [a, b] = sideEnds(surface.corners, side).map((v) => v * 3);
  const points = surface.points;
  return Math.sqrt(
    (points[a] - points[b]) ** 2 + (points[a + 1] - points[b + 1]) ** 2 + (points[a + 2] - points[b + 2]) ** 2,
  );
}

function laid(surface: Surface, quads: Quad[], cells: Cell[]): Flat {
  // Columns are as wide as the sides along them in the mean; rows as high as their area asks, since sides across run at a slant at mitres.
  const widths = new Map<number, [sum: number, count: number]>();
  for (const cell of cells)
    for (const k of [1, 3]) {
      const [sum, count] = widths.get(cell.i) ?? [0, 0];
      widths.set(cell.i, [sum + sideLength(surface, quads[cell.quad].sides[(cell.east + k) % 4]), count + 1]);
    }
  const width = (i: number) => {
    const [sum, count] = widths.get(i) as [number, number];
    return sum / count;
  };
  const heights = new Map<number, [area: number, length: number]>();
  for (const cell of cells) {
    const [area, length] = heights.get(cell.j) ?? [0, 0];
    const [t, o] = quads[cell.quad].triangles;
    heights.set(cell.j, [area + surface.areas[t] + surface.areas[o], length + width(cell.i)]);
  }
  const height = (j: number) => {
    const [area, length] = heights.get(j) as [number, number];
    return length > 0 ? area / length : 0;
  };
  const lines = (numbers: Iterable<number>, size: (n: number) => number) => {
    const out = new Map<number, number>();
    let at = 0;
    for (const number of [...numbers].sort((a, b) => a - b)) {
      out.set(number, at);
      at += size(number);
      out.set(number + 1, at);
    }
    return out;
  };
  const columns = lines(widths.keys(), width);
  const rows = lines(heights.keys(), height);
  const number = new Map<string, number>();
  const places: number[] = [];
  const uv: number[] = [];
  const corner = (place: number, i: number, j: number) => {
    const key = `${i} ${j}`;
    let n = number.get(key);
    if (n === undefined) {
      n = number.size;
      number.set(key, n);
      places.push(place);
      uv.push(columns.get(i) as number, rows.get(j) as number);
    }
    return n;
  };
  const triangles: number[] = [];
  const local: number[] = [];
  for (const cell of cells) {
    const quad = quads[cell.quad];
    const at = new Map<number, number>();
    for (let k = 0; k < 4; k++) {
      const [first] = sideEnds(surface.corners, quad.sides[(cell.east + k) % 4]);
      // The eastern side begins at the lower right corner, the northern at the upper right, and so on.
      const [di, dj] = CORNERS[k];
      at.set(first, corner(first, cell.i + di, cell.j + dj));
    }
    for (const triangle of quad.triangles) {
      triangles.push(triangle);
      for (let k = 0; k < 3; k++) local.push(at.get(surface.corners[triangle * 3 + k]) as number);
    }
  }
  return {
    triangles: Uint32Array.from(triangles),
    places: Uint32Array.from(places),
    uv: Float64Array.from(uv),
    local: Uint32Array.from(local),
  };
}

/** Where the side of each step begins, seen from outside, V upwards. */
const CORNERS = [
  [1, 0],
  [1, 1],
  [0, 1],
  [0, 0],
] as const;
