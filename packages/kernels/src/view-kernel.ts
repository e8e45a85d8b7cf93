import code from './generated/view.ts';
import { SAMPLE_BATCH } from './sampler.ts';
import { allocate, instantiate, memoryPlan } from './wasm.ts';

/** Rows of pixels of a band, and samples along each axis of a pixel; the loops have them as well. */
export const ROWS = 32;
export const GRID = 4;
/** Points that are shaded at a time, and layers that are laid over pixels at a time. */
const MOST_POINTS = 1 << 16;
const MOST_LAYERS = 1 << 16;
/** Opaque triangles that are covered at once. */
export const COVERED_AT_ONCE = 1024;
/** Points of a batch, which share a draw: as many as a texture is read at in one go. */
export const VIEW_BATCH = SAMPLE_BATCH;
const CHANNELS = 5;
const LIGHTS = 3;

/**
 * A triangle as points are shaded on it, bytes: screen (f64 × 9) at 0, normals (f32 × 9) at 72, tangents (× 12) at 108, colours (× 12) at 156, UVs (× 6 a channel) at
 * 204, and whether its back is seen at 324.
 */
const RECORD = 336;
export const RECORD_AT = { normals: 72 / 4, tangents: 108 / 4, colours: 156 / 4, uvs: 204 / 4, back: 324 / 4 } as const;
/** Numbers (f64 or f32) from one record to the next. */
export const RECORD_STRIDE = { f64: RECORD / 8, f32: RECORD / 4 } as const;

/** Numbers of a material: base colour factor, metallic, roughness, scale of normals, strength of occlusion, emissive factor, then 1 or 0: alpha-blended, unlit, with tangents. */
export const LOOK = {
  base: 0,
  metallic: 4,
  roughness: 5,
  normalScale: 6,
  occlusion: 7,
  emissive: 8,
  blended: 11,
  unlit: 12,
  tangents: 13,
} as const;
const LOOK_LENGTH = 14;

/** Numbers of the light rig: toward the eye, ground, sky, then of each light: direction, colour, half vector, Schlick term. */
export const RIG = { toward: 0, ground: 3, sky: 6, lights: 9, stride: 10 } as const;

interface Exports {
  begin(size: number, top: number, from: number, to: number, depth: number, hits: number): void;
  cover(screen: number, ids: number, count: number): void;
  layer(screen: number, sums: number, touched: number, out: number): number;
  points(ids: number, samples: number, places: number, shaded: number, most: number): void;
  gathered(): number;
  gather(
    ...args: [
      from: number,
      to: number,
      kinds: number,
      layers: number,
      over: number,
      none: number,
      work: number,
      every: number,
    ]
  ): number;
  locate(
    ...args: [
      count: number,
      list: number,
      recordOf: number,
      records: number,
      bary: number,
      uv: number,
      step: number,
      channels: number,
    ]
  ): void;
  shade(
    ...args: [
      count: number,
      list: number,
      recordOf: number,
      records: number,
      bary: number,
      look: number,
      base: number,
      mr: number,
      map: number,
      occlusion: number,
      emissive: number,
      coloured: number,
      rig: number,
      lights: number,
    ]
  ): void;
  encoding(guess: number, thresholds: number): void;
  write(
    ...args: [
      from: number,
      to: number,
      kinds: number,
      layers: number,
      none: number,
      overGrey: number,
      background: number,
      unlit: number,
      lit: number,
      coverage: number,
    ]
  ): void;
}

/** Layers over the pixels of a band; see `ViewKernel.layer`. */
export interface LayerList {
  /** Where those of each pixel of the band's columns begin, and their end. */
  starts: Int32Array;
  /** Of each layer: number of its triangle, samples, and sums of their x and y, px. */
  ids: Int32Array;
  samples: Float64Array;
  x: Float64Array;
  y: Float64Array;
}

/** Memory and loops that draw bands of pictures up to a side; what is done with them stands in `assembly/view.ts`. */
export class ViewKernel {
  private readonly run: Exports;
  private readonly at: Record<
    | 'depth'
    | 'hits'
    | 'sums'
    | 'touched'
    | 'records'
    | 'kinds'
    | 'layers'
    | 'over'
    | 'ids'
    | 'samples'
    | 'places'
    | 'shaded'
    | 'work'
    | 'screen'
    | 'screenIds'
    | 'order'
    | 'recordOf'
    | 'bary'
    | 'uv'
    | 'values'
    | 'look'
    | 'rig'
    | 'guess'
    | 'thresholds'
    | 'unlit'
    | 'lit'
    | 'coverage'
    | 'layerOut',
    number
  >;
  /** Samples of a band: nearness, and the triangle that each shows; −1 for none. */
  readonly depth: Float64Array;
  readonly hits: Int32Array;
  /** Nine numbers of each triangle that is covered next, and its number. */
  readonly screen: Float64Array;
  readonly screenIds: Int32Array;
  /** Layers of one triangle, five numbers each: pixel of the band, samples, and sums of nearness, x and y. */
  readonly layerOut: Float64Array;
  /** Triangle of each gathered point. */
  readonly ids: Int32Array;
  /** Numbers of points in the order in which they are shaded, and of each of a batch its record. */
  readonly order: Int32Array;
  readonly recordOf: Int32Array;
  readonly records: { f64: Float64Array; f32: Float32Array; i32: Int32Array };
  readonly look: Float64Array;
  readonly rig: Float64Array;
  /** Pixels of the band: three bytes each, and how far each is covered. */
  readonly unlit: Uint8Array;
  readonly lit: Uint8Array;
  readonly coverage: Uint8Array;
  private readonly uvs: Float64Array[];
  private readonly values: Float64Array[];
  private readonly layerStarts: Int32Array;
  private readonly over: { i32: Int32Array; f64: Float64Array };

  /**
   * @param size greatest side of a picture, px @param guess, thresholds tables of the encoding of bytes
   * @throws Error where there is not so much memory
   */
  constructor(
    readonly size: number,
    guess: Uint8Array,
    thresholds: Float64Array,
  ) {
    const samples = size * GRID * ROWS * GRID;
    const pixels = size * ROWS;
    const { room, end } = memoryPlan();
    this.at = {
      depth: room(samples * 8),
      hits: room(samples * 4),
      sums: room(pixels * 32),
      touched: room(pixels * 4),
      layerOut: room(pixels * 40),
      kinds: room(pixels),
      layers: room(pixels * 4 + 4),
      over: room(MOST_LAYERS * 32),
      ids: room(MOST_POINTS * 4),
      samples: room(MOST_POINTS * 4),
      places: room(MOST_POINTS * 16),
      shaded: room(MOST_POINTS * 56),
      order: room(MOST_POINTS * 4),
      work: room(512),
      screen: room(COVERED_AT_ONCE * 72),
      screenIds: room(COVERED_AT_ONCE * 4),
      recordOf: room(VIEW_BATCH * 4),
      records: room(VIEW_BATCH * RECORD),
      bary: room(VIEW_BATCH * 24),
      uv: room(CHANNELS * VIEW_BATCH * 16),
      values: room(CHANNELS * VIEW_BATCH * 32),
      look: room(LOOK_LENGTH * 8),
      rig: room((RIG.lights + LIGHTS * RIG.stride) * 8),
      guess: room(guess.length),
      thresholds: room(thresholds.length * 8),
      unlit: room(pixels * 3),
      lit: room(pixels * 3),
      coverage: room(pixels),
    };
    const { at } = this;
    const memory = allocate(end());
    this.depth = new Float64Array(memory, at.depth, samples);
    this.hits = new Int32Array(memory, at.hits, samples);
    this.screen = new Float64Array(memory, at.screen, COVERED_AT_ONCE * 9);
    this.screenIds = new Int32Array(memory, at.screenIds, COVERED_AT_ONCE);
    this.layerOut = new Float64Array(memory, at.layerOut, pixels * 5);
    this.layerStarts = new Int32Array(memory, at.layers, pixels + 1);
    this.over = {
      i32: new Int32Array(memory, at.over, MOST_LAYERS * 8),
      f64: new Float64Array(memory, at.over, MOST_LAYERS * 4),
    };
    this.ids = new Int32Array(memory, at.ids, MOST_POINTS);
    this.order = new Int32Array(memory, at.order, MOST_POINTS);
    this.recordOf = new Int32Array(memory, at.recordOf, VIEW_BATCH);
    this.records = {
      f64: new Float64Array(memory, at.records, (VIEW_BATCH * RECORD) / 8),
      f32: new Float32Array(memory, at.records, (VIEW_BATCH * RECORD) / 4),
      i32: new Int32Array(memory, at.records, (VIEW_BATCH * RECORD) / 4),
    };
    this.look = new Float64Array(memory, at.look, LOOK_LENGTH);
    this.rig = new Float64Array(memory, at.rig, RIG.lights + LIGHTS * RIG.stride);
    this.unlit = new Uint8Array(memory, at.unlit, pixels * 3);
    this.lit = new Uint8Array(memory, at.lit, pixels * 3);
    this.coverage = new Uint8Array(memory, at.coverage, pixels);
    const each = (from: number, bytes: number) =>
      Array.from(
        { length: CHANNELS },
        (_, k) => new Float64Array(memory, from + k * VIEW_BATCH * bytes, (VIEW_BATCH * bytes) / 8),
      );
    this.uvs = each(at.uv, 16);
    this.values = each(at.values, 32);
    new Uint8Array(memory, at.guess, guess.length).set(guess);
    new Float64Array(memory, at.thresholds, thresholds.length).set(thresholds);
    this.run = instantiate<Exports>(code, memory);
    this.run.encoding(at.guess, at.thresholds);
    this.run.points(at.ids, at.samples, at.places, at.shaded, MOST_POINTS);
  }

  /** Begins a band of a picture with nothing on it. @param columns first and last that something may show in @param background byte of what nothing covers */
  begin(size: number, top: number, [from, to]: readonly [number, number], background: number): void {
    for (let row = 0; row < ROWS * GRID; row++) {
      this.depth.fill(-Infinity, (row * size + from) * GRID, (row * size + to + 1) * GRID);
      this.hits.fill(-1, (row * size + from) * GRID, (row * size + to + 1) * GRID);
    }
    for (let row = 0; row < ROWS; row++) {
      const [first, end] = [row * size + from, row * size + to + 1];
      this.unlit.fill(background, first * 3, end * 3);
      this.lit.fill(background, first * 3, end * 3);
      this.coverage.fill(0, first, end);
    }
    this.run.begin(size, top, from, to, this.at.depth, this.at.hits);
  }

  /** Lays the first triangles of `screen` over the samples where they are nearest. */
  cover(count: number): void {
    this.run.cover(this.at.screen, this.at.screenIds, count);
  }

  /** What the first triangle of `screen` shows in each pixel where it is not hidden, into `layerOut`. @returns how many there are */
  layer(): number {
    return this.run.layer(this.at.screen, this.at.sums, this.at.touched, this.at.layerOut);
  }

  /**
   * Gathers the points of as many pixels from one on as there is room for. @param end last pixel of the band's columns and one more @param every each sample by itself
   * @returns points, and the pixel where the next begin @throws Error where a pixel has more layers than there is room for
   */
  gather(from: number, end: number, layers: LayerList | null, every: boolean): { count: number; to: number } {
    const { at } = this;
    const most = layers ? this.loadLayers(layers, from, end) : end;
    const none = layers ? 0 : 1;
    const to = this.run.gather(from, most, at.kinds, at.layers, at.over, none, at.work, every ? 1 : 0);
    if (to === from && from < end) throw new Error('a pixel has more than 65 000 layers of alpha-blended triangles');
    return { count: this.run.gathered(), to };
  }

  /** Layers of as many pixels as there is room for. @returns the first pixel without */
  private loadLayers({ starts, ids, samples, x, y }: LayerList, from: number, end: number): number {
    const base = starts[from];
    let to = from;
    while (to < end && starts[to + 1] - base <= MOST_LAYERS) to++;
    for (let p = from; p <= to; p++) this.layerStarts[p] = starts[p] - base;
    const { i32, f64 } = this.over;
    for (let l = base, k = 0; l < starts[to]; l++, k++) {
      i32[k * 8] = ids[l];
      f64[k * 4 + 1] = samples[l];
      f64[k * 4 + 2] = x[l];
      f64[k * 4 + 3] = y[l];
    }
    return to;
  }

  /** Barycentrics of a batch, and its UVs. @param first where the batch begins in `order` @param channels a bit each @returns UVs by channel, two numbers a point */
  locate(first: number, count: number, channels: number): readonly Float64Array[] {
    const { at } = this;
    const list = at.order + first * 4;
    this.run.locate(count, list, at.recordOf, at.records, at.bary, at.uv, VIEW_BATCH * 16, channels);
    return this.uvs;
  }

  /** Values of a channel, four a point. */
  valuesOf(channel: number): Float64Array {
    return this.values[channel];
  }

  /** Shades a batch. @param read of each channel the one whose values it has, −1 without image @param coloured with vertex colours */
  shade(first: number, count: number, read: readonly number[], coloured: boolean): void {
    const { at } = this;
    const [base, mr, map, occlusion, emissive] = read.map((channel) =>
      channel < 0 ? 0 : at.values + channel * VIEW_BATCH * 32,
    );
    const list = at.order + first * 4;
    const looks = [base, mr, map, occlusion, emissive] as const;
    this.run.shade(count, list, at.recordOf, at.records, at.bary, at.look, ...looks, coloured ? 1 : 0, at.rig, LIGHTS);
  }

  /** Writes pixels from what was gathered and shaded. */
  write(from: number, to: number, hasLayers: boolean, overGrey: boolean, background: number): void {
    const { at } = this;
    const none = hasLayers ? 0 : 1;
    const grey = overGrey ? 1 : 0;
    this.run.write(from, to, at.kinds, at.layers, none, grey, background, at.unlit, at.lit, at.coverage);
  }
}
