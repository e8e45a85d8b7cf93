import code from './generated/sample.ts';
import { type LevelHome, type LevelSet, sampleLevels } from './sample.ts';
import { allocateShared, instantiateShared } from './wasm.ts';

/** Places that are read at once. */
export const SAMPLE_BATCH = 1024;
/** Texels whose samples are summed at once. */
export const TEXEL_BATCH = 256;
/** Samples an axis of such a texel at the most. */
const MAX_GRID = 8;
/** Bytes of one batch: coordinates and values of samples, corners and sums of texels, samples of one of them. */
const AREA = SAMPLE_BATCH * 48 + TEXEL_BATCH * 48 + MAX_GRID * MAX_GRID * 48;

/** Coordinates as a function of the place on the sheet: u = u0 + ux · x + uy · y, v alike; x and y in texels. */
export interface Affine {
  u0: number;
  ux: number;
  uy: number;
  v0: number;
  vx: number;
  vy: number;
}

/** Where the room for batches begins behind a level set of so many bytes. */
export const batchesAt = (bytes: number): number => Math.ceil(bytes / 64) * 64;

/**
 * Memory for a level set of so many bytes.
 * @param areas batches that are under way at one time: readers times threads @returns null where no more such memories can be had; the set is read without kernel then
 */
export function levelHome(bytes: number, areas: number): LevelHome | null {
  const at = batchesAt(bytes);
  try {
    return { memory: allocateShared(at + areas * AREA), at, areas };
  } catch {
    return null;
  }
}

/** Which levels are read, how they are blended, and how places outside are. */
type Reading = [
  first: number,
  width: number,
  height: number,
  second: number,
  width2: number,
  height2: number,
  blend: number,
  wrapS: number,
  wrapT: number,
  nearest: number,
  weighted: number,
];

interface Exports {
  sample(...args: [count: number, uv: number, out: number, ...reading: Reading]): void;
  sums(
    ...args: [
      count: number,
      corners: number,
      out: number,
      work: number,
      n: number,
      u0: number,
      ux: number,
      uy: number,
      v0: number,
      vx: number,
      vy: number,
      ...reading: Reading,
    ]
  ): void;
}

/** Reads one texture at up to `SAMPLE_BATCH` places at a time, with the kernel where the set has a home; the values are those of `sampleLevels` to the bit. */
export class LevelSampler {
  /** u v of each place, 1 being the whole texture. */
  readonly uv: Float64Array;
  /** R G B A of each. */
  readonly values: Float64Array;
  /** x y of the corner of each texel that is summed, and R G B A of the sum. */
  readonly corners: Float64Array;
  readonly sums: Float64Array;
  private readonly kernel: Exports | null = null;
  private readonly uvAt: number = 0;
  private readonly valuesAt: number = 0;
  private readonly cornersAt: number = 0;
  private readonly texel = new Float64Array(7);

  /** @param area that nobody else uses, 0 … areas − 1 */
  constructor(
    private readonly set: LevelSet,
    area: number,
  ) {
    const { home } = set;
    if (!home || area >= home.areas) {
      this.uv = new Float64Array(SAMPLE_BATCH * 2);
      this.values = new Float64Array(SAMPLE_BATCH * 4);
      this.corners = new Float64Array(TEXEL_BATCH * 2);
      this.sums = new Float64Array(TEXEL_BATCH * 4);
      return;
    }
    this.uvAt = home.at + area * AREA;
    this.valuesAt = this.uvAt + SAMPLE_BATCH * 16;
    this.uv = new Float64Array(home.memory.buffer, this.uvAt, SAMPLE_BATCH * 2);
    this.values = new Float64Array(home.memory.buffer, this.valuesAt, SAMPLE_BATCH * 4);
    const corners = this.valuesAt + SAMPLE_BATCH * 32;
    this.cornersAt = corners;
    this.corners = new Float64Array(home.memory.buffer, corners, TEXEL_BATCH * 2);
    this.sums = new Float64Array(home.memory.buffer, corners + TEXEL_BATCH * 16, TEXEL_BATCH * 4);
    this.kernel = instantiateShared<Exports>(code, home.memory);
  }

  /** Reads places `from` to `to`, all at one level of detail; see `sampleLevels`. */
  read(from: number, to: number, lod: number, wrapS: number, wrapT: number, nearest: boolean): void {
    const { set, kernel, uv, values, texel } = this;
    if (!kernel) {
      for (let i = from; i < to; i++) {
        sampleLevels(set, uv[i * 2], uv[i * 2 + 1], lod, wrapS, wrapT, nearest, texel);
        for (let k = 0; k < 4; k++) values[i * 4 + k] = texel[k];
      }
      return;
    }
    kernel.sample(
      to - from,
      this.uvAt + from * 16,
      this.valuesAt + from * 32,
      ...this.reading(lod, wrapS, wrapT, nearest),
    );
  }

  /**
   * Sums n × n samples of each of the texels `from` to `to`, whose corners lie in `corners`.
   * @param n samples an axis, at most `MAX_GRID`
   */
  sum(
    from: number,
    to: number,
    n: number,
    at: Affine,
    lod: number,
    wrapS: number,
    wrapT: number,
    nearest: boolean,
  ): void {
    const { set, kernel, corners, sums, texel } = this;
    const { u0, ux, uy, v0, vx, vy } = at;
    if (!kernel) {
      for (let i = from; i < to; i++) {
        sums.fill(0, i * 4, i * 4 + 4);
        for (let j = 0; j < n; j++)
          for (let k = 0; k < n; k++) {
            const x = corners[i * 2] + (k + 0.5) / n;
            const y = corners[i * 2 + 1] + (j + 0.5) / n;
            sampleLevels(set, u0 + ux * x + uy * y, v0 + vx * x + vy * y, lod, wrapS, wrapT, nearest, texel);
            for (let c = 0; c < 4; c++) sums[i * 4 + c] += texel[c];
          }
      }
      return;
    }
    const first = this.cornersAt;
    kernel.sums(
      to - from,
      first + from * 16,
      first + TEXEL_BATCH * 16 + from * 32,
      first + TEXEL_BATCH * 48,
      n,
      u0,
      ux,
      uy,
      v0,
      vx,
      vy,
      ...this.reading(lod, wrapS, wrapT, nearest),
    );
  }

  private reading(lod: number, wrapS: number, wrapT: number, nearest: boolean): Reading {
    const { set } = this;
    const top = set.levels - 1;
    const l = lod <= 0 ? 0 : lod >= top ? top : lod;
    let first = Math.floor(l);
    const blend = l - first;
    if (nearest && blend >= 0.5) first++;
    const two = !nearest && blend > 0;
    const start = set.data.byteOffset;
    const side = (n: number, level: number) => Math.max(1, n >> level);
    return [
      start + set.offsets[first] * 4,
      side(set.width, first),
      side(set.height, first),
      two ? start + set.offsets[first + 1] * 4 : 0,
      side(set.width, first + 1),
      side(set.height, first + 1),
      blend,
      wrapS,
      wrapT,
      nearest ? 1 : 0,
      set.alphaWeighted ? 1 : 0,
    ];
  }
}
