import { nearestOnTriangle, TOUCH } from '../math/barycentrics.ts';
import type { BakeTriangles } from './triangles.ts';

/** Side of the square of texels that one worker takes at a time. */
export const TILE = 64;

/** A square of texels of a sheet and the triangles that may cover some of them. */
export interface Tile {
  /** Its corner on the sheet, texels. */
  x: number;
  y: number;
  /** Texels that it has, at most `TILE` a side. */
  width: number;
  height: number;
  /** Numbers of the triangles; what `TileCover` notes are positions in this list. */
  list: Uint32Array;
  /** Samples an axis by which each triangle is read. */
  perTriangle: Uint8Array;
  /** Samples an axis of the finest triangle. */
  grid: number;
}

/** Which triangle of a tile each texel shows, and each of its samples. Texel (x, y) of the tile stands at y · `TILE` + x; −1 is none. */
export class TileCover {
  /** The first triangle over the middle of a texel. */
  readonly centre = new Int32Array(TILE * TILE);
  /** The nearest triangle that lies less than a texel away along both axes, where none is over the middle. */
  readonly near = new Int32Array(TILE * TILE);
  /** Square of its distance, texels². */
  readonly nearDistance = new Float64Array(TILE * TILE);
  /** The triangle that covers a texel wholly, as the first that touches it. */
  readonly whole = new Int32Array(TILE * TILE);
  /** The triangle over each sample, `grid`² a texel, when some triangle needs more than one. */
  sub = new Int32Array(0);
  private readonly touched = new Uint8Array(TILE * TILE);
  private readonly bary = new Float64Array(3);

  /** Finds what lies over the texels of a tile. */
  find({ place }: BakeTriangles, tile: Tile): void {
    const subCount = subSamples(tile);
    this.clear(subCount);
    for (let li = 0; li < tile.list.length; li++) this.addTriangle(place, tile, li, subCount);
  }

  /** Whether a texel's square is touched by its nearest triangle; else the triangle is only near enough for blending to reach the texel. */
  touches(i: number): boolean {
    return this.nearDistance[i] <= TOUCH * TOUCH;
  }

  private clear(subCount: number): void {
    this.whole.fill(-1);
    this.touched.fill(0);
    this.centre.fill(-1);
    this.near.fill(-1);
    this.nearDistance.fill(Infinity);
    if (this.sub.length < TILE * TILE * subCount) this.sub = new Int32Array(TILE * TILE * subCount);
    this.sub.fill(-1, 0, TILE * TILE * subCount);
  }

  private addTriangle(place: Float64Array, tile: Tile, li: number, subCount: number): void {
    const { x: tx, y: ty, grid } = tile;
    const { centre, near, nearDistance, whole, touched, sub, bary } = this;
    const o = tile.list[li] * 6;
    const ax = place[o];
    const ay = place[o + 1];
    const bx = place[o + 2];
    const by = place[o + 3];
    const cx = place[o + 4];
    const cy = place[o + 5];
    const det = (bx - ax) * (cy - ay) - (cx - ax) * (by - ay);
    const { x0, x1, y0, y1 } = texelBox(place, o, tile);
    const flip = det < 0 ? -1 : 1;
    // How much an edge function changes from the middle of a texel to its corners, and a little more than rounding can.
    const near0 = halfStep(bx - ax, by - ay);
    const near1 = halfStep(cx - bx, cy - by);
    const near2 = halfStep(ax - cx, ay - cy);
    const inside = (x: number, y: number): boolean =>
      det !== 0 &&
      flip * ((bx - ax) * (y - ay) - (x - ax) * (by - ay)) >= -1e-9 &&
      flip * ((cx - bx) * (y - by) - (x - bx) * (cy - by)) >= -1e-9 &&
      flip * ((ax - cx) * (y - cy) - (x - cx) * (ay - cy)) >= -1e-9;
    const sampled = tile.perTriangle[li] > 1 && subCount > 0;
    for (let y = y0; y <= y1; y++)
      for (let x = x0; x <= x1; x++) {
        const i = y * TILE + x;
        const px = tx + x + 0.5;
        const py = ty + y + 0.5;
        const e0 = flip * ((bx - ax) * (py - ay) - (px - ax) * (by - ay));
        const e1 = flip * ((cx - bx) * (py - by) - (px - bx) * (cy - by));
        const e2 = flip * ((ax - cx) * (py - cy) - (px - cx) * (ay - cy));
        const all = det !== 0 && e0 > near0 && e1 > near1 && e2 > near2;
        if (all || inside(px, py)) {
          if (centre[i] < 0) centre[i] = li;
        } else if (centre[i] < 0) {
          const d = nearestOnTriangle(place, o, px, py, bary);
          if (d < nearDistance[i] && (d <= TOUCH * TOUCH || (d < 2 && isBlended(place, o, bary, px, py)))) {
            nearDistance[i] = d;
            near[i] = li;
          }
        }
        if (!sampled || e0 < -near0 || e1 < -near1 || e2 < -near2) continue;
        if (all && !touched[i]) whole[i] = li;
        touched[i] = 1;
        for (let s = i * subCount, k = 0; k < subCount; s++, k++) {
          if (sub[s] >= 0) continue;
          if (all) sub[s] = li;
          else {
            const sx = tx + x + ((k % grid) + 0.5) / grid;
            const sy = ty + y + (Math.floor(k / grid) + 0.5) / grid;
            if (inside(sx, sy)) sub[s] = li;
          }
        }
      }
  }
}

/** The texels of a tile in which a triangle may lie, and one more around; both ends count. @param o where its corners begin in `place` */
export function texelBox(place: Float64Array, o: number, tile: Pick<Tile, 'x' | 'y' | 'width' | 'height'>) {
  const ax = place[o];
  const ay = place[o + 1];
  const bx = place[o + 2];
  const by = place[o + 3];
  const cx = place[o + 4];
  const cy = place[o + 5];
  return {
    x0: Math.max(0, Math.floor(Math.min(ax, bx, cx) - 1) - tile.x),
    x1: Math.min(tile.width - 1, Math.ceil(Math.max(ax, bx, cx) + 1) - tile.x),
    y0: Math.max(0, Math.floor(Math.min(ay, by, cy) - 1) - tile.y),
    y1: Math.min(tile.height - 1, Math.ceil(Math.max(ay, by, cy) + 1) - tile.y),
  };
}

/** Samples of each texel of a tile in `TileCover.sub`. */
export const subSamples = ({ grid }: Tile): number => (grid > 1 ? grid * grid : 0);

/** Half the change of an edge's function over one texel, plus what rounding may take. */
const halfStep = (dx: number, dy: number): number => (Math.abs(dx) + Math.abs(dy)) * 0.5 + 1e-6;

/** Whether a texel with its middle at (x, y) is blended in at the nearest point of a triangle: less than a texel away along both axes. */
function isBlended(place: Float64Array, o: number, bary: Float64Array, x: number, y: number): boolean {
  const nx = bary[0] * place[o] + bary[1] * place[o + 2] + bary[2] * place[o + 4];
  const ny = bary[0] * place[o + 1] + bary[1] * place[o + 3] + bary[2] * place[o + 5];
  return Math.abs(nx - x) < 1 && Math.abs(ny - y) < 1;
}
