import { LOOK, RECORD_AT, RECORD_STRIDE, RIG, VIEW_BATCH, type ViewKernel } from '@wembrel/kernels/view-kernel';
import { IMAGE_CHANNELS, type MaterialLook } from '../scene/material.ts';
import { GROUND, lightsToward, SKY } from './lights.ts';
import { MR, NORMAL, OCCLUSION, type OpenDraw, OpenDraws } from './open-draws.ts';
import { facesBack, type Projected } from './project.ts';
import type { TextureTable } from './scene.ts';

/** Shades points with the kernel, those of one draw together; textures are read by their own kernels in between. The reference is `PointShader`. */
export class BatchShader {
  private readonly draws: OpenDraws;
  /** Levels of detail of the records of a batch, five each. */
  private readonly lods = new Float32Array(VIEW_BATCH * 5);
  private readonly starts: Int32Array;

  /** @param drawOf draw of each triangle @param toward unit vector to the eye @param options see `OpenDraws` */
  constructor(
    private readonly kernel: ViewKernel,
    private readonly projected: readonly Projected[],
    private readonly drawOf: Uint32Array,
    textures: TextureTable,
    toward: readonly [number, number, number],
    options: { finest: boolean; reader: number },
  ) {
    this.draws = new OpenDraws(textures, options);
    this.starts = new Int32Array(projected.length + 1);
    kernel.rig.set(toward, RIG.toward);
    kernel.rig.set(GROUND, RIG.ground);
    kernel.rig.set(SKY, RIG.sky);
    lightsToward(toward).forEach(({ to, color, half, fresnel }, i) => {
      kernel.rig.set([...to, ...color, ...half, fresnel], RIG.lights + i * RIG.stride);
    });
  }

  /** Shades the points that were gathered. */
  shade(count: number): void {
    const { drawOf, kernel } = this;
    const { ids, order } = kernel;
    this.sortByDraw(count);
    for (let at = 0; at < count; ) {
      const draw = drawOf[ids[order[at]]];
      let to = at + 1;
      while (to < count && to < at + VIEW_BATCH && drawOf[ids[order[to]]] === draw) to++;
      this.shadeBatch(at, to - at, this.projected[draw]);
      at = to;
    }
  }

  /** Numbers of the points in the order of their draws; those of one draw stay in order. */
  private sortByDraw(count: number): void {
    const { starts, drawOf, kernel } = this;
    const { ids, order } = kernel;
    starts.fill(0);
    for (let i = 0; i < count; i++) starts[drawOf[ids[i]] + 1]++;
    for (let d = 1; d < starts.length; d++) starts[d] += starts[d - 1];
    for (let i = 0; i < count; i++) order[starts[drawOf[ids[i]]]++] = i;
  }

  private shadeBatch(first: number, count: number, projected: Projected): void {
    const { kernel } = this;
    const open = this.draws.of(projected.draw);
    this.fillRecords(first, count, projected, open);
    const read = IMAGE_CHANNELS.map((_, channel) => channelRead(open, channel));
    const channels = read.reduce((mask, channel) => (channel < 0 ? mask : mask | (1 << channel)), 0);
    const uvs = kernel.locate(first, count, channels);
    for (let channel = 0; channel < read.length; channel++)
      if (read[channel] === channel) this.readTexture(open, channel, count, uvs[channel]);
    const { look, tangents, colors } = projected.draw;
    this.fillLook(look, tangents !== null && read[NORMAL] >= 0);
    kernel.shade(first, count, read, colors !== null);
  }

  /** The triangles of a batch; points of one triangle that follow each other share a record. */
  private fillRecords(first: number, count: number, projected: Projected, open: OpenDraw): void {
    const { kernel, lods } = this;
    const { ids, order, recordOf } = kernel;
    let record = -1;
    let last = -1;
    for (let i = 0; i < count; i++) {
      const id = ids[order[first + i]];
      if (id !== last) {
        last = id;
        record++;
        const t = id - projected.first;
        this.fillRecord(record, t, projected, open);
        this.draws.measureLods(open, t, projected.screen);
        for (let channel = 0; channel < 5; channel++) lods[record * 5 + channel] = open.lods[t * 5 + channel];
      }
      recordOf[i] = record;
    }
  }

  private fillRecord(record: number, t: number, projected: Projected, { draw, uvs }: OpenDraw): void {
    const { f64, f32, i32 } = this.kernel.records;
    const [d, f] = [record * RECORD_STRIDE.f64, record * RECORD_STRIDE.f32];
    const { screen } = projected;
    for (let k = 0; k < 9; k++) f64[d + k] = screen[t * 9 + k];
    copy(draw.normals, t * 9, f32, f + RECORD_AT.normals, 9);
    if (draw.tangents) copy(draw.tangents, t * 12, f32, f + RECORD_AT.tangents, 12);
    if (draw.colors) copy(draw.colors, t * 12, f32, f + RECORD_AT.colours, 12);
    for (let channel = 0; channel < 5; channel++) {
      const uv = uvs[channel];
      if (uv) copy(uv, t * 6, f32, f + RECORD_AT.uvs + channel * 6, 6);
    }
    i32[f + RECORD_AT.back] = Number(facesBack(projected, t));
  }

  private readTexture(open: OpenDraw, channel: number, count: number, uv: Float64Array): void {
    const set = open.sets[channel];
    const use = open.uses[channel];
    if (!set || !use) return;
    const { lods } = this;
    const { recordOf } = this.kernel;
    const sampler = this.draws.samplerOf(set, channel);
    sampler.uv.set(uv.subarray(0, count * 2));
    for (let from = 0; from < count; ) {
      const lod = lods[recordOf[from] * 5 + channel];
      let to = from + 1;
      while (to < count && lods[recordOf[to] * 5 + channel] === lod) to++;
      sampler.read(from, to, lod, use.wrapS, use.wrapT, use.nearest);
      from = to;
    }
    this.kernel.valuesOf(channel).set(sampler.values.subarray(0, count * 4));
  }

  private fillLook(look: MaterialLook, tangents: boolean): void {
    const out = this.kernel.look;
    out.set(look.baseColorFactor, LOOK.base);
    out[LOOK.metallic] = look.metallicFactor;
    out[LOOK.roughness] = look.roughnessFactor;
    out[LOOK.normalScale] = look.normalScale;
    out[LOOK.occlusion] = look.occlusionStrength;
    out.set(look.emissiveFactor, LOOK.emissive);
    out[LOOK.blended] = Number(look.alphaMode === 'BLEND');
    out[LOOK.unlit] = Number(look.unlit);
    out[LOOK.tangents] = Number(tangents);
  }
}

/** The channel whose values a channel has: its own, those of roughness and metallic for an occlusion in the same texels, −1 without image. */
function channelRead({ uvs, uses, sets, sharedOrm }: OpenDraw, channel: number): number {
  if (!uvs[channel] || !uses[channel] || !sets[channel]) return -1;
  return channel === OCCLUSION && sharedOrm ? MR : channel;
}

function copy(from: Float32Array, at: number, to: Float32Array, out: number, count: number): void {
  for (let k = 0; k < count; k++) to[out + k] = from[at + k];
}
