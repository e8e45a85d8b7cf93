import { type LevelSet, sampleLevels } from '@wembrel/kernels/sample';
import { IMAGE_CHANNELS, type ImageChannel, type TextureUse } from '../scene/material.ts';
import type { Draw, TextureTable } from './scene.ts';

/** The fixed light rig: direction to the light, colour. Directions are of unit length. */
const LIGHTS: { to: [number, number, number]; color: [number, number, number] }[] = [
  { to: [0.48, 0.64, 0.6], color: [2.2, 2.1, 1.95] },
  { to: [-0.8, 0.36, 0.48], color: [0.6, 0.7, 0.9] },
  { to: [0, 0.6, -0.8], color: [0.7, 0.65, 0.6] },
];
const SKY: [number, number, number] = [0.42, 0.46, 0.52];
const GROUND: [number, number, number] = [0.2, 0.18, 0.16];
/** Numbers of the channels in `IMAGE_CHANNELS`. */
const [BASE, MR, NORMAL, OCCLUSION, EMISSIVE] = (
  ['baseColor', 'metallicRoughness', 'normal', 'occlusion', 'emissive'] as ImageChannel[]
).map((channel) => IMAGE_CHANNELS.indexOf(channel));

/** What a light gives that no surface changes: with an eye at infinity the half vector is the same everywhere. */
interface LightTowardEye {
  to: readonly [number, number, number];
  color: readonly [number, number, number];
  half: readonly [number, number, number];
  /** (1 − eye · half)⁵, the Schlick term. */
  fresnel: number;
}

function lightsToward(e: readonly [number, number, number]): LightTowardEye[] {
  return LIGHTS.map(({ to, color }) => {
    const h = [to[0] + e[0], to[1] + e[1], to[2] + e[2]];
    const l = Math.sqrt(h[0] * h[0] + h[1] * h[1] + h[2] * h[2]) || 1;
    const half = [h[0] / l, h[1] / l, h[2] / l] as const;
    const one = 1 - Math.max(0, e[0] * half[0] + e[1] * half[1] + e[2] * half[2]);
    return { to, color, half, fresnel: one * one * one * one * one };
  });
}

/** The textures and UVs of one draw by number of the channel, and the levels of detail of its triangles once known. */
interface OpenDraw {
  draw: Draw;
  sets: (LevelSet | null)[];
  uvs: (Float32Array | null)[];
  uses: (TextureUse | null)[];
  /** Five a triangle; NaN = not known yet. */
  lods: Float32Array;
  /** Occlusion is in the same texels as roughness and metallic, as it usually is: one look-up serves both. */
  sharedOrm: boolean;
}

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
  private readonly lights: LightTowardEye[];
  private readonly opened = new Map<Draw, OpenDraw>();
  private here!: OpenDraw;
  private triangle = -1;

  constructor(
    private readonly textures: TextureTable,
    /** Unit vector to the eye. */
    private readonly toward: readonly [number, number, number],
    /** Textures are read at their finest level, however small they are drawn. */
    private readonly finest = false,
  ) {
    this.lights = lightsToward(toward);
  }

  /** Sets the triangle. `screen` holds x y of its corners in px. */
  begin(draw: Draw, triangle: number, screen: Float64Array, o: number): void {
    if (draw !== this.here?.draw) this.here = this.open(draw);
    else if (triangle === this.triangle) return;
    this.triangle = triangle;
    const { lods } = this.here;
    if (Number.isNaN(lods[triangle * 5])) this.measureLods(triangle, screen, o);
  }

  private open(draw: Draw): OpenDraw {
    const known = this.opened.get(draw);
    if (known) return known;
    const { occlusion, metallicRoughness } = draw.look;
    const made: OpenDraw = {
      draw,
      sets: IMAGE_CHANNELS.map((channel) => this.textures.get(draw.textures[channel] ?? '') ?? null),
      uvs: IMAGE_CHANNELS.map((channel) => draw.uvs[channel] ?? null),
      uses: IMAGE_CHANNELS.map((channel) => draw.look[channel]),
      lods: new Float32Array((draw.positions.length / 9) * 5).fill(Number.NaN),
      sharedOrm:
        occlusion !== null &&
        metallicRoughness !== null &&
        JSON.stringify(occlusion) === JSON.stringify(metallicRoughness),
    };
    this.opened.set(draw, made);
    return made;
  }

  private measureLods(triangle: number, screen: Float64Array, o: number): void {
    const { lods, uvs, sets } = this.here;
    const ux = screen[o + 3] - screen[o];
    const uy = screen[o + 4] - screen[o + 1];
    const vx = screen[o + 6] - screen[o];
    const vy = screen[o + 7] - screen[o + 1];
    const det = ux * vy - vx * uy;
    for (let channel = 0; channel < 5; channel++) {
      const uv = uvs[channel];
      const set = sets[channel];
      if (!uv || !set || det === 0 || this.finest) {
        lods[triangle * 5 + channel] = 0;
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
      lods[triangle * 5 + channel] = Math.max(0, Math.log2(Math.max(1e-9, major)));
    }
  }

  private read(channel: number, a: number, b: number, c: number): Float64Array | null {
    const { here } = this;
    const uv = here.uvs[channel];
    const use = here.uses[channel];
    const set = here.sets[channel];
    if (!uv || !use || !set) return null;
    const q = this.triangle * 6;
    const u = a * uv[q] + b * uv[q + 2] + c * uv[q + 4];
    const v = a * uv[q + 1] + b * uv[q + 3] + c * uv[q + 5];
    sampleLevels(set, u, v, here.lods[this.triangle * 5 + channel], use.wrapS, use.wrapT, use.nearest, this.texel);
    return this.texel;
  }

  /** Alpha alone, for alpha-tested faces. */
  alphaAt(a: number, b: number, c: number): number {
    const { draw } = this.here;
    const base = this.read(BASE, a, b, c);
    const alpha = draw.look.baseColorFactor[3] * (base ? base[3] : 1);
    return draw.colors ? alpha * mixed(draw.colors, this.triangle * 12 + 3, a, b, c) : alpha;
  }

  /** Shades the point with barycentrics a b c; `back` when its back faces the eye. */
  shade(a: number, b: number, c: number, back: boolean): Shaded {
    const { draw, sharedOrm } = this.here;
    const { look, colors } = draw;
    const { unlit, lit } = this.out;
    const base = this.read(BASE, a, b, c);
    const factor = look.baseColorFactor;
    let r = factor[0];
    let g = factor[1];
    let v = factor[2];
    let alpha = factor[3];
    if (base) {
      r *= base[0];
      g *= base[1];
      v *= base[2];
      alpha *= base[3];
    }
    if (colors) {
      const o = this.triangle * 12;
      r *= mixed(colors, o, a, b, c);
      g *= mixed(colors, o + 1, a, b, c);
      v *= mixed(colors, o + 2, a, b, c);
      alpha *= mixed(colors, o + 3, a, b, c);
    }
    unlit[0] = r;
    unlit[1] = g;
    unlit[2] = v;
    this.out.alpha = look.alphaMode === 'BLEND' ? Math.min(1, Math.max(0, alpha)) : 1;
    if (look.unlit) {
      lit[0] = r;
      lit[1] = g;
      lit[2] = v;
      return this.out;
    }
    const mr = this.read(MR, a, b, c);
    const roughness = Math.max(0.08, look.roughnessFactor * (mr ? mr[1] : 1));
    const metallic = look.metallicFactor * (mr ? mr[2] : 1);
    const oc = sharedOrm ? mr : this.read(OCCLUSION, a, b, c);
    const occlusion = oc ? 1 + look.occlusionStrength * (oc[0] - 1) : 1;
    const n = this.normal(a, b, c, back);
    const [nx, ny, nz] = [n[0], n[1], n[2]];
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
    for (let i = 0; i < this.lights.length; i++) {
      const { to, color, half, fresnel } = this.lights[i];
      const nl = nx * to[0] + ny * to[1] + nz * to[2];
      if (nl <= 0) continue;
      const nh = Math.max(0, nx * half[0] + ny * half[1] + nz * half[2]);
      const q = nh * nh * (a2 - 1) + 1;
      const d = a2 / (Math.PI * q * q);
      const spec = d / ((nl * (1 - k) + k) * ve) / 4;
      const fr = reflected(r, metallic, fresnel);
      const fg = reflected(g, metallic, fresnel);
      const fb = reflected(v, metallic, fresnel);
      lr += color[0] * nl * ((1 - fr) * rough * r + fr * spec);
      lg += color[1] * nl * ((1 - fg) * rough * g + fg * spec);
      lb += color[2] * nl * ((1 - fb) * rough * v + fb * spec);
    }
    const e = look.emissiveFactor;
    if (e[0] + e[1] + e[2] > 0) {
      const em = this.read(EMISSIVE, a, b, c);
      lr += e[0] * (em ? em[0] : 1);
      lg += e[1] * (em ? em[1] : 1);
      lb += e[2] * (em ? em[2] : 1);
    }
    lit[0] = lr;
    lit[1] = lg;
    lit[2] = lb;
    return this.out;
  }

  private readonly n = new Float64Array(3);

  private normal(a: number, b: number, c: number, back: boolean): Float64Array {
    const { draw } = this.here;
    const o = this.triangle * 9;
    const { normals, tangents } = draw;
    const { n } = this;
    n[0] = a * normals[o] + b * normals[o + 3] + c * normals[o + 6];
    n[1] = a * normals[o + 1] + b * normals[o + 4] + c * normals[o + 7];
    n[2] = a * normals[o + 2] + b * normals[o + 5] + c * normals[o + 8];
    unit(n);
    if (tangents) {
      const s = this.read(NORMAL, a, b, c);
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
    if (back) {
      n[0] = -n[0];
      n[1] = -n[1];
      n[2] = -n[2];
    }
    return n;
  }
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
