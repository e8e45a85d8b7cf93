import { TILE } from '../bake/tile-cover.ts';
import type { TileFrame, TileSamples } from '../rays/cast/tile-samples.ts';
import type { RecipeSurface } from './surface.ts';

/** Samples that are evaluated at a time: what the texture kernel reads at once. */
export const BATCH = 1024;

const floats = () => new Float32Array(BATCH);
const doubles = () => new Float64Array(BATCH);

const PLACES = ['px', 'py', 'x', 'y', 'z'] as const;
const VECTORS = ['nx', 'ny', 'nz', 'tx', 'ty', 'tz', 'bx', 'by', 'bz'] as const;

/** Weight of each axis of each sample, where it is known. */
interface BoxShares {
  known: boolean;
  axes: readonly Float32Array[];
}

/** Points of a surface, with all that conditions and looks are evaluated from. Vectors are in object space, lengths in m. */
export class Samples {
  count = 0;
  /** Weights of the sides of a box by how far they are blended: several lines ask for the same ones. */
  readonly boxShares = new Map<number, BoxShares>();
  /** Position in the sheet, and in the list of the tile's samples. */
  readonly texel = new Int32Array(BATCH);
  readonly triangle = new Int32Array(BATCH);
  /** px of the sheet. */
  readonly px = doubles();
  readonly py = doubles();
  readonly x = doubles();
  readonly y = doubles();
  readonly z = doubles();
  /** Unit normal. */
  readonly nx = floats();
  readonly ny = floats();
  readonly nz = floats();
  /** Frame of the baked normal map: tangent, and bitangent towards the top of pictures; both square to the normal. */
  readonly tx = floats();
  readonly ty = floats();
  readonly tz = floats();
  readonly bx = floats();
  readonly by = floats();
  readonly bz = floats();

  /** Takes samples of a tile. @param from, to positions in `found`, or in `order` where there is one */
  load(
    surface: RecipeSurface,
    found: TileSamples,
    frame: TileFrame,
    order: Uint32Array,
    from: number,
    to: number,
  ): void {
    this.count = to - from;
    this.forgetShares();
    for (let i = 0; i < this.count; i++) {
      const s = order[from + i];
      const local = found.texel[s];
      const x = frame.x + (local % TILE);
      const y = frame.y + Math.floor(local / TILE);
      this.texel[i] = y * surface.width + x;
      this.triangle[i] = found.triangle[s];
      this.px[i] = found.x[s];
      this.py[i] = found.y[s];
      this.put(surface, i, found.triangle[s], found.b1[s], found.b2[s]);
    }
  }

  /** Point, normal and frame of sample `i`. @param b, c weights of a triangle's second and third corner */
  put({ positions: p, normals, tangents }: RecipeSurface, i: number, t: number, b: number, c: number): void {
    const a = 1 - b - c;
    const o = t * 9;
    this.x[i] = a * p[o] + b * p[o + 3] + c * p[o + 6];
    this.y[i] = a * p[o + 1] + b * p[o + 4] + c * p[o + 7];
    this.z[i] = a * p[o + 2] + b * p[o + 5] + c * p[o + 8];
    let nx = a * normals[o] + b * normals[o + 3] + c * normals[o + 6];
    let ny = a * normals[o + 1] + b * normals[o + 4] + c * normals[o + 7];
    let nz = a * normals[o + 2] + b * normals[o + 5] + c * normals[o + 8];
    const l = Math.sqrt(nx * nx + ny * ny + nz * nz) || 1;
    nx /= l;
    ny /= l;
    nz /= l;
    const q = t * 12;
    let tx = a * tangents[q] + b * tangents[q + 4] + c * tangents[q + 8];
    let ty = a * tangents[q + 1] + b * tangents[q + 5] + c * tangents[q + 9];
    let tz = a * tangents[q + 2] + b * tangents[q + 6] + c * tangents[q + 10];
    const along = tx * nx + ty * ny + tz * nz;
    tx -= along * nx;
    ty -= along * ny;
    tz -= along * nz;
    const m = Math.sqrt(tx * tx + ty * ty + tz * tz) || 1;
    tx /= m;
    ty /= m;
    tz /= m;
    const sign = tangents[q + 3] < 0 ? -1 : 1;
    this.nx[i] = nx;
    this.ny[i] = ny;
    this.nz[i] = nz;
    this.tx[i] = tx;
    this.ty[i] = ty;
    this.tz[i] = tz;
    this.bx[i] = (ny * tz - nz * ty) * sign;
    this.by[i] = (nz * tx - nx * tz) * sign;
    this.bz[i] = (nx * ty - ny * tx) * sign;
  }

  private forgetShares(): void {
    for (const shares of this.boxShares.values()) shares.known = false;
  }

  /** Adds one of other samples. */
  take(from: Samples, i: number): void {
    const n = this.count++;
    this.forgetShares();
    this.texel[n] = from.texel[i];
    this.triangle[n] = from.triangle[i];
    for (const key of PLACES) this[key][n] = from[key][i];
    for (const key of VECTORS) this[key][n] = from[key][i];
  }

  /**
   * Takes other samples, moved over the plane of their triangle. What lies beyond a triangle's edge is on its plane, and reads the maps beyond it.
   * On a cell it comes in at the opposite edge.
   * @param dx, dy by so many px, of each sample
   */
  moved(from: Samples, { steps, surface }: Plane, dx: ArrayLike<number>, dy: ArrayLike<number>): void {
    const { wraps, width, height } = surface;
    this.count = from.count;
    this.forgetShares();
    this.texel.set(from.texel);
    this.triangle.set(from.triangle);
    for (const key of VECTORS) this[key].set(from[key]);
    for (let i = 0; i < from.count; i++) {
      const o = from.triangle[i] * 6;
      this.px[i] = from.px[i] + dx[i];
      this.py[i] = from.py[i] + dy[i];
      this.x[i] = from.x[i] + dx[i] * steps[o] + dy[i] * steps[o + 3];
      this.y[i] = from.y[i] + dx[i] * steps[o + 1] + dy[i] * steps[o + 4];
      this.z[i] = from.z[i] + dx[i] * steps[o + 2] + dy[i] * steps[o + 5];
      if (!wraps) continue;
      this.px[i] = within(this.px[i], width);
      this.py[i] = within(this.py[i], height);
      this.x[i] = within(this.x[i], wraps[0]);
      this.y[i] = within(this.y[i], wraps[1]);
    }
  }
}

const within = (v: number, period: number): number => v - Math.floor(v / period) * period;

/** Over which samples are moved. */
interface Plane {
  steps: PxSteps;
  surface: RecipeSurface;
}

/** By how much the point of a triangle moves for a px to the right and a px down: x y z each, m. */
export type PxSteps = Float64Array;

export function pxSteps({ place: q, positions: p, count }: RecipeSurface): PxSteps {
  const out = new Float64Array(new SharedArrayBuffer(count * 48));
  for (let t = 0; t < count; t++) {
    const o = t * 6;
    const ux = q[o + 2] - q[o];
    const uy = q[o + 3] - q[o + 1];
    const vx = q[o + 4] - q[o];
    const vy = q[o + 5] - q[o + 1];
    const det = ux * vy - vx * uy;
    if (det === 0) continue;
    for (let k = 0; k < 3; k++) {
      const e = p[t * 9 + 3 + k] - p[t * 9 + k];
      const f = p[t * 9 + 6 + k] - p[t * 9 + k];
      out[o + k] = (e * vy - f * uy) / det;
      out[o + 3 + k] = (f * ux - e * vx) / det;
    }
  }
  return out;
}
