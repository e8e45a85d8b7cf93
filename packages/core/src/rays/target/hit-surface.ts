import { type LevelSet, sampleLevels } from '@wembrel/kernels/sample';
import { encodeByte } from '../../image/srgb.ts';
import type { ImageChannel, TextureUse } from '../../scene/material.ts';
import type { RayMesh } from './ray-mesh.ts';

/** Textures of each source of a mesh, by channel. */
export type SourceTextures = readonly Partial<Record<ImageChannel, LevelSet>>[];

/** Reads a high-poly where a ray has met it; one object a worker. All vectors are in world space. */
export class HitSurface {
  /** Normal of the plane, the smooth normal, and the point. */
  readonly plane = new Float64Array(3);
  readonly normal = new Float64Array(3);
  readonly point = new Float64Array(3);
  readonly color = new Float64Array(4);
  private readonly texel = new Float64Array(7);
  triangle = -1;
  private u = 0;
  private v = 0;

  constructor(
    readonly mesh: RayMesh,
    private readonly textures: SourceTextures,
  ) {}

  /** @param u, v weights of the second and third corner */
  at(triangle: number, u: number, v: number): void {
    const { indices, positions: p, normals, sourceOf, sources } = this.mesh;
    this.triangle = triangle;
    this.u = u;
    this.v = v;
    const w = 1 - u - v;
    const a = indices[triangle * 3] * 3;
    const b = indices[triangle * 3 + 1] * 3;
    const c = indices[triangle * 3 + 2] * 3;
    const ux = p[b] - p[a];
    const uy = p[b + 1] - p[a + 1];
    const uz = p[b + 2] - p[a + 2];
    const vx = p[c] - p[a];
    const vy = p[c + 1] - p[a + 1];
    const vz = p[c + 2] - p[a + 2];
    const { plane, normal, point } = this;
    for (let k = 0; k < 3; k++) point[k] = w * p[a + k] + u * p[b + k] + v * p[c + k];
    plane[0] = uy * vz - uz * vy;
    plane[1] = uz * vx - ux * vz;
    plane[2] = ux * vy - uy * vx;
    unit(plane);
    if (!sources[sourceOf[triangle]].hasNormals) {
      normal.set(plane);
      return;
    }
    for (let k = 0; k < 3; k++) normal[k] = w * normals[a + k] + u * normals[b + k] + v * normals[c + k];
    if (unit(normal) < 1e-9) normal.set(plane);
  }

  /**
   * Turns the plane over when it looks away from where the ray came, since a back face is seen from behind; the smooth normal goes to the plane's side,
   * whichever way the corners run.
   * @param at of the x of the way out
   */
  faceTowards(out: ArrayLike<number>, at: number): void {
    const { plane, normal } = this;
    const turn = (v: Float64Array) => {
      for (let k = 0; k < 3; k++) v[k] = -v[k];
    };
    if (plane[0] * out[at] + plane[1] * out[at + 1] + plane[2] * out[at + 2] < 0) turn(plane);
    if (normal[0] * plane[0] + normal[1] * plane[1] + normal[2] * plane[2] < 0) turn(normal);
  }

  /** Bends the smooth normal by the source's own normal map. */
  addNormalMap(): void {
    const { mesh, normal: n } = this;
    const { tangents } = mesh;
    const s = mesh.sourceOf[this.triangle];
    const use = mesh.sources[s].look.normal;
    const set = this.textures[s]?.normal;
    if (!tangents || !use || !set) return;
    const w = 1 - this.u - this.v;
    const o = this.triangle * 12;
    const mix = (k: number) => w * tangents[o + k] + this.u * tangents[o + 4 + k] + this.v * tangents[o + 8 + k];
    const t = [mix(0), mix(1), mix(2)];
    if (unit(t) < 1e-9) return;
    const sign = mix(3) < 0 ? -1 : 1;
    const r = this.read(use, set);
    const scale = mesh.sources[s].look.normalScale;
    const x = r[0] * scale;
    const y = r[1] * scale * sign;
    const z = r[2];
    const [bx, by, bz] = [n[1] * t[2] - n[2] * t[1], n[2] * t[0] - n[0] * t[2], n[0] * t[1] - n[1] * t[0]];
    n[0] = t[0] * x + bx * y + n[0] * z;
    n[1] = t[1] * x + by * y + n[1] * z;
    n[2] = t[2] * x + bz * y + n[2] * z;
    unit(n);
  }

  private read(use: TextureUse, set: LevelSet): Float64Array {
    const { uvs, indices } = this.mesh;
    const values = uvs[use.uvSet];
    const w = 1 - this.u - this.v;
    const a = indices[this.triangle * 3] * 2;
    const b = indices[this.triangle * 3 + 1] * 2;
    const c = indices[this.triangle * 3 + 2] * 2;
    const s = values ? w * values[a] + this.u * values[b] + this.v * values[c] : 0;
    const t = values ? w * values[a + 1] + this.u * values[b + 1] + this.v * values[c + 1] : 0;
    const [m0, m1, m2, m3, m4, m5] = use.transform;
    sampleLevels(set, m0 * s + m2 * t + m4, m1 * s + m3 * t + m5, 0, use.wrapS, use.wrapT, use.nearest, this.texel);
    return this.texel;
  }

  /** A channel's texel, or null when its material has no picture there. */
  channel(name: ImageChannel): Float64Array | null {
    const s = this.mesh.sourceOf[this.triangle];
    const use = this.mesh.sources[s].look[name];
    const set = this.textures[s]?.[name];
    return use && set ? this.read(use, set) : null;
  }

  /** Vertex colour, linear, into `color`; white where there is none. */
  vertexColor(): Float64Array {
    const { colors, indices } = this.mesh;
    const w = 1 - this.u - this.v;
    for (let k = 0; k < 4; k++)
      this.color[k] = colors
        ? w * colors[indices[this.triangle * 3] * 4 + k] +
          this.u * colors[indices[this.triangle * 3 + 1] * 4 + k] +
          this.v * colors[indices[this.triangle * 3 + 2] * 4 + k]
        : 1;
    return this.color;
  }

  /** Stored colour of the nearest corner, exactly, as R + 256 G + 65536 B. */
  nearestVertexColour(): number {
    const { colors, indices } = this.mesh;
    if (!colors) return 0xffffff;
    const w = 1 - this.u - this.v;
    const k = w >= this.u && w >= this.v ? 0 : this.u >= this.v ? 1 : 2;
    const o = indices[this.triangle * 3 + k] * 4;
    return encodeByte(colors[o]) | (encodeByte(colors[o + 1]) << 8) | (encodeByte(colors[o + 2]) << 16);
  }

  /** Whether a place is cut away by an alpha-tested material; puts this object there if it has to look. */
  isClear(triangle: number, u: number, v: number): boolean {
    if (this.mesh.sources[this.mesh.sourceOf[triangle]].look.alphaMode !== 'MASK') return false;
    this.at(triangle, u, v);
    return this.opacity() === 0;
  }

  /** Share that is there: 1 for opaque materials, 0 or 1 for alpha-tested ones, alpha for alpha-blended ones. */
  opacity(): number {
    const { look } = this.mesh.sources[this.mesh.sourceOf[this.triangle]];
    if (look.alphaMode === 'OPAQUE') return 1;
    const alpha = look.baseColorFactor[3] * (this.channel('baseColor')?.[3] ?? 1) * this.vertexColor()[3];
    return look.alphaMode === 'MASK' ? Number(alpha >= look.alphaCutoff) : Math.min(1, alpha);
  }
}

/** Brings a vector to length 1. @returns its length before; one of 0 is left alone */
export function unit(v: Float64Array | number[]): number {
  const l = Math.sqrt(v[0] * v[0] + v[1] * v[1] + v[2] * v[2]);
  if (l > 0) {
    v[0] /= l;
    v[1] /= l;
    v[2] /= l;
  }
  return l;
}
