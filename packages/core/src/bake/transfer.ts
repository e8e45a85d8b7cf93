import { type LevelSet, sampleLevels } from '@wembrel/kernels/sample';
import { encodeByte, unitByte } from '../image/srgb.ts';
import type { ImageChannel, MaterialLook, TextureUse } from '../scene/material.ts';
import type { BakeTriangles } from './triangles.ts';

/**
 * Materials → sheet: for every texel that an island covers, look up the source materials and write all maps of the sheet.
 * Method: reference, "Materials → sheet (transfer)".
 */

/** The maps of a sheet in shared memory, three or four bytes a texel; `owner` is plot id + 1 (see `BEYOND`), 0 where there is no island. */
export interface SheetMaps {
  width: number;
  height: number;
  /** R G B A, sRGB colour. */
  baseColor: Uint8Array;
  /** Occlusion, roughness, metallic. */
  orm: Uint8Array;
  normal: Uint8Array | null;
  /** sRGB, times `emissiveStrength`. */
  emissive: Uint8Array | null;
  emissiveStrength: number;
  owner: Uint32Array;
}

export interface TransferInput {
  look: MaterialLook;
  textures: Partial<Record<ImageChannel, LevelSet>>;
  triangles: BakeTriangles;
  maps: SheetMaps;
  /** Samples per texel in all where the source is minified. */
  samples: number;
}

/** Side of the square of texels that one worker takes at a time. */
export const TILE = 64;

/** Texels in whose squares a triangle may lie: centre within half a diagonal. */
export const TOUCH = Math.SQRT1_2;

/** Finest sampling per axis when minifying; beyond it mips take over. */
const MAX_PER_AXIS = 8;

/** Lists, for each tile of the sheet, the triangles that may cover some of its texels. */
export function binTriangles(
  triangles: Pick<BakeTriangles, 'place' | 'count'>,
  width: number,
  height: number,
): Map<number, Uint32Array> {
  const across = Math.ceil(width / TILE);
  const down = Math.ceil(height / TILE);
  const lists = new Map<number, number[]>();
  const { place } = triangles;
  for (let t = 0; t < triangles.count; t++) {
    const o = t * 6;
    const clampTile = (v: number, tiles: number) => Math.max(0, Math.min(tiles - 1, Math.floor(v / TILE)));
    const x0 = clampTile(Math.min(place[o], place[o + 2], place[o + 4]) - 1, across);
    const x1 = clampTile(Math.max(place[o], place[o + 2], place[o + 4]) + 1, across);
    const y0 = clampTile(Math.min(place[o + 1], place[o + 3], place[o + 5]) - 1, down);
    const y1 = clampTile(Math.max(place[o + 1], place[o + 3], place[o + 5]) + 1, down);
    for (let y = y0; y <= y1; y++)
      for (let x = x0; x <= x1; x++) {
        const key = y * across + x;
        const list = lists.get(key);
        if (list) list.push(t);
        else lists.set(key, [t]);
      }
  }
  return new Map([...lists].map(([k, l]) => [k, Uint32Array.from(l)]));
}

interface Channel {
  set: LevelSet;
  use: TextureUse;
  /** Offset of its UV set in `triangles.uv`. */
  base: number;
  /** Level of detail for the present triangle. */
  lod: number;
}

/** Nearest point of a triangle to (x, y): barycentrics into `bary`; returns the squared distance. */
export function nearestOnTriangle(p: Float64Array, o: number, x: number, y: number, bary: Float64Array): number {
  let best = Infinity;
  for (let k = 0; k < 3; k++) {
    const j = k === 2 ? 0 : k + 1;
    const ax = p[o + k * 2];
    const ay = p[o + k * 2 + 1];
    const dx = p[o + j * 2] - ax;
    const dy = p[o + j * 2 + 1] - ay;
    const d = dx * dx + dy * dy;
    let s = d > 0 ? ((x - ax) * dx + (y - ay) * dy) / d : 0;
    s = s < 0 ? 0 : s > 1 ? 1 : s;
    const ex = ax + s * dx - x;
    const ey = ay + s * dy - y;
    const e = ex * ex + ey * ey;
    if (e < best) {
      best = e;
      bary[0] = bary[1] = bary[2] = 0;
      bary[k] = 1 - s;
      bary[j] += s;
    }
  }
  return best;
}

/** Working memory of one worker. */
export class TransferScratch {
  readonly centre = new Int32Array(TILE * TILE);
  readonly near = new Int32Array(TILE * TILE);
  readonly nearDistance = new Float64Array(TILE * TILE);
  sub = new Int32Array(0);
}

/** Bakes one tile of a sheet for one material. Texels of other materials in the tile are left alone. */
export function transferTile(input: TransferInput, tile: number, list: Uint32Array, scratch: TransferScratch): void {
  const { look, triangles, maps } = input;
  const { width, height } = maps;
  const { place } = triangles;
  const across = Math.ceil(width / TILE);
  const tx = (tile % across) * TILE;
  const ty = Math.floor(tile / across) * TILE;
  const w = Math.min(TILE, width - tx);
  const h = Math.min(TILE, height - ty);
  const channels = openChannels(input);
  const setsList = Object.values(channels) as Channel[];
  // The finest grid that any triangle here needs.
  const perTriangle = new Uint8Array(list.length);
  let grid = 1;
  list.forEach((t, i) => {
    let foot = 0;
    for (const c of setsList) foot = Math.max(foot, footprint(triangles, t, c));
    const n = samplesPerAxis(foot, input.samples);
    perTriangle[i] = n;
    if (n > grid) grid = n;
  });
  const { centre, near, nearDistance } = scratch;
  centre.fill(-1);
  near.fill(-1);
  nearDistance.fill(Infinity);
  const subCount = grid > 1 ? grid * grid : 0;
  if (scratch.sub.length < TILE * TILE * subCount) scratch.sub = new Int32Array(TILE * TILE * subCount);
  scratch.sub.fill(-1, 0, TILE * TILE * subCount);
  const bary = new Float64Array(3);

  list.forEach((t, li) => {
    const o = t * 6;
    const ax = place[o];
    const ay = place[o + 1];
    const bx = place[o + 2];
    const by = place[o + 3];
    const cx = place[o + 4];
    const cy = place[o + 5];
    const det = (bx - ax) * (cy - ay) - (cx - ax) * (by - ay);
    const x0 = Math.max(0, Math.floor(Math.min(ax, bx, cx) - 1) - tx);
    const x1 = Math.min(w - 1, Math.ceil(Math.max(ax, bx, cx) + 1) - tx);
    const y0 = Math.max(0, Math.floor(Math.min(ay, by, cy) - 1) - ty);
    const y1 = Math.min(h - 1, Math.ceil(Math.max(ay, by, cy) + 1) - ty);
    const flip = det < 0 ? -1 : 1;
    const inside = (x: number, y: number): boolean =>
      det !== 0 &&
      flip * ((bx - ax) * (y - ay) - (x - ax) * (by - ay)) >= -1e-9 &&
      flip * ((cx - bx) * (y - by) - (x - bx) * (cy - by)) >= -1e-9 &&
      flip * ((ax - cx) * (y - cy) - (x - cx) * (ay - cy)) >= -1e-9;
    for (let y = y0; y <= y1; y++)
      for (let x = x0; x <= x1; x++) {
        const i = y * TILE + x;
        const px = tx + x + 0.5;
        const py = ty + y + 0.5;
        if (inside(px, py)) {
          if (centre[i] < 0) centre[i] = li;
        } else if (centre[i] < 0) {
          const d = nearestOnTriangle(place, o, px, py, bary);
          if (d < nearDistance[i] && d <= TOUCH * TOUCH) {
            nearDistance[i] = d;
            near[i] = li;
          }
        }
        if (perTriangle[li] > 1 && subCount > 0)
          for (let s = 0; s < subCount; s++) {
            if (scratch.sub[i * subCount + s] >= 0) continue;
            const sx = tx + x + ((s % grid) + 0.5) / grid;
            const sy = ty + y + (Math.floor(s / grid) + 0.5) / grid;
            if (inside(sx, sy)) scratch.sub[i * subCount + s] = li;
          }
      }
  });

  const sums = new Float64Array(14);
  const shade = new Shader(input, channels);
  for (let y = 0; y < h; y++)
    for (let x = 0; x < w; x++) {
      const i = y * TILE + x;
      let main = centre[i] >= 0 ? centre[i] : near[i];
      let any = false;
      sums.fill(0);
      if (subCount > 0 && (main < 0 || perTriangle[main] > 1))
        for (let s = 0; s < subCount; s++) {
          const li = scratch.sub[i * subCount + s];
          if (li < 0) continue;
          if (main < 0) main = li;
          const sx = tx + x + ((s % grid) + 0.5) / grid;
          const sy = ty + y + (Math.floor(s / grid) + 0.5) / grid;
          barycentrics(place, list[li] * 6, sx, sy, bary);
          shade.add(list[li], perTriangle[li], bary, sums);
          any = true;
        }
      if (main < 0) continue;
      if (!any) {
        const px = tx + x + 0.5;
        const py = ty + y + 0.5;
        if (centre[i] >= 0) barycentrics(place, list[main] * 6, px, py, bary);
        else nearestOnTriangle(place, list[main] * 6, px, py, bary);
        shade.add(list[main], perTriangle[main], bary, sums);
      }
      write(maps, (ty + y) * width + tx + x, sums, look, triangles.plot[list[main]] + 1);
    }
}

export function barycentrics(p: Float64Array, o: number, x: number, y: number, out: Float64Array): void {
  const ax = p[o];
  const ay = p[o + 1];
  const ux = p[o + 2] - ax;
  const uy = p[o + 3] - ay;
  const vx = p[o + 4] - ax;
  const vy = p[o + 5] - ay;
  const det = ux * vy - vx * uy;
  if (det === 0) {
    nearestOnTriangle(p, o, x, y, out);
    return;
  }
  const b = ((x - ax) * vy - vx * (y - ay)) / det;
  const c = (ux * (y - ay) - (x - ax) * uy) / det;
  out[0] = 1 - b - c;
  out[1] = b;
  out[2] = c;
}

function openChannels(input: TransferInput): Partial<Record<ImageChannel, Channel>> {
  const out: Partial<Record<ImageChannel, Channel>> = {};
  for (const [name, set] of Object.entries(input.textures) as [ImageChannel, LevelSet][]) {
    const use = input.look[name];
    if (!use) continue;
    out[name] = { set, use, base: input.triangles.sets.indexOf(use.uvSet) * input.triangles.count * 6, lod: 0 };
  }
  return out;
}

/** Source texels that one sheet texel spans on the triangle, along the worse axis. */
function footprint(tri: BakeTriangles, t: number, c: Channel): number {
  const { place, uv } = tri;
  const o = t * 6;
  const q = c.base + o;
  const ux = place[o + 2] - place[o];
  const uy = place[o + 3] - place[o + 1];
  const vx = place[o + 4] - place[o];
  const vy = place[o + 5] - place[o + 1];
  const det = ux * vy - vx * uy;
  if (Math.abs(det) < 1e-12) return 0;
  const [a, b, cc, d] = c.use.transform;
  const s = (i: number) => (a * uv[q + i] + cc * uv[q + i + 1]) * c.set.width;
  const r = (i: number) => (b * uv[q + i] + d * uv[q + i + 1]) * c.set.height;
  const s1 = s(2) - s(0);
  const s2 = s(4) - s(0);
  const r1 = r(2) - r(0);
  const r2 = r(4) - r(0);
  const sx = (s1 * vy - s2 * uy) / det;
  const sy = (s2 * ux - s1 * vx) / det;
  const rx = (r1 * vy - r2 * uy) / det;
  const ry = (r2 * ux - r1 * vx) / det;
  // Larger singular value of [[sx, sy], [rx, ry]].
  const e = (sx + ry) / 2;
  const f = (sx - ry) / 2;
  const g = (rx + sy) / 2;
  const h = (rx - sy) / 2;
  return Math.sqrt(e * e + h * h) + Math.sqrt(f * f + g * g);
}

/** One sample where the source is not minified, so that it is copied and not blurred; more where it is. */
function samplesPerAxis(foot: number, samples: number): number {
  if (samples === 1 || foot <= 1.001) return 1;
  return Math.min(MAX_PER_AXIS, Math.max(Math.round(Math.sqrt(samples)), Math.ceil(foot)));
}

/** Layout of the sums: colour × weight 0–2, alpha 3, occlusion roughness metallic 4–6, normal 7–9, emissive 10–12, samples 13. */
class Shader {
  private triangle = -1;
  private perAxis = 0;
  private readonly texel = new Float64Array(7);
  private readonly plain = new Float64Array(4);
  constructor(
    private readonly input: TransferInput,
    private readonly channels: Partial<Record<ImageChannel, Channel>>,
  ) {}

  private read(c: Channel, t: number, bary: Float64Array): Float64Array {
    const { uv } = this.input.triangles;
    const o = c.base + t * 6;
    const u = bary[0] * uv[o] + bary[1] * uv[o + 2] + bary[2] * uv[o + 4];
    const v = bary[0] * uv[o + 1] + bary[1] * uv[o + 3] + bary[2] * uv[o + 5];
    const [a, b, cc, d, e, f] = c.use.transform;
    sampleLevels(
      c.set,
      a * u + cc * v + e,
      b * u + d * v + f,
      c.lod,
      c.use.wrapS,
      c.use.wrapT,
      c.use.nearest,
      this.texel,
    );
    return this.texel;
  }

  /** Adds one sample. `sums[3]` gathers alpha; with alpha modes colour is weighted by it. */
  add(t: number, perAxis: number, bary: Float64Array, sums: Float64Array): void {
    const { look, triangles, maps } = this.input;
    const { channels } = this;
    if (t !== this.triangle || perAxis !== this.perAxis) {
      this.triangle = t;
      this.perAxis = perAxis;
      for (const c of Object.values(channels) as Channel[])
        c.lod = Math.max(0, Math.log2(Math.max(1e-9, footprint(triangles, t, c) / perAxis)));
    }
    const p = this.plain;
    p.set(look.baseColorFactor);
    if (channels.baseColor) {
      const s = this.read(channels.baseColor, t, bary);
      for (let k = 0; k < 4; k++) p[k] *= s[k];
    }
    if (triangles.color) {
      const o = t * 12;
      for (let k = 0; k < 4; k++)
        p[k] *=
          bary[0] * triangles.color[o + k] +
          bary[1] * triangles.color[o + 4 + k] +
          bary[2] * triangles.color[o + 8 + k];
    }
    const alpha = look.alphaMode === 'OPAQUE' ? 1 : Math.min(1, p[3]);
    // A hair of weight keeps the colour of texels that are all clear.
    const weight = alpha + 1e-7;
    sums[0] += p[0] * weight;
    sums[1] += p[1] * weight;
    sums[2] += p[2] * weight;
    sums[3] += alpha;
    sums[13] += 1;
    let occlusion = 1;
    let roughness = look.roughnessFactor;
    let metallic = look.metallicFactor;
    if (channels.occlusion) occlusion = 1 + look.occlusionStrength * (this.read(channels.occlusion, t, bary)[0] - 1);
    if (channels.metallicRoughness) {
      const s = this.read(channels.metallicRoughness, t, bary);
      roughness *= s[1];
      metallic *= s[2];
    }
    sums[4] += occlusion;
    sums[5] += roughness;
    sums[6] += metallic;
    if (maps.normal) this.addNormal(t, bary, sums);
    if (maps.emissive) {
      const e = look.emissiveFactor;
      let r = e[0];
      let g = e[1];
      let b = e[2];
      if (channels.emissive && r + g + b > 0) {
        const s = this.read(channels.emissive, t, bary);
        r *= s[0];
        g *= s[1];
        b *= s[2];
      }
      sums[10] += r;
      sums[11] += g;
      sums[12] += b;
    }
  }

  /** Source tangent frame → object space → target frame. */
  private addNormal(t: number, bary: Float64Array, sums: Float64Array): void {
    const { frames } = this.input.triangles;
    const c = this.channels.normal;
    if (!c || !frames) {
      sums[9] += 1;
      return;
    }
    const s = this.read(c, t, bary);
    const k = this.input.look.normalScale;
    let x = s[0] * k;
    let y = s[1] * k;
    let z = s[2];
    const ls = Math.sqrt(x * x + y * y + z * z) || 1;
    x /= ls;
    y /= ls;
    z /= ls;
    const o = t * 33;
    const mix = (i: number) => bary[0] * frames[o + i] + bary[1] * frames[o + 11 + i] + bary[2] * frames[o + 22 + i];
    let nx = mix(0);
    let ny = mix(1);
    let nz = mix(2);
    const ln = Math.sqrt(nx * nx + ny * ny + nz * nz) || 1;
    nx /= ln;
    ny /= ln;
    nz /= ln;
    // Source frame: tangent as interpolated and normalised, bitangent = normal × tangent · w.
    let sx = mix(3);
    let sy = mix(4);
    let sz = mix(5);
    const l1 = Math.sqrt(sx * sx + sy * sy + sz * sz) || 1;
    sx /= l1;
    sy /= l1;
    sz /= l1;
    const sw = mix(6) < 0 ? -1 : 1;
    const ox = sx * x + (ny * sz - nz * sy) * sw * y + nx * z;
    const oy = sy * x + (nz * sx - nx * sz) * sw * y + ny * z;
    const oz = sz * x + (nx * sy - ny * sx) * sw * y + nz * z;
    let qx = mix(7);
    let qy = mix(8);
    let qz = mix(9);
    const l2 = Math.sqrt(qx * qx + qy * qy + qz * qz) || 1;
    qx /= l2;
    qy /= l2;
    qz /= l2;
    const qw = mix(10) < 0 ? -1 : 1;
    const rx = (ny * qz - nz * qy) * qw;
    const ry = (nz * qx - nx * qz) * qw;
    const rz = (nx * qy - ny * qx) * qw;
    // Solve [q r n] · out = o by Cramer's rule: the frame is not exactly square after interpolation.
    const det = qx * (ry * nz - rz * ny) - rx * (qy * nz - qz * ny) + nx * (qy * rz - qz * ry);
    if (Math.abs(det) < 1e-9) {
      sums[9] += 1;
      return;
    }
    const a = (ox * (ry * nz - rz * ny) - rx * (oy * nz - oz * ny) + nx * (oy * rz - oz * ry)) / det;
    const b = (qx * (oy * nz - oz * ny) - ox * (qy * nz - qz * ny) + nx * (qy * oz - qz * oy)) / det;
    const d = (qx * (ry * oz - rz * oy) - rx * (qy * oz - qz * oy) + ox * (qy * rz - qz * ry)) / det;
    const l = Math.sqrt(a * a + b * b + d * d) || 1;
    sums[7] += a / l;
    sums[8] += b / l;
    sums[9] += d / l;
  }
}

/** Means of the samples to bytes: linear light is averaged first and encoded last. */
function write(maps: SheetMaps, i: number, sums: Float64Array, look: MaterialLook, owner: number): void {
  const n = sums[13];
  const weight = sums[3] + n * 1e-7;
  for (let c = 0; c < 3; c++) {
    maps.baseColor[i * 4 + c] = encodeByte(sums[c] / weight);
    maps.orm[i * 3 + c] = unitByte(sums[4 + c] / n);
  }
  maps.baseColor[i * 4 + 3] = look.alphaMode === 'OPAQUE' ? 255 : unitByte(sums[3] / n);
  if (maps.normal) {
    const l = Math.sqrt(sums[7] ** 2 + sums[8] ** 2 + sums[9] ** 2) || 1;
    for (let c = 0; c < 3; c++) maps.normal[i * 3 + c] = unitByte((sums[7 + c] / l) * 0.5 + 0.5);
  }
  if (maps.emissive)
    for (let c = 0; c < 3; c++) maps.emissive[i * 3 + c] = encodeByte(sums[10 + c] / n / maps.emissiveStrength);
  maps.owner[i] = owner;
}
