import { FLAT_GRID } from '../image/analysis.ts';
import { triangleStretch } from '../layout/stretch.ts';
import { layoutCoordinates } from '../mesh/coordinates.ts';
import { uvIslands } from '../mesh/islands.ts';
import type { TextureUse } from '../scene/material.ts';
import type { Part } from '../scene/model.ts';

/** What is looked at of a part: plain data that may go to another thread. */
export type UvPart = Pick<Part, 'name' | 'positions' | 'indices' | 'uvs'>;

/** Texels a side of the grid on which coverage and overlaps are counted. */
export const GRID = 512;

/** Cell of the flat grid for a coordinate in repeats. */
function cellOf(v: number): number {
  return Math.min(FLAT_GRID - 1, Math.floor((v - Math.floor(v)) * FLAT_GRID));
}

/** GRID / FLAT_GRID as a shift. */
const FLAT_SHIFT = Math.log2(GRID / FLAT_GRID);

/** A triangle that spans more repeats than this along an axis covers the whole texture. */
const MANY = 32;

/** More islands than one part can have. */
const KEY = 0x4000000;

/** How the UVs of a slot lie. Overlaps and coverage are counted on a grid of 512 × 512. */
export interface UvFacts {
  islands: number;
  /** Islands that lie where the texture is flat: overlap and stretch do them no harm. */
  swatches: number;
  /** Box of all UVs, after the texture's transform. */
  box: [u0: number, v0: number, u1: number, v1: number];
  /** Most repeats of one island by axis, 1 when it stays within one. */
  repeats: [u: number, v: number];
  /** UV tiles that hold whole islands, as column + row × 10 from 0; empty when islands cross tile borders. */
  tiles: number[];
  /** Area-weighted mean density of each of `tiles`, px/m. */
  tileDensity: number[];
  /** Pairs of islands that lie on each other: the same way round, mirrored, or partly and so by accident. */
  stacked: number;
  mirrored: number;
  accidental: number;
  /** Share of the covered texels where islands overlap by accident. */
  accidentalShare: number;
  /** Names of parts that take part in accidental overlaps. */
  accidentalParts: string[];
  /** Ratio of the singular values of UV → surface, area-weighted. */
  stretch: { median: number; p95: number } | null;
  /** Share of 0–1 that is covered. */
  used: number;
}

interface Island {
  part: number;
  box: [number, number, number, number];
  area: number;
  /** Positive when most of it is seen from the front, negative: mirrored. */
  turn: number;
  /** It touches a place where the texture is not flat. */
  rough: boolean;
}

/** By which UVs a picture is read. */
export type UvReading = Pick<TextureUse, 'uvSet' | 'transform'>;

/** Collects the UVs of the parts of one slot, and marks what they cover. */
export class UvCollector {
  private readonly owner = new Int32Array(GRID * GRID).fill(-1);
  private readonly pairs = new Map<number, number>();
  private readonly islands: Island[] = [];
  /** Surface by stretch, in bins of a 256th octave. */
  private readonly stretchBins = new Float64Array(STRETCH_BINS);
  private readonly tileArea = new Map<number, [uv: number, surface: number]>();
  private readonly names: string[] = [];
  private box: UvFacts['box'] = [Infinity, Infinity, -Infinity, -Infinity];
  /** Cells that are covered. */
  private used = 0;
  private crossing = false;
  private repeats: [number, number] = [1, 1];
  /** Cells that are covered more than once. */
  private readonly clash = new Uint8Array(GRID * GRID);

  /**
   * @param covered grid of the texture that the slot reads, marked where it is used
   * @param size px of that texture @param flatCells where it is flat, `FLAT_GRID` cells a side; islands there are swatches
   */
  constructor(
    private readonly covered: Uint8Array,
    private readonly size: [number, number],
    private readonly flatCells: Uint8Array | null = null,
  ) {}

  /** @param use by which UVs the picture is read; the part has that set @param surfaceScale linear scale of the part's instance */
  add(part: UvPart, use: UvReading, surfaceScale: number): void {
    const { indices, positions } = part;
    const uv = layoutCoordinates(part, use, [1, 1]);
    const map = uvIslands(indices, positions, part.uvs[use.uvSet] as Float32Array);
    const base = this.islands.length;
    const name = this.names.push(part.name) - 1;
    for (let i = 0; i < map.count; i++)
      this.islands.push({
        part: name,
        box: [Infinity, Infinity, -Infinity, -Infinity],
        area: 0,
        turn: 0,
        rough: false,
      });
    for (let t = 0; t < indices.length / 3; t++) {
      const island = this.islands[base + map.ofTriangle[t]];
      const a = indices[t * 3] * 2;
      const b = indices[t * 3 + 1] * 2;
      const c = indices[t * 3 + 2] * 2;
      const { box } = island;
      box[0] = Math.min(box[0], uv[a], uv[b], uv[c]);
      box[1] = Math.min(box[1], uv[a + 1], uv[b + 1], uv[c + 1]);
      box[2] = Math.max(box[2], uv[a], uv[b], uv[c]);
      box[3] = Math.max(box[3], uv[a + 1], uv[b + 1], uv[c + 1]);
      const twice = (uv[b] - uv[a]) * (uv[c + 1] - uv[a + 1]) - (uv[c] - uv[a]) * (uv[b + 1] - uv[a + 1]);
      island.area += Math.abs(twice) / 2;
      island.turn += twice;
      if (!island.rough && (this.isRough(uv, a) || this.isRough(uv, b) || this.isRough(uv, c))) island.rough = true;
    }
    for (let i = base; i < this.islands.length; i++) this.noteBox(this.islands[i]);
    for (let t = 0; t < indices.length / 3; t++) {
      const at = base + map.ofTriangle[t];
      this.mark(at, uv, indices[t * 3] * 2, indices[t * 3 + 1] * 2, indices[t * 3 + 2] * 2);
    }
    for (let t = 0; t < indices.length / 3; t++)
      this.stretch(part, t, uv, surfaceScale, this.islands[base + map.ofTriangle[t]].rough);
  }

  /** True when a corner lies where the texture is not flat, or nothing is known of it. */
  private isRough(uv: ArrayLike<number>, corner: number): boolean {
    const cells = this.flatCells;
    return !cells || cells[cellOf(uv[corner + 1]) * FLAT_GRID + cellOf(uv[corner])] === 0;
  }

  private noteBox(island: Island): void {
    const [u0, v0, u1, v1] = island.box;
    if (!(u1 >= u0)) return;
    this.box = [
      Math.min(this.box[0], u0),
      Math.min(this.box[1], v0),
      Math.max(this.box[2], u1),
      Math.max(this.box[3], v1),
    ];
    this.repeats = [Math.max(this.repeats[0], u1 - u0), Math.max(this.repeats[1], v1 - v0)];
    const e = 1e-4;
    if (Math.floor(u0 + e) !== Math.floor(u1 - e) || Math.floor(v0 + e) !== Math.floor(v1 - e)) this.crossing = true;
  }

  private stretch(part: UvPart, t: number, uv: ArrayLike<number>, scale: number, rough: boolean): void {
    const { indices, positions: p } = part;
    const i = indices[t * 3];
    const j = indices[t * 3 + 1];
    const k = indices[t * 3 + 2];
    const ex = (p[j * 3] - p[i * 3]) * scale;
    const ey = (p[j * 3 + 1] - p[i * 3 + 1]) * scale;
    const ez = (p[j * 3 + 2] - p[i * 3 + 2]) * scale;
    const fx = (p[k * 3] - p[i * 3]) * scale;
    const fy = (p[k * 3 + 1] - p[i * 3 + 1]) * scale;
    const fz = (p[k * 3 + 2] - p[i * 3 + 2]) * scale;
    const nx = ey * fz - ez * fy;
    const ny = ez * fx - ex * fz;
    const nz = ex * fy - ey * fx;
    const area = Math.sqrt(nx ** 2 + ny ** 2 + nz ** 2) / 2;
    const twice =
      (uv[j * 2] - uv[i * 2]) * (uv[k * 2 + 1] - uv[i * 2 + 1]) -
      (uv[k * 2] - uv[i * 2]) * (uv[j * 2 + 1] - uv[i * 2 + 1]);
    const cu = Math.floor((uv[i * 2] + uv[j * 2] + uv[k * 2]) / 3);
    const cv = Math.floor((uv[i * 2 + 1] + uv[j * 2 + 1] + uv[k * 2 + 1]) / 3);
    if (cu >= 0 && cu < 10 && cv >= 0 && cv < 100) {
      const sums = this.tileArea.get(cu + cv * 10) ?? [0, 0];
      sums[0] += Math.abs(twice) / 2;
      sums[1] += area;
      this.tileArea.set(cu + cv * 10, sums);
    }
    // A swatch has no direction that could be stretched.
    if (!(area > 0) || twice === 0 || !rough) return;
    // In texels, so that an oblong texture counts.
    const [w, h] = this.size;
    const along = ex * ex + ey * ey + ez * ez;
    const across = fx * fx + fy * fy + fz * fz;
    const s = triangleStretch(along, across, ex * fx + ey * fy + ez * fz, [
      (uv[j * 2] - uv[i * 2]) * w,
      (uv[j * 2 + 1] - uv[i * 2 + 1]) * h,
      (uv[k * 2] - uv[i * 2]) * w,
      (uv[k * 2 + 1] - uv[i * 2 + 1]) * h,
    ]);
    if (Number.isNaN(s)) return;
    this.stretchBins[Math.min(STRETCH_BINS - 1, Math.round(256 * Math.log2(Math.max(1, s))))] += area;
  }

  /**
   * Marks the grid cells whose middles the triangle covers, row by row. Rows and cells on an edge belong to one side only, since both
   * neighbours compute its crossings from the same ends in the same order.
   */
  private mark(island: number, uv: ArrayLike<number>, a: number, b: number, c: number): void {
    const [x0, y0, x1, y1] = [uv[a] * GRID, uv[a + 1] * GRID, uv[b] * GRID, uv[b + 1] * GRID];
    const [x2, y2] = [uv[c] * GRID, uv[c + 1] * GRID];
    const low = Math.min(y0, y1, y2);
    const high = Math.max(y0, y1, y2);
    const wide = Math.max(x0, x1, x2) - Math.min(x0, x1, x2);
    if (!(wide < MANY * GRID && high - low < MANY * GRID)) {
      this.covered.fill(1);
      return;
    }
    for (let gy = Math.ceil(low - 0.5); gy + 0.5 < high; gy++) {
      const y = gy + 0.5;
      const [p, q, r] = [crossing(x0, y0, x1, y1, y), crossing(x1, y1, x2, y2, y), crossing(x2, y2, x0, y0, y)];
      let from = Number.POSITIVE_INFINITY;
      let to = Number.NEGATIVE_INFINITY;
      // Comparisons are false where an edge has no crossing.
      if (p < from) from = p;
      if (p > to) to = p;
      if (q < from) from = q;
      if (q > to) to = q;
      if (r < from) from = r;
      if (r > to) to = r;
      if (to > from) this.markRow(island, gy, Math.ceil(from - 0.5), Math.ceil(to - 0.5));
    }
  }

  private markRow(island: number, gy: number, from: number, to: number): void {
    const row = gy & (GRID - 1);
    const flatRow = (row >> FLAT_SHIFT) * FLAT_GRID;
    const { covered, owner, clash, flatCells } = this;
    let rough = false;
    let other = -1;
    let run = 0;
    // Past one whole row nothing new is covered.
    const end = Math.min(to, from + GRID);
    for (let gx = from; gx < end; gx++) {
      const column = gx & (GRID - 1);
      const cell = row * GRID + column;
      covered[cell] = 1;
      if (flatCells && flatCells[flatRow + (column >> FLAT_SHIFT)] === 0) rough = true;
      const there = owner[cell];
      if (there < 0) {
        owner[cell] = island;
        this.used++;
      } else clash[cell] = 1;
      if (there === other) run++;
      else {
        this.count(island, other, run);
        other = there;
        run = 1;
      }
    }
    if (rough) this.islands[island].rough = true;
    this.count(island, other, run);
  }

  /** Notes that two islands (or one and itself) share some cells of a row. */
  private count(island: number, other: number, cells: number): void {
    if (other < 0) return;
    const key = Math.min(island, other) * KEY + Math.max(island, other);
    this.pairs.set(key, (this.pairs.get(key) ?? 0) + cells);
  }

  facts(): UvFacts {
    let stacked = 0;
    let mirrored = 0;
    const accident = new Set<number>();
    const parts = new Set<string>();
    // Between tiles and repeats of one texture overlap is what tiling means.
    const tiling = this.repeats[0] > 1.01 || this.repeats[1] > 1.01;
    const cells = (i: number) => this.islands[i].area * GRID * GRID;
    for (const [key, n] of this.pairs) {
      const low = Math.floor(key / KEY);
      const high = key % KEY;
      const [island, b] = [this.islands[low], this.islands[high]];
      if (n < Math.max(4, 0.005 * Math.min(cells(low), cells(high)))) continue;
      if (!island.rough && !b.rough) continue;
      if (low !== high && alike(island, b)) {
        if (island.turn * b.turn >= 0) stacked++;
        else mirrored++;
      } else if (!tiling) {
        accident.add(key);
        parts.add(this.names[island.part]).add(this.names[b.part]);
      }
    }
    const { used, clash, owner } = this;
    const clumsy = new Set([...accident].flatMap((key) => [Math.floor(key / KEY), key % KEY]));
    let clashing = 0;
    for (let cell = 0; cell < clash.length && clumsy.size > 0; cell++)
      if (clash[cell] && clumsy.has(owner[cell])) clashing++;
    const tiles = this.crossing ? [] : [...this.tileArea].filter(([, [uv]]) => uv > 1e-9).sort((a, b) => a[0] - b[0]);
    const [w, h] = this.size;
    return {
      islands: this.islands.length,
      swatches: this.islands.filter((i) => !i.rough && i.area > 0).length,
      box: this.islands.length > 0 ? this.box : [0, 0, 0, 0],
      repeats: this.repeats,
      tiles: tiles.map(([t]) => t),
      tileDensity: tiles.map(([, [uv, surface]]) => (surface > 0 ? Math.sqrt((uv * w * h) / surface) : 0)),
      stacked,
      mirrored,
      accidental: accident.size,
      accidentalShare: used > 0 ? clashing / used : 0,
      accidentalParts: [...parts],
      stretch: quantiles(this.stretchBins),
      used: used / (GRID * GRID),
    };
  }
}

/** Where an edge crosses a row; NaN where it does not. A row through its upper end counts, one through its lower end does not. */
function crossing(px: number, py: number, qx: number, qy: number, y: number): number {
  if (py > qy) return crossing(qx, qy, px, py, y);
  return py <= y && y < qy ? px + ((y - py) * (qx - px)) / (qy - py) : Number.NaN;
}

/** Islands with one box (whole repeats apart counts as well) and one area lie on each other on purpose. */
function alike(island: Island, b: Island): boolean {
  const e = 1.5 / GRID;
  const du = Math.round(island.box[0] - b.box[0]);
  const dv = Math.round(island.box[1] - b.box[1]);
  const shift = [du, dv, du, dv];
  return (
    island.box.every((v, i) => Math.abs(v - b.box[i] - shift[i]) <= e) &&
    Math.abs(island.area - b.area) <= 0.02 * Math.max(island.area, b.area) + e * e
  );
}

/** Up to 2^16 : 1. */
const STRETCH_BINS = 256 * 16;

function quantiles(bins: Float64Array): UvFacts['stretch'] {
  const total = bins.reduce((sum, bin) => sum + bin, 0);
  if (total === 0) return null;
  const at = (share: number): number => {
    let w = 0;
    for (let i = 0; i < bins.length; i++) {
      w += bins[i];
      if (w >= share * total) return 2 ** (i / 256);
    }
    return 2 ** (bins.length / 256);
  };
  return { median: at(0.5), p95: at(0.95) };
}
