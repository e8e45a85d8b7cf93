import type { SheetMaps } from '../../bake/transfer-input.ts';
import { decodeTable, encodeByte, unitByte } from '../../image/srgb.ts';
import { BATCH, type Samples } from '../samples.ts';
import { reoriented } from './modes.ts';

/**
 * Values of a sample, in this order; colours linear, normals in the frame of the baked normal map: that of the shape, and over it that of the looks that were
 * laid.
 */
export const STATE_VALUES = 16;
export const S = {
  color: 0,
  alpha: 3,
  occlusion: 4,
  roughness: 5,
  metallic: 6,
  shape: 7,
  emissive: 10,
  detail: 13,
} as const;

/** Which groups of values some line has changed: one bit each. */
export const CHANGED = { color: 1, orm: 2, normal: 4, emissive: 8 } as const;

/** The look of samples between two lines. */
export class State {
  readonly values = new Float32Array(BATCH * STATE_VALUES);
  readonly changed = new Uint8Array(BATCH);

  /** Takes what the maps of a sheet hold. */
  load(maps: SheetMaps, { count, texel }: Samples): void {
    const { values, changed } = this;
    const linear = decodeTable(8);
    changed.fill(0, 0, count);
    for (let i = 0; i < count; i++) {
      const o = i * STATE_VALUES;
      const q = texel[i] * 3;
      for (let c = 0; c < 3; c++) {
        values[o + S.color + c] = linear[maps.baseColor[texel[i] * 4 + c]];
        values[o + S.occlusion + c] = maps.orm[q + c] / 255;
        values[o + S.detail + c] = Number(c === 2);
        values[o + S.shape + c] = maps.normal ? maps.normal[q + c] / 127.5 - 1 : Number(c === 2);
        values[o + S.emissive + c] = maps.emissive ? linear[maps.emissive[q + c]] * maps.emissiveStrength : 0;
      }
      values[o + S.alpha] = maps.baseColor[texel[i] * 4 + 3] / 255;
    }
  }
}

/** Sums of the samples of the texels of a tile. */
export class TexelSums {
  private readonly sums: Float64Array;
  private readonly counts: Uint16Array;
  private readonly changed: Uint8Array;
  private readonly bent = new Float64Array(3);

  constructor(texels: number) {
    this.sums = new Float64Array(texels * STATE_VALUES);
    this.counts = new Uint16Array(texels);
    this.changed = new Uint8Array(texels);
  }

  clear(): void {
    this.sums.fill(0);
    this.counts.fill(0);
    this.changed.fill(0);
  }

  /** @param at where sample `i` belongs in the tile */
  add({ values, changed }: State, i: number, at: number): void {
    const [o, q] = [at * STATE_VALUES, i * STATE_VALUES];
    for (let k = 0; k < S.detail; k++) this.sums[o + k] += values[q + k];
    if (changed[i] & CHANGED.normal) {
      const { bent } = this;
      reoriented(values, q + S.shape, values, q + S.detail, bent);
      this.sums[o + S.shape] += bent[0] - values[q + S.shape];
      this.sums[o + S.shape + 1] += bent[1] - values[q + S.shape + 1];
      this.sums[o + S.shape + 2] += bent[2] - values[q + S.shape + 2];
    }
    this.counts[at]++;
    this.changed[at] |= changed[i];
  }

  /** How many samples a texel has. */
  samplesOf(at: number): number {
    return this.counts[at];
  }

  /** Writes a texel's values where some line has changed them; the others keep their bytes. */
  write(maps: SheetMaps, at: number, texel: number): void {
    const n = this.counts[at];
    const bits = this.changed[at];
    if (n === 0 || bits === 0) return;
    const { sums } = this;
    const o = at * STATE_VALUES;
    if (bits & CHANGED.color) {
      for (let c = 0; c < 3; c++) maps.baseColor[texel * 4 + c] = encodeByte(sums[o + S.color + c] / n);
      maps.baseColor[texel * 4 + 3] = unitByte(sums[o + S.alpha] / n);
    }
    if (bits & CHANGED.orm)
      for (let c = 0; c < 3; c++) maps.orm[texel * 3 + c] = unitByte(sums[o + S.occlusion + c] / n);
    if (bits & CHANGED.normal && maps.normal) {
      const x = sums[o + S.shape];
      const y = sums[o + S.shape + 1];
      const z = sums[o + S.shape + 2];
      const half = 0.5 / (Math.sqrt(x * x + y * y + z * z) || 1);
      maps.normal[texel * 3] = unitByte(x * half + 0.5);
      maps.normal[texel * 3 + 1] = unitByte(y * half + 0.5);
      maps.normal[texel * 3 + 2] = unitByte(z * half + 0.5);
    }
    if (bits & CHANGED.emissive && maps.emissive)
      for (let c = 0; c < 3; c++)
        maps.emissive[texel * 3 + c] = encodeByte(sums[o + S.emissive + c] / n / maps.emissiveStrength);
  }
}
