import { sampleLevels } from '@wembrel/kernels/sample';
import { SAMPLE_BATCH } from '@wembrel/kernels/sampler';
import { IMAGE_CHANNELS } from '../scene/material.ts';
import { GROUND, type LightTowardEye, lightsToward, SKY } from './lights.ts';
import { BASE, EMISSIVE, MR, NORMAL, OCCLUSION, type OpenDraw, OpenDraws } from './open-draws.ts';
import { facesBack, type Projected, screenArea } from './project.ts';
import type { TextureTable } from './scene.ts';

/** Numbers of a shaded point: unlit colour 0–2, lit colour 3–5, alpha 6; all linear. */
export const SHADED = 7;

/** Points of triangles that are shaded together. */
export class PointList {
  count = 0;
  /** Number of the draw among those that are projected, and of the triangle in it. */
  draw = new Int32Array(4096);
  triangle = new Int32Array(4096);
  /** Place in the picture, px: x y. */
  place = new Float64Array(8192);
  /** Samples that it stands for. */
  samples = new Uint8Array(4096);
  /** `SHADED` numbers of each, once `PointShader.shade` has been there. */
  shaded = new Float64Array(4096 * SHADED);

  /** @param samples that the point stands for, with the sums of their x and y, px */
  add(draw: number, triangle: number, samples: number, sumX: number, sumY: number): void {
    const i = this.count++;
    if (i === this.draw.length) this.grow();
    this.draw[i] = draw;
    this.triangle[i] = triangle;
    this.samples[i] = samples;
    this.place[i * 2] = sumX / samples;
    this.place[i * 2 + 1] = sumY / samples;
  }

  private grow(): void {
    const longer = <T extends Int32Array | Float64Array | Uint8Array>(from: T, to: T): T => {
      to.set(from);
      return to;
    };
    this.draw = longer(this.draw, new Int32Array(this.draw.length * 2));
    this.triangle = longer(this.triangle, new Int32Array(this.triangle.length * 2));
    this.samples = longer(this.samples, new Uint8Array(this.samples.length * 2));
    this.place = longer(this.place, new Float64Array(this.place.length * 2));
    this.shaded = new Float64Array(this.shaded.length * 2);
  }
}

/**
 * Shades points of draws, those of one draw together. The projection is orthographic, so the change of UV per pixel is the same all over a triangle
 * and the level of detail follows from it without neighbours.
 */
export class PointShader {
  private readonly texel = new Float64Array(7);
  private readonly lights: LightTowardEye[];
  private readonly draws: OpenDraws;
  private here!: OpenDraw;
  /** Of the points of a batch: barycentrics, triangle, and whether its back is seen. */
  private readonly bary = new Float64Array(SAMPLE_BATCH * 3);
  private readonly triangle = new Int32Array(SAMPLE_BATCH);
  private readonly back = new Uint8Array(SAMPLE_BATCH);
  /** Values of a batch by channel, four a point; null without texture. */
  private readonly values: (Float64Array | null)[] = [null, null, null, null, null];
  private readonly n = new Float64Array(3);

  /** @param toward unit vector to the eye @param options see `OpenDraws` */
  constructor(
    textures: TextureTable,
    private readonly toward: readonly [number, number, number],
    options: { finest: boolean; reader: number },
  ) {
    this.draws = new OpenDraws(textures, options);
    this.lights = lightsToward(toward);
  }

  /** Shades all points of a list. */
  shade(points: PointList, projected: readonly Projected[]): void {
    const order = byDraw(points, projected.length);
    for (let at = 0; at < points.count; ) {
      const draw = points.draw[order[at]];
      let to = at;
      while (to < points.count && to < at + SAMPLE_BATCH && points.draw[order[to]] === draw) to++;
      this.shadeBatch(points, order.subarray(at, to), projected[draw]);
      at = to;
    }
  }

  private shadeBatch(points: PointList, batch: Int32Array, projected: Projected): void {
    this.here = this.draws.of(projected.draw);
    this.locate(points, batch, projected);
    for (let channel = 0; channel < IMAGE_CHANNELS.length; channel++)
      this.values[channel] = this.read(channel, batch.length);
    for (let i = 0; i < batch.length; i++) this.shadePoint(i, points.shaded, batch[i] * SHADED);
  }

  /** Barycentrics of a batch. */
  private locate({ triangle, place }: PointList, batch: Int32Array, projected: Projected): void {
    const screen = projected.screen;
    const { bary } = this;
    for (let i = 0; i < batch.length; i++) {
      const t = triangle[batch[i]];
      const x = place[batch[i] * 2];
      const y = place[batch[i] * 2 + 1];
      const o = t * 9;
      const det = screenArea(screen, o);
      const b =
        ((x - screen[o]) * (screen[o + 7] - screen[o + 1]) - (screen[o + 6] - screen[o]) * (y - screen[o + 1])) / det;
      const c =
        ((screen[o + 3] - screen[o]) * (y - screen[o + 1]) - (x - screen[o]) * (screen[o + 4] - screen[o + 1])) / det;
      bary[i * 3] = 1 - b - c;
      bary[i * 3 + 1] = b;
      bary[i * 3 + 2] = c;
      this.triangle[i] = t;
      this.back[i] = Number(facesBack(projected, t));
      this.draws.measureLods(this.here, t, screen);
    }
  }

  /** Values of a channel for a batch of points; null without texture. */
  private read(channel: number, count: number): Float64Array | null {
    const { here, bary, triangle } = this;
    const uv = here.uvs[channel];
    const use = here.uses[channel];
    const set = here.sets[channel];
    if (!uv || !use || !set) return null;
    if (channel === OCCLUSION && here.sharedOrm) return this.values[MR];
    const sampler = this.draws.samplerOf(set, channel);
    const places = sampler.uv;
    for (let i = 0; i < count; i++) {
      const q = triangle[i] * 6;
      const a = bary[i * 3];
      const b = bary[i * 3 + 1];
      const c = bary[i * 3 + 2];
      places[i * 2] = a * uv[q] + b * uv[q + 2] + c * uv[q + 4];
      places[i * 2 + 1] = a * uv[q + 1] + b * uv[q + 3] + c * uv[q + 5];
    }
    for (let from = 0; from < count; ) {
      const t = triangle[from];
      let to = from + 1;
      while (to < count && triangle[to] === t) to++;
      sampler.read(from, to, here.lods[t * 5 + channel], use.wrapS, use.wrapT, use.nearest);
      from = to;
    }
    return sampler.values;
  }

  /** Alpha of a point of a triangle, for alpha-tested faces. @param at barycentrics of the point */
  alphaAt({ draw, screen }: Projected, t: number, a: number, b: number, c: number): number {
    const here = this.draws.of(draw);
    this.draws.measureLods(here, t, screen);
    const uv = here.uvs[BASE];
    const use = here.uses[BASE];
    const set = here.sets[BASE];
    let alpha = draw.look.baseColorFactor[3];
    if (uv && use && set) {
      const q = t * 6;
      const u = a * uv[q] + b * uv[q + 2] + c * uv[q + 4];
      const v = a * uv[q + 1] + b * uv[q + 3] + c * uv[q + 5];
      sampleLevels(set, u, v, here.lods[t * 5 + BASE], use.wrapS, use.wrapT, use.nearest, this.texel);
      alpha *= this.texel[3];
    }
    return draw.colors ? alpha * mixed(draw.colors, t * 12 + 3, a, b, c) : alpha;
  }

  /** Shades point `i` of the batch into `out` from `o` on. */
  private shadePoint(i: number, out: Float64Array, o: number): void {
    const { values, bary } = this;
    const { look, colors } = this.here.draw;
    const q = i * 4;
    const base = values[BASE];
    const factor = look.baseColorFactor;
    let r = factor[0];
    let g = factor[1];
    let v = factor[2];
    let alpha = factor[3];
    if (base) {
      r *= base[q];
      g *= base[q + 1];
      v *= base[q + 2];
      alpha *= base[q + 3];
    }
    if (colors) {
      const k = this.triangle[i] * 12;
      const a = bary[i * 3];
      const b = bary[i * 3 + 1];
      const c = bary[i * 3 + 2];
      r *= mixed(colors, k, a, b, c);
      g *= mixed(colors, k + 1, a, b, c);
      v *= mixed(colors, k + 2, a, b, c);
      alpha *= mixed(colors, k + 3, a, b, c);
    }
    out[o] = out[o + 3] = r;
    out[o + 1] = out[o + 4] = g;
    out[o + 2] = out[o + 5] = v;
    out[o + 6] = look.alphaMode === 'BLEND' ? Math.min(1, Math.max(0, alpha)) : 1;
    if (!look.unlit) this.light(i, out, o);
  }

  /** Puts light on point `i`, whose colour stands in `out` from `o` on. */
  private light(i: number, out: Float64Array, o: number): void {
    const { look } = this.here.draw;
    const r = out[o];
    const g = out[o + 1];
    const v = out[o + 2];
    const q = i * 4;
    const mr = this.values[MR];
    const roughness = Math.max(0.08, look.roughnessFactor * (mr ? mr[q + 1] : 1));
    const metallic = look.metallicFactor * (mr ? mr[q + 2] : 1);
    const oc = this.values[OCCLUSION];
    const occlusion = oc ? 1 + look.occlusionStrength * (oc[q] - 1) : 1;
    this.normal(i);
    const nx = this.n[0];
    const ny = this.n[1];
    const nz = this.n[2];
    const [ex, ey, ez] = this.toward;
    const ne = Math.max(1e-3, nx * ex + ny * ey + nz * ez);
    const a2 = roughness * roughness * roughness * roughness;
    const k = ((roughness + 1) * (roughness + 1)) / 8;
    const ve = ne * (1 - k) + k;
    const up = ny * 0.5 + 0.5;
    let lr = (GROUND[0] + (SKY[0] - GROUND[0]) * up) * occlusion * r;
    let lg = (GROUND[1] + (SKY[1] - GROUND[1]) * up) * occlusion * g;
    let lb = (GROUND[2] + (SKY[2] - GROUND[2]) * up) * occlusion * v;
    const rough = (1 - metallic) / Math.PI;
    for (let l = 0; l < this.lights.length; l++) {
      const { to, color, half, fresnel } = this.lights[l];
      const nl = nx * to[0] + ny * to[1] + nz * to[2];
      if (nl <= 0) continue;
      const nh = Math.max(0, nx * half[0] + ny * half[1] + nz * half[2]);
      const p = nh * nh * (a2 - 1) + 1;
      const d = a2 / (Math.PI * p * p);
      const spec = d / ((nl * (1 - k) + k) * ve) / 4;
      const fr = reflected(r, metallic, fresnel);
      const fg = reflected(g, metallic, fresnel);
      const fb = reflected(v, metallic, fresnel);
      lr += color[0] * nl * ((1 - fr) * rough * r + fr * spec);
      lg += color[1] * nl * ((1 - fg) * rough * g + fg * spec);
      lb += color[2] * nl * ((1 - fb) * rough * v + fb * spec);
    }
    const emissiveFactor = look.emissiveFactor;
    if (emissiveFactor[0] + emissiveFactor[1] + emissiveFactor[2] > 0) {
      const em = this.values[EMISSIVE];
      lr += emissiveFactor[0] * (em ? em[q] : 1);
      lg += emissiveFactor[1] * (em ? em[q + 1] : 1);
      lb += emissiveFactor[2] * (em ? em[q + 2] : 1);
    }
    out[o + 3] = lr;
    out[o + 4] = lg;
    out[o + 5] = lb;
  }

  /** The shading normal of point `i`, into `n`. */
  private normal(i: number): void {
    const { normals, tangents, look } = this.here.draw;
    const { n, bary } = this;
    const t = this.triangle[i];
    const a = bary[i * 3];
    const b = bary[i * 3 + 1];
    const c = bary[i * 3 + 2];
    const o = t * 9;
    n[0] = a * normals[o] + b * normals[o + 3] + c * normals[o + 6];
    n[1] = a * normals[o + 1] + b * normals[o + 4] + c * normals[o + 7];
    n[2] = a * normals[o + 2] + b * normals[o + 5] + c * normals[o + 8];
    unit(n);
    const value = this.values[NORMAL];
    if (tangents && value) {
      const k = t * 12;
      let tx = a * tangents[k] + b * tangents[k + 4] + c * tangents[k + 8];
      let ty = a * tangents[k + 1] + b * tangents[k + 5] + c * tangents[k + 9];
      let tz = a * tangents[k + 2] + b * tangents[k + 6] + c * tangents[k + 10];
      const tw = a * tangents[k + 3] + b * tangents[k + 7] + c * tangents[k + 11];
      const tl = Math.sqrt(tx * tx + ty * ty + tz * tz) || 1;
      tx /= tl;
      ty /= tl;
      tz /= tl;
      const w = tw < 0 ? -1 : 1;
      const x = value[i * 4] * look.normalScale;
      const y = value[i * 4 + 1] * look.normalScale * w;
      const z = value[i * 4 + 2];
      const bx = n[1] * tz - n[2] * ty;
      const by = n[2] * tx - n[0] * tz;
      const bz = n[0] * ty - n[1] * tx;
      const nx = tx * x + bx * y + n[0] * z;
      const ny = ty * x + by * y + n[1] * z;
      const nz = tz * x + bz * y + n[2] * z;
      n[0] = nx;
      n[1] = ny;
      n[2] = nz;
      unit(n);
    }
    if (!this.back[i]) return;
    n[0] = -n[0];
    n[1] = -n[1];
    n[2] = -n[2];
  }
}

/** Positions of points in the order of their draws; those of one draw stay in order. */
function byDraw({ draw, count }: PointList, draws: number): Int32Array {
  const start = new Int32Array(draws + 1);
  for (let i = 0; i < count; i++) start[draw[i] + 1]++;
  for (let d = 0; d < draws; d++) start[d + 1] += start[d];
  const out = new Int32Array(count);
  for (let i = 0; i < count; i++) out[start[draw[i]]++] = i;
  return out;
}

function unit(v: Float64Array): void {
  const l = Math.sqrt(v[0] * v[0] + v[1] * v[1] + v[2] * v[2]) || 1;
  v[0] /= l;
  v[1] /= l;
  v[2] /= l;
}

/** Schlick's reflectance of one colour channel. */
function reflected(base: number, metallic: number, fresnel: number): number {
  const f0 = 0.04 + (base - 0.04) * metallic;
  return f0 + (1 - f0) * fresnel;
}

/** A channel of the vertex colour at a point; four channels a corner. */
function mixed(colors: Float32Array, o: number, a: number, b: number, c: number): number {
  return a * colors[o] + b * colors[o + 4] + c * colors[o + 8];
}
