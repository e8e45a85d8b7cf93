import type { LevelSet } from '@wembrel/kernels/sample';
import { LevelSampler } from '@wembrel/kernels/sampler';
import { largerSingularValue } from '../math/singular-value.ts';
import { IMAGE_CHANNELS, type ImageChannel, READERS, type TextureUse } from '../scene/material.ts';
import type { Draw, TextureTable } from './scene.ts';

/** Numbers of the channels in `IMAGE_CHANNELS`. */
export const [BASE, MR, NORMAL, OCCLUSION, EMISSIVE] = (
  ['baseColor', 'metallicRoughness', 'normal', 'occlusion', 'emissive'] as ImageChannel[]
).map((channel) => IMAGE_CHANNELS.indexOf(channel));

/** The textures and UVs of one draw by number of the channel, and the levels of detail of its triangles once known. */
export interface OpenDraw {
  draw: Draw;
  sets: (LevelSet | null)[];
  uvs: (Float32Array | null)[];
  uses: (TextureUse | null)[];
  /** Five a triangle; NaN = not known yet. */
  lods: Float32Array;
  /** Occlusion is in the same texels as roughness and metallic, as it usually is: one look-up serves both. */
  sharedOrm: boolean;
}

/** Draws of one picture as they were opened, and what reads their textures. */
export class OpenDraws {
  private readonly opened = new Map<Draw, OpenDraw>();
  private readonly samplers = new Map<LevelSet, LevelSampler[]>();

  constructor(
    private readonly textures: TextureTable,
    private readonly options: {
      /** Textures are read at their finest level, however small they are drawn. */
      finest: boolean;
      /** Of this worker among those that read the same textures. */
      reader: number;
    },
  ) {}

  of(draw: Draw): OpenDraw {
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

  samplerOf(set: LevelSet, channel: number): LevelSampler {
    const own = this.samplers.get(set) ?? [];
    this.samplers.set(set, own);
    own[channel] ??= new LevelSampler(set, this.options.reader * READERS + channel);
    return own[channel];
  }

  /** Levels of detail of a triangle, once: from how its UVs change by pixel. @param o where it begins on screen */
  measureLods({ lods, uvs, sets }: OpenDraw, triangle: number, screen: Float64Array): void {
    if (!Number.isNaN(lods[triangle * 5])) return;
    const o = triangle * 9;
    const ux = screen[o + 3] - screen[o];
    const uy = screen[o + 4] - screen[o + 1];
    const vx = screen[o + 6] - screen[o];
    const vy = screen[o + 7] - screen[o + 1];
    const det = ux * vy - vx * uy;
    for (let channel = 0; channel < 5; channel++) {
      const uv = uvs[channel];
      const set = sets[channel];
      if (!uv || !set || det === 0 || this.options.finest) {
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
      const major = largerSingularValue(sx, sy, rx, ry);
      lods[triangle * 5 + channel] = Math.max(0, Math.log2(Math.max(1e-9, major)));
    }
  }
}
