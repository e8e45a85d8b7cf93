import { TILE, texelBox } from '../../bake/tile-cover.ts';
import { barycentrics, nearestOnTriangle, TOUCH } from '../../math/barycentrics.ts';

/** A rectangle of texels and, for each sample in them, the triangle that covers it. */
export interface TileFrame {
  x: number;
  y: number;
  width: number;
  height: number;
}

/** The texels of a tile. */
export function tileFrame(tile: number, width: number, height: number): TileFrame {
  const across = Math.ceil(width / TILE);
  const x = (tile % across) * TILE;
  const y = Math.floor(tile / across) * TILE;
  return { x, y, width: Math.min(TILE, width - x), height: Math.min(TILE, height - y) };
}

/** Finds the samples of a tile; one object a worker. Samples lie on a regular grid in each texel. */
export class TileSamples {
  /** Samples found, texel by texel; `texel` is y · TILE + x within the tile. */
  count = 0;
  texel = new Uint16Array(0);
  triangle = new Int32Array(0);
  /** Place on the sheet, px, and which of the texel's samples it is (−1: the island's nearest point). */
  x = new Float64Array(0);
  y = new Float64Array(0);
  sub = new Int16Array(0);
  /** Weights of the triangle's second and third corner. */
  b1 = new Float64Array(0);
  b2 = new Float64Array(0);
  /** Triangle at each texel's centre or touching it, −1 where there is none; and texels that a second triangle covers. */
  readonly owner = new Int32Array(TILE * TILE);
  readonly clash = new Uint8Array(TILE * TILE);
  private covering = new Int32Array(0);
  private per = 1;
  private readonly near = new Float64Array(TILE * TILE);
  private readonly bary = new Float64Array(3);

  /**
   * @param place x y of each corner, px @param list triangles of the tile @param grid samples an axis
   * A texel of which no sample is inside, but which an island touches, gets one sample: the island's nearest point.
   */
  find(place: Float64Array, list: Uint32Array, frame: TileFrame, grid: number): void {
    const per = grid * grid;
    const room = TILE * TILE * per;
    if (this.covering.length < room) {
      this.covering = new Int32Array(room);
      this.x = new Float64Array(room);
      this.y = new Float64Array(room);
      this.sub = new Int16Array(room);
      this.texel = new Uint16Array(room);
      this.triangle = new Int32Array(room);
      this.b1 = new Float64Array(room);
      this.b2 = new Float64Array(room);
    }
    this.per = per;
    const { covering, owner, clash, near, bary } = this;
    covering.fill(-1, 0, room);
    owner.fill(-1);
    clash.fill(0);
    near.fill(Infinity);
    const inner = new Uint8Array(TILE * TILE);
    for (const t of list) {
      const o = t * 6;
      const ax = place[o];
      const ay = place[o + 1];
      const bx = place[o + 2];
      const by = place[o + 3];
      const cx = place[o + 4];
      const cy = place[o + 5];
      const det = (bx - ax) * (cy - ay) - (cx - ax) * (by - ay);
      const { x0, x1, y0, y1 } = texelBox(place, o, frame);
      const flip = det < 0 ? -1 : 1;
      const inside = (x: number, y: number): boolean =>
        det !== 0 &&
        flip * ((bx - ax) * (y - ay) - (x - ax) * (by - ay)) >= -1e-9 &&
        flip * ((cx - bx) * (y - by) - (x - bx) * (cy - by)) >= -1e-9 &&
        flip * ((ax - cx) * (y - cy) - (x - cx) * (ay - cy)) >= -1e-9;
      for (let y = y0; y <= y1; y++)
        for (let x = x0; x <= x1; x++) {
          const i = y * TILE + x;
          const px = frame.x + x + 0.5;
          const py = frame.y + y + 0.5;
          if (inside(px, py)) {
            const d = edgeDistance(place, o, px, py);
            if (inner[i] === 0) {
              owner[i] = t;
              inner[i] = d > 0.01 ? 2 : 1;
            } else if (inner[i] === 2 && d > 0.01) clash[i] = 1;
          } else if (inner[i] === 0) {
            const d = nearestOnTriangle(place, o, px, py, bary);
            if (d <= TOUCH * TOUCH && d < near[i]) {
              near[i] = d;
              owner[i] = t;
            }
          }
          for (let s = 0; s < per; s++) {
            if (covering[i * per + s] >= 0) continue;
            const sx = frame.x + x + ((s % grid) + 0.5) / grid;
            const sy = frame.y + y + (Math.floor(s / grid) + 0.5) / grid;
            if (inside(sx, sy)) covering[i * per + s] = t;
          }
        }
    }
    this.count = 0;
    for (let y = 0; y < frame.height; y++)
      for (let x = 0; x < frame.width; x++) {
        const i = y * TILE + x;
        const before = this.count;
        for (let s = 0; s < per; s++) {
          const t = covering[i * per + s];
          if (t < 0) continue;
          const sx = frame.x + x + ((s % grid) + 0.5) / grid;
          const sy = frame.y + y + (Math.floor(s / grid) + 0.5) / grid;
          barycentrics(place, t * 6, sx, sy, bary);
          this.put(i, t, sx, sy, s);
        }
        if (this.count === before && owner[i] >= 0) {
          const sx = frame.x + x + 0.5;
          const sy = frame.y + y + 0.5;
          nearestOnTriangle(place, owner[i] * 6, sx, sy, bary);
          this.put(i, owner[i], sx, sy, -1);
        }
      }
  }

  /** Triangle at one of a texel's samples (−1: at its centre, or touching it); −1 when there is none. */
  triangleAt(texel: number, sub: number): number {
    const t = sub < 0 ? -1 : this.covering[texel * this.per + sub];
    return t < 0 ? this.owner[texel] : t;
  }

  private put(texel: number, triangle: number, x: number, y: number, sub: number): void {
    const n = this.count++;
    this.x[n] = x;
    this.y[n] = y;
    this.sub[n] = sub;
    this.texel[n] = texel;
    this.triangle[n] = triangle;
    this.b1[n] = this.bary[1];
    this.b2[n] = this.bary[2];
  }
}

/** Distance from a point inside a triangle to the nearest of its edges, px. */
function edgeDistance(p: Float64Array, o: number, x: number, y: number): number {
  let best = Infinity;
  for (let k = 0; k < 3; k++) {
    const i = o + k * 2;
    const j = o + (k === 2 ? 0 : k * 2 + 2);
    const dx = p[j] - p[i];
    const dy = p[j + 1] - p[i + 1];
    const l = Math.sqrt(dx * dx + dy * dy);
    best = Math.min(best, l > 0 ? Math.abs(dx * (y - p[i + 1]) - (x - p[i]) * dy) / l : 0);
  }
  return best;
}
