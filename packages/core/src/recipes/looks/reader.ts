import { Wrap } from '@wembrel/kernels/sample';
import { LevelSampler } from '@wembrel/kernels/sampler';
import type { BreakUp, Lay, RecipeChannel } from '../../decisions/recipe/look.ts';
import { newPlaces, type Places, type Projection } from '../projection/places.ts';
import { repeatSize } from '../projection/repeat.ts';
import { BATCH, type Samples } from '../samples.ts';
import type { RecipeSurface } from '../surface.ts';
import { courseMove, fromNormal, Lattice, newPieces, toNormal } from './break-up.ts';
import type { LookData, LookPictures } from './look-data.ts';
import { projectionOf } from './projection-of.ts';

/** Values of a look at a sample, in the order of `LookReader.values`. */
export const LOOK_VALUES = 13;
export const AT = { color: 0, occlusion: 3, roughness: 4, metallic: 5, tilt: 6, emissive: 9, height: 12 } as const;

/** Places that are read at once: a multiple of the pieces of a place. */
const CHUNK = Math.floor(BATCH / 3) * 3;

/** A line of a normal map never tilts by more. */
const LEAST_Z = 0.05;

/** Where the pictures are read: up to three taps a place. */
interface Taps {
  count: number;
  per: number;
  place: Uint32Array;
  u: Float64Array;
  v: Float64Array;
  weight: Float64Array;
  /** Cosine and sine by which the picture is turned there. */
  cos: Float64Array;
  sin: Float64Array;
}

/** What is read of a look, and where. */
export interface LookReading {
  look: LookData;
  lay: Lay;
  surface: RecipeSurface;
  /** Level of detail at which each triangle reads a texel of 1 m, see `levelsOfDetail`. */
  lods: Float32Array;
  /** Of the worker. */
  slot: number;
  /** What is written; other values are not read. */
  channels: readonly RecipeChannel[];
  /** Its height is read as well. */
  heights: boolean;
}

/** Pictures without those that nobody asks for; the colour's alpha says where the look is. */
function neededPictures({ pictures }: LookData, channels: readonly RecipeChannel[], heights: boolean): LookPictures {
  const wanted = (channel: RecipeChannel, picture: number) => (channels.includes(channel) ? picture : -1);
  const rough = channels.includes('roughness') || channels.includes('metallic');
  return {
    color: pictures.color,
    occlusion: wanted('occlusion', pictures.occlusion),
    metallicRoughness: rough ? pictures.metallicRoughness : -1,
    normal: wanted('normal', pictures.normal),
    emissive: wanted('emissive', pictures.emissive),
    height: heights ? pictures.height : -1,
  };
}

/** Reads a look as it lies on a surface; one object a line and worker. */
export class LookReader {
  /** How much of the look is there: 0 beside a decal, its alpha within. */
  readonly coverage = new Float32Array(BATCH);
  /** `LOOK_VALUES` a sample; colours linear, tilt in object space: where its normal leans, as a slope. */
  readonly values = new Float32Array(BATCH * LOOK_VALUES);
  private readonly weights = new Float32Array(BATCH);
  private readonly places: Places = newPlaces();
  private readonly taps: Taps = newTaps();
  private readonly pieces = newPieces();
  private readonly look: LookData;
  private readonly lods: Float32Array;
  private readonly pictures: LookPictures;
  private readonly samplers: LevelSampler[];
  private readonly projection: Projection;
  private readonly breakUp: BreakUp | null;
  private readonly lattice: Lattice | null;
  /** m of one repeat. */
  private readonly repeat: readonly [number, number];
  private readonly offset: readonly [number, number];
  private readonly turn: readonly [number, number];
  private readonly wrappedRows: number;
  private readonly one = new Float64Array(LOOK_VALUES + 1);

  constructor({ look, lay, surface, lods, slot, channels, heights }: LookReading) {
    this.look = look;
    this.lods = lods;
    this.pictures = neededPictures(look, channels, heights);
    const aspect = look.size[1] / look.size[0];
    this.samplers = look.sets.map((set) => new LevelSampler(set, slot));
    this.projection = projectionOf(lay, surface, aspect);
    const repeats = lay.by === 'uv' || lay.by === 'box' ? lay : null;
    this.repeat = this.projection.once ?? repeatSize(repeats?.metres ?? look.size[0], aspect, surface.wraps);
    this.offset = repeats?.offset ?? [0, 0];
    const angle = ((repeats?.turn ?? 0) * Math.PI) / 180;
    this.turn = [Math.cos(angle), Math.sin(angle)];
    this.breakUp = repeats?.breakUp ?? null;
    const rounds = surface.wraps
      ? ([surface.wraps[0] / this.repeat[0], surface.wraps[1] / this.repeat[1]] as const)
      : null;
    this.wrappedRows = rounds ? Math.round(rounds[1]) : 0;
    this.lattice = this.breakUp?.by === 'cells' ? new Lattice(this.breakUp.cell, rounds, aspect, texelsOf(look)) : null;
  }

  /** @param alone only `coverage` is needed @param needed nobody asks for samples where it is 0 */
  read(samples: Samples, alone = false, needed: Float32Array | null = null): void {
    const { values, weights, coverage } = this;
    if (!alone) values.fill(0, 0, samples.count * LOOK_VALUES);
    weights.fill(0, 0, samples.count);
    coverage.fill(0, 0, samples.count);
    for (let pass = 0, more = true; more; pass++) {
      more = this.projection.fill(samples, pass, this.places, needed);
      this.makeTaps();
      const step = this.taps.per === 3 ? CHUNK : BATCH;
      for (let from = 0; from < this.taps.count; from += step)
        this.readTaps(samples, from, Math.min(this.taps.count, from + step), alone);
    }
    if (alone) return;
    for (let i = 0; i < samples.count; i++) {
      const w = weights[i];
      if (w <= 0 || w === 1) continue;
      const scale = 1 / w;
      for (let k = i * LOOK_VALUES; k < (i + 1) * LOOK_VALUES; k++) values[k] *= scale;
    }
  }

  /** Places in the picture of all places on the surface. */
  private makeTaps(): void {
    const { places, taps, repeat, offset, turn, breakUp, lattice, look, projection } = this;
    const [cos, sin] = turn;
    const per = lattice ? 3 : 1;
    taps.per = per;
    taps.count = places.count * per;
    if (!lattice && breakUp === null) {
      const [across, down] = [1 / repeat[0], 1 / repeat[1]];
      for (let k = 0; k < places.count; k++) {
        taps.u[k] = (cos * places.s[k] - sin * places.t[k]) * across + offset[0];
        taps.v[k] = (sin * places.s[k] + cos * places.t[k]) * down + offset[1];
      }
      if (projection.over) this.fillPlain(places.count);
      return;
    }
    for (let k = 0; k < places.count; k++) {
      const s = cos * places.s[k] - sin * places.t[k];
      const t = sin * places.s[k] + cos * places.t[k];
      let u = s / repeat[0] + offset[0];
      let v = t / repeat[1] + offset[1];
      if (breakUp?.by === 'courses' && look.courses)
        [u, v] = courseMove(u, v, look.courses, this.wrappedRows, breakUp.seed);
      if (lattice && breakUp) lattice.at(u, v, breakUp.seed, breakUp.turned, this.pieces);
      for (let j = 0; j < per; j++) {
        const n = k * per + j;
        taps.place[n] = k;
        taps.u[n] = lattice ? u + this.pieces.du[j] : u;
        taps.v[n] = lattice ? v + this.pieces.dv[j] : v;
        taps.weight[n] = lattice ? this.pieces.weight[j] : 1;
        taps.cos[n] = lattice ? cos * this.pieces.cos[j] - sin * this.pieces.sin[j] : cos;
        taps.sin[n] = lattice ? sin * this.pieces.cos[j] + cos * this.pieces.sin[j] : sin;
      }
    }
  }

  /** What `add` reads of places of one tap. */
  private fillPlain(count: number): void {
    const { taps, turn } = this;
    for (let k = 0; k < count; k++) {
      taps.place[k] = k;
      taps.weight[k] = 1;
      taps.cos[k] = turn[0];
      taps.sin[k] = turn[1];
    }
  }

  private readTaps(samples: Samples, from: number, to: number, alone: boolean): void {
    const { taps, look, samplers, projection } = this;
    const wrap = projection.once ? Wrap.clamp : Wrap.repeat;
    let filled: LevelSampler | null = null;
    samplers.forEach((sampler, k) => {
      if (!this.isRead(k, alone)) return;
      if (filled) sampler.uv.set(filled.uv.subarray(0, (to - from) * 2));
      else
        for (let i = from; i < to; i++) {
          sampler.uv[(i - from) * 2] = taps.u[i];
          sampler.uv[(i - from) * 2 + 1] = taps.v[i];
        }
      filled = sampler;
      const texel = Math.log2(this.repeat[0] / look.sets[k].width);
      // Samples are sorted by level, and so are their taps.
      const last = this.levelOf(samples, to - 1);
      for (let first = from; first < to; ) {
        const level = this.levelOf(samples, first);
        let next = level === last ? to : first + 1;
        while (next < to && this.levelOf(samples, next) === level) next++;
        const lod = look.nearest ? 0 : Math.max(0, level - texel);
        sampler.read(first - from, next - from, lod, wrap, wrap, look.nearest);
        first = next;
      }
    });
    if (taps.per === 1 && !projection.over) this.addPlain(from, to, alone);
    else for (let i = from; i < to; i += taps.per) this.add(i, i - from, alone);
  }

  private levelOf({ triangle }: Samples, tap: number): number {
    const place = this.lattice ? Math.floor(tap / 3) : tap;
    return this.lods[triangle[this.places.of[place]]];
  }

  private isRead(picture: number, alone: boolean): boolean {
    const { color, occlusion, metallicRoughness, normal, emissive, height } = this.pictures;
    if (alone) return picture === color;
    return [color, occlusion, metallicRoughness, normal, emissive, height].includes(picture);
  }

  /** Adds places of one tap each: the same as `add`, in one loop. */
  private addPlain(from: number, to: number, alone: boolean): void {
    const { places, look, pictures, samplers, values: sums, weights, coverage } = this;
    const valuesOf = (picture: number) => (picture < 0 ? null : samplers[picture].values);
    const [color, occlusion, rough] = [
      valuesOf(pictures.color),
      valuesOf(pictures.occlusion),
      valuesOf(pictures.metallicRoughness),
    ];
    const [normal, emissive, height] = [
      valuesOf(pictures.normal),
      valuesOf(pictures.emissive),
      valuesOf(pictures.height),
    ];
    const [red, green, blue, alpha] = look.color;
    const [cos, sin] = this.turn;
    for (let k = from; k < to; k++) {
      const i = places.of[k];
      const q = (k - from) * 4;
      const o = i * LOOK_VALUES;
      const w = places.weight[k] * alpha * (color ? color[q + 3] : 1);
      coverage[i] += w;
      weights[i] += w;
      if (alone) continue;
      sums[o] += w * red * (color ? color[q] : 1);
      sums[o + 1] += w * green * (color ? color[q + 1] : 1);
      sums[o + 2] += w * blue * (color ? color[q + 2] : 1);
      sums[o + 3] += w * (occlusion ? 1 + look.occlusionStrength * (occlusion[q] - 1) : look.occlusion);
      sums[o + 4] += w * look.roughness * (rough ? rough[q + 1] : 1);
      sums[o + 5] += w * look.metallic * (rough ? rough[q + 2] : 1);
      if (emissive) for (let c = 0; c < 3; c++) sums[o + 9 + c] += w * look.emissive[c] * emissive[q + c];
      else for (let c = 0; c < 3; c++) sums[o + 9 + c] += w * look.emissive[c];
      sums[o + 12] += w * (height ? height[q] : 0.5);
      if (!normal) continue;
      const z = (w * look.normalScale) / Math.max(LEAST_Z, normal[q + 2]);
      const x = z * (normal[q] * cos - normal[q + 1] * sin);
      const y = z * (normal[q] * sin + normal[q + 1] * cos);
      const f = k * 6;
      sums[o + 6] += x * places.frame[f] + y * places.frame[f + 3];
      sums[o + 7] += x * places.frame[f + 1] + y * places.frame[f + 4];
      sums[o + 8] += x * places.frame[f + 2] + y * places.frame[f + 5];
    }
  }

  /** Adds the place whose taps begin at `tap`; its values begin at `at` in the samplers. */
  private add(tap: number, at: number, alone: boolean): void {
    const { taps, places, one, values: sums, weights, coverage, projection } = this;
    const place = taps.place[tap];
    const i = places.of[place];
    this.mix(tap, at, alone);
    const alpha = one[LOOK_VALUES];
    const o = i * LOOK_VALUES;
    if (projection.over) {
      coverage[i] += (1 - coverage[i]) * alpha;
      weights[i] += (1 - weights[i]) * alpha;
      if (!alone) for (let k = 0; k < LOOK_VALUES; k++) sums[o + k] += (one[k] - sums[o + k]) * alpha;
      return;
    }
    const w = places.weight[place] * alpha;
    coverage[i] += w;
    weights[i] += w;
    if (!alone) for (let k = 0; k < LOOK_VALUES; k++) sums[o + k] += w * one[k];
  }

  /** The values of one place, from its taps, into `one`; alpha last. */
  private mix(tap: number, at: number, alone: boolean): void {
    const { look, one, pictures } = this;
    const color = (c: number) => (pictures.color < 0 ? 1 : this.channel(tap, at, pictures.color, c));
    one[LOOK_VALUES] = look.color[3] * color(3);
    if (alone) return;
    for (let c = 0; c < 3; c++) one[AT.color + c] = look.color[c] * color(c);
    const read = (picture: number, c: number) => (picture < 0 ? 1 : this.channel(tap, at, picture, c));
    one[AT.occlusion] =
      pictures.occlusion < 0 ? look.occlusion : 1 + look.occlusionStrength * (read(pictures.occlusion, 0) - 1);
    one[AT.roughness] = look.roughness * read(pictures.metallicRoughness, 1);
    one[AT.metallic] = look.metallic * read(pictures.metallicRoughness, 2);
    for (let c = 0; c < 3; c++) one[AT.emissive + c] = look.emissive[c] * read(pictures.emissive, c);
    one[AT.height] = pictures.height < 0 ? 0.5 : read(pictures.height, 0);
    this.tilt(tap, at);
  }

  /** One channel of a picture, where repetition is broken up blended without loss of contrast. */
  private channel(tap: number, at: number, picture: number, c: number): number {
    const { taps, look } = this;
    const { values } = this.samplers[picture];
    if (taps.per === 1) return values[at * 4 + c];
    const tables = look.gauss[picture];
    let [sum, squares] = [0, 0];
    for (let j = 0; j < 3; j++) {
      const w = taps.weight[tap + j];
      const v = values[(at + j) * 4 + c];
      sum += w * (tables ? toNormal(tables, c, v) : v);
      squares += w * w;
    }
    return tables ? fromNormal(tables, c, sum / Math.sqrt(squares)) : sum;
  }

  /** Where the look's normal leans, in object space; slopes add up in any order. */
  private tilt(tap: number, at: number): void {
    const { taps, look, one, places } = this;
    const picture = this.pictures.normal;
    one[AT.tilt] = one[AT.tilt + 1] = one[AT.tilt + 2] = 0;
    if (picture < 0) return;
    const { values } = this.samplers[picture];
    let squares = 0;
    for (let j = 0; j < taps.per; j++) {
      const q = (at + j) * 4;
      const w = taps.weight[tap + j];
      squares += w * w;
      const z = Math.max(LEAST_Z, values[q + 2]);
      const x = (w * look.normalScale * values[q]) / z;
      const y = (w * look.normalScale * values[q + 1]) / z;
      const c = taps.cos[tap + j];
      const s = taps.sin[tap + j];
      const f = taps.place[tap] * 6;
      for (let k = 0; k < 3; k++) {
        const right = places.frame[f + k];
        const up = places.frame[f + 3 + k];
        one[AT.tilt + k] += x * (c * right + s * up) + y * (c * up - s * right);
      }
    }
    const keep = 1 / Math.sqrt(squares);
    for (let k = 0; k < 3; k++) one[AT.tilt + k] *= keep;
  }
}

/** Texels of a look's least picture. */
function texelsOf({ sets }: LookData): readonly [number, number] {
  if (sets.length === 0) return [1, 1];
  return [Math.min(...sets.map((set) => set.width)), Math.min(...sets.map((set) => set.height))];
}

function newTaps(): Taps {
  const doubles = () => new Float64Array(BATCH * 3);
  return {
    count: 0,
    per: 1,
    place: new Uint32Array(BATCH * 3),
    u: doubles(),
    v: doubles(),
    weight: doubles(),
    cos: doubles(),
    sin: doubles(),
  };
}
