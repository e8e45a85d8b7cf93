import { sampleLevels } from '@wembrel/kernels/sample';
import { IMAGE_CHANNELS, type ImageChannel } from '../scene/material.ts';
import type { Draw, TextureTable } from './scene.ts';

/** The fixed light rig: direction to the light, colour. Directions are of unit length. */
const LIGHTS: { to: [number, number, number]; color: [number, number, number] }[] = [
  { to: [0.48, 0.64, 0.6], color: [2.2, 2.1, 1.95] },
  { to: [-0.8, 0.36, 0.48], color: [0.6, 0.7, 0.9] },
  { to: [0, 0.6, -0.8], color: [0.7, 0.65, 0.6] },
];
const SKY: [number, number, number] = [0.42, 0.46, 0.52];
const GROUND: [number, number, number] = [0.2, 0.18, 0.16];

/** What a shaded point gives: unlit colour, alpha, lit colour (all linear). */
export interface Shaded {
  unlit: Float64Array;
  alpha: number;
  lit: Float64Array;
}

/**
 * Shades points of one draw. The projection is orthographic, so the change of UV per pixel is the same all over a triangle
 * and the level of detail follows from it without neighbours.
 */
export class PointShader {
  readonly out: Shaded = { unlit: new Float64Array(3), alpha: 1, lit: new Float64Array(3) };
  private readonly texel = new Float64Array(7);
  private readonly lod: Record<ImageChannel, number> = {
    baseColor: 0,
    metallicRoughness: 0,
    normal: 0,
    occlusion: 0,
    emissive: 0,
  };
  private draw: Draw | null = null;
  private triangle = -1;

  constructor(
    private readonly textures: TextureTable,
    /** Unit vector to the eye. */
    private readonly toward: readonly [number, number, number],
  ) {}

  /** Sets the triangle. `screen` holds x y of its corners in px. */
  begin(draw: Draw, triangle: number, screen: Float64Array, o: number): void {
    if (draw === this.draw && triangle === this.triangle) return;
    if (draw !== this.draw) this.open(draw);
    this.triangle = triangle;
    const at = triangle * 5;
    if (!Number.isNaN(this.lods[at])) {
      for (let k = 0; k < 5; k++) this.lod[IMAGE_CHANNELS[k]] = this.lods[at + k];
      return;
    }
    const ux = screen[o + 3] - screen[o];
    const uy = screen[o + 4] - screen[o + 1];
    const vx = screen[o + 6] - screen[o];
    const vy = screen[o + 7] - screen[o + 1];
    const det = ux * vy - vx * uy;
    for (const channel of IMAGE_CHANNELS) {
      const uv = draw.uvs[channel];
      const set = this.textures.get(draw.textures[channel] ?? '');
      if (!uv || !set || det === 0) {
        this.lod[channel] = 0;
        continue;
      }
      const q = triangle * 6;
      const s1 = (uv[q + 2] - uv[q]) * set.width;
      const s2 = (uv[q + 4] - uv[q]) * set.width;
      const r1 = (uv[q + 3] - uv[q + 1]) * set.height;
      const r2 = (uv[q + 5] - uv[q + 1]) * set.height;
      const sx = (s1 * vy - s2 * uy) / det;
      const sy = (s2 * ux - s1 * vx) / det;
      const rx = (r1 * vy - r2 * uy) / det;
      const ry = (r2 * ux - r1 * vx) / det;
      const e = (sx + ry) / 2;
      const f = (sx - ry) / 2;
      const g = (rx + sy) / 2;
      const h = (rx - sy) / 2;
      const major = Math.sqrt(e * e + h * h) + Math.sqrt(f * f + g * g);
      this.lod[channel] = Math.max(0, Math.log2(Math.max(1e-9, major)));
    }
    for (let k = 0; k < 5; k++) this.lods[at + k] = this.lod[IMAGE_CHANNELS[k]];
  }

  private readonly opened = new Map<Draw, { lods: Float32Array; sharedOrm: boolean }>();
  private lods: Float32Array = new Float32Array(0);
  /** Occlusion is in the same texels as roughness and metallic, as it usually is: one look-up serves both. */
  private sharedOrm = false;

  private open(draw: Draw): void {
    this.draw = draw;
    let known = this.opened.get(draw);
    if (!known) {
      const { occlusion, metallicRoughness } = draw.look;
      known = {
        lods: new Float32Array((draw.positions.length / 9) * 5).fill(Number.NaN),
        sharedOrm:
          occlusion !== null &&
          metallicRoughness !== null &&
          JSON.stringify(occlusion) === JSON.stringify(metallicRoughness),
      };
      this.opened.set(draw, known);
    }
    this.lods = known.lods;
    this.sharedOrm = known.sharedOrm;
  }

  private read(channel: ImageChannel, a: number, b: number, c: number): Float64Array | null {
    const draw = this.draw as Draw;
    const uv = draw.uvs[channel];
    const use = draw.look[channel];
    const set = this.textures.get(draw.textures[channel] ?? '');
    if (!uv || !use || !set) return null;
    const q = this.triangle * 6;
    const u = a * uv[q] + b * uv[q + 2] + c * uv[q + 4];
    const v = a * uv[q + 1] + b * uv[q + 3] + c * uv[q + 5];
    sampleLevels(set, u, v, this.lod[channel], use.wrapS, use.wrapT, use.nearest, this.texel);
    return this.texel;
  }

  /** Alpha alone, for alpha-tested faces. */
  alphaAt(a: number, b: number, c: number): number {
    const draw = this.draw as Draw;
    let alpha = draw.look.baseColorFactor[3] * (this.read('baseColor', a, b, c)?.[3] ?? 1);
    if (draw.colors) {
      const o = this.triangle * 12 + 3;
      alpha *= a * draw.colors[o] + b * draw.colors[o + 4] + c * draw.colors[o + 8];
    }
    return alpha;
  }

  /** Shades the point with barycentrics a b c; `back` when its back faces the eye. */
  shade(a: number, b: number, c: number, back: boolean): Shaded {
    const draw = this.draw as Draw;
    const t = this.triangle;
    const { look } = draw;
    const { unlit, lit } = this.out;
    const base = this.read('baseColor', a, b, c);
    for (let k = 0; k < 3; k++) unlit[k] = look.baseColorFactor[k] * (base ? base[k] : 1);
    let alpha = look.baseColorFactor[3] * (base ? base[3] : 1);
    if (draw.colors) {
      const o = t * 12;
      const mix = (k: number) =>
        a * (draw.colors as Float32Array)[o + k] +
        b * (draw.colors as Float32Array)[o + 4 + k] +
        c * (draw.colors as Float32Array)[o + 8 + k];
      for (let k = 0; k < 3; k++) unlit[k] *= mix(k);
      alpha *= mix(3);
    }
    this.out.alpha = look.alphaMode === 'BLEND' ? Math.min(1, Math.max(0, alpha)) : 1;
    if (look.unlit) {
      lit.set(unlit);
      return this.out;
    }
    const mr = this.read('metallicRoughness', a, b, c);
    const roughness = Math.max(0.08, look.roughnessFactor * (mr ? mr[1] : 1));
    const metallic = look.metallicFactor * (mr ? mr[2] : 1);
    const oc = this.sharedOrm ? mr : this.read('occlusion', a, b, c);
    const occlusion = oc ? 1 + look.occlusionStrength * (oc[0] - 1) : 1;
    const n = this.normal(a, b, c, back);
    const [ex, ey, ez] = this.toward;
    const ne = Math.max(1e-3, n[0] * ex + n[1] * ey + n[2] * ez);
    const a2 = roughness * roughness * roughness * roughness;
    const k = ((roughness + 1) * (roughness + 1)) / 8;
    const up = n[1] * 0.5 + 0.5;
    for (let ch = 0; ch < 3; ch++) lit[ch] = (GROUND[ch] + (SKY[ch] - GROUND[ch]) * up) * occlusion * unlit[ch];
    const ve = ne * (1 - k) + k;
    for (let i = 0; i < LIGHTS.length; i++) {
      const { to, color } = LIGHTS[i];
      const nl = n[0] * to[0] + n[1] * to[1] + n[2] * to[2];
      if (nl <= 0) continue;
      const hx = to[0] + ex;
      const hy = to[1] + ey;
      const hz = to[2] + ez;
      const hl = Math.sqrt(hx * hx + hy * hy + hz * hz) || 1;
      const nh = Math.max(0, (n[0] * hx + n[1] * hy + n[2] * hz) / hl);
      const eh = Math.max(0, (ex * hx + ey * hy + ez * hz) / hl);
      const q = nh * nh * (a2 - 1) + 1;
      const d = a2 / (Math.PI * q * q);
      const g = 1 / ((nl * (1 - k) + k) * ve);
      const one = 1 - eh;
      const fr = one * one * one * one * one;
      for (let ch = 0; ch < 3; ch++) {
        const f0 = 0.04 + (unlit[ch] - 0.04) * metallic;
        const f = f0 + (1 - f0) * fr;
        lit[ch] += color[ch] * nl * (((1 - f) * (1 - metallic) * unlit[ch]) / Math.PI + (f * d * g) / 4);
      }
    }
    const e = look.emissiveFactor;
    if (e[0] + e[1] + e[2] > 0) {
      const em = this.read('emissive', a, b, c);
      for (let ch = 0; ch < 3; ch++) lit[ch] += e[ch] * (em ? em[ch] : 1);
    }
    return this.out;
  }

  private readonly n = new Float64Array(3);

  private normal(a: number, b: number, c: number, back: boolean): Float64Array {
    const draw = this.draw as Draw;
    const o = this.triangle * 9;
    const { normals, tangents } = draw;
    const { n } = this;
    for (let k = 0; k < 3; k++) n[k] = a * normals[o + k] + b * normals[o + 3 + k] + c * normals[o + 6 + k];
    unit(n);
    if (tangents) {
      const s = this.read('normal', a, b, c);
      if (s) {
        const q = this.triangle * 12;
        let tx = a * tangents[q] + b * tangents[q + 4] + c * tangents[q + 8];
        let ty = a * tangents[q + 1] + b * tangents[q + 5] + c * tangents[q + 9];
        let tz = a * tangents[q + 2] + b * tangents[q + 6] + c * tangents[q + 10];
        const tw = a * tangents[q + 3] + b * tangents[q + 7] + c * tangents[q + 11];
        const tl = Math.sqrt(tx * tx + ty * ty + tz * tz) || 1;
        tx /= tl;
        ty /= tl;
        tz /= tl;
        const w = tw < 0 ? -1 : 1;
        const x = s[0] * draw.look.normalScale;
        const y = s[1] * draw.look.normalScale * w;
        const z = s[2];
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
    }
    if (back) for (let k = 0; k < 3; k++) n[k] = -n[k];
    return n;
  }
}

function unit(v: Float64Array): void {
  const l = Math.sqrt(v[0] * v[0] + v[1] * v[1] + v[2] * v[2]) || 1;
  v[0] /= l;
  v[1] /= l;
  v[2] /= l;
}
