import { readFile } from 'node:fs/promises';
import { channelEncoding } from '@wembrel/core/compare/scene';
import { fitsFile, fitsPattern } from '@wembrel/core/decisions/patterns';
import { type MapName, ReadingDecisions } from '@wembrel/core/decisions/reading';
import type { LookSource, RecipeChannel, StockLook } from '@wembrel/core/decisions/recipe/look';
import type { Recipe } from '@wembrel/core/decisions/recipe/recipe';
import { sentence } from '@wembrel/core/errors';
import type { Encoding } from '@wembrel/core/image/levels';
import type { Raster } from '@wembrel/core/image/raster';
import { linearOf } from '@wembrel/core/image/srgb';
import { surfaceArea, surfaceOf } from '@wembrel/core/mesh/surface';
import { type LookData, NO_PICTURES, PLAIN_LOOK } from '@wembrel/core/recipes/looks/look-data';
import type { FoundLooks } from '@wembrel/core/recipes/prepare';
import { STOCK, STOCK_CHANNELS, STOCK_SIDE } from '@wembrel/core/recipes/stock/stock';
import { IMAGE_CHANNELS, type ImageChannel } from '@wembrel/core/scene/material';
import { type Model, surfaceScale } from '@wembrel/core/scene/model';
import { assignTextures } from '@wembrel/core/survey/assign-textures';
import type { LevelSet } from '@wembrel/kernels/sample';
import { pictureTasks } from '../pictures/picture-tasks.ts';
import type { JobScope } from '../pool/job-scope.ts';
import { decodingLimit } from '../pool/job-scope.ts';
import type { InputFile } from '../read/collect.ts';
import type { Images } from '../read/images.ts';
import { recipeTasks } from './recipe-tasks.ts';

/** Models whose materials are looks, with their pictures. */
export interface LookModels {
  models: readonly Model[];
  images: Images;
}

/** Side by which a look whose true size nobody knows is taken, m. */
const UNKNOWN_SIZE = 1;

/** Looks of a run, each read once. */
export class Looks {
  private readonly known = new Map<string, Promise<LookData>>();
  /** Looks with what breaking up their repetition needs. */
  private readonly broken = new WeakMap<LookData, Promise<LookData>>();

  /** @param pictures files that recipes may name */
  constructor(
    private readonly scope: JobScope,
    private pictures: readonly InputFile[],
    private readonly sources: LookModels | null = null,
  ) {}

  /** The looks of all lines that have one and are on; of those that cannot be read, why. @throws Cancelled */
  async ofRecipe(recipe: Recipe): Promise<FoundLooks> {
    const lines = recipe.lines.flatMap((line, number) =>
      line.off || !('look' in line.what) ? [] : [{ number, what: line.what }],
    );
    const found = await Promise.all(
      lines.map(async ({ number, what: { look, lay } }) => {
        const cells = 'breakUp' in lay && lay.breakUp?.by === 'cells';
        try {
          const read = await this.get(look);
          return [number, cells ? await this.withGauss(read) : read] as const;
        } catch (error) {
          this.scope.checkpoint();
          return [number, sentence(error)] as const;
        }
      }),
    );
    return Object.fromEntries(found);
  }

  /** Goes on with other pictures; looks whose pictures are the same are not read again. */
  setPictures(pictures: readonly InputFile[]): void {
    this.pictures = pictures;
  }

  private get(source: LookSource): Promise<LookData> {
    const files = source.from === 'files' ? this.fitting(source.names).map(({ path }) => path) : [];
    const key = JSON.stringify([source, files]);
    const found = this.known.get(key) ?? this.read(source);
    this.known.set(key, found);
    // What was cancelled, or failed, may be asked for again.
    found.catch(() => this.known.delete(key));
    return found;
  }

  private fitting(names: string): InputFile[] {
    // By whole paths, or by file names alone, wherever they lie.
    return this.pictures.filter(({ name }) => fitsFile(name, names));
  }

  private read(source: LookSource): Promise<LookData> {
    switch (source.from) {
      case 'stock':
        return this.stock(source.look);
      case 'values':
        return Promise.resolve(plainLook(source));
      case 'slot':
        return this.slot(source.slot, source.model);
      case 'files':
        return this.files(source.names);
    }
  }

  /** Filtered form of a picture that the kernel can read in every thread. */
  private levels(raster: Raster, encoding: Encoding, alphaWeighted: boolean): Promise<LevelSet> {
    const readers = this.scope.threads;
    return this.scope.run(pictureTasks.levels, { raster, encoding, alphaWeighted, mips: true, readers, home: null });
  }

  private async stock(name: StockLook): Promise<LookData> {
    const painted = await this.scope.run(recipeTasks.paintStock, { look: name, side: STOCK_SIDE });
    const { metres, courses } = STOCK[name];
    const sets = await Promise.all([
      this.levels(painted.color, 'srgb', true),
      this.levels(painted.orm, 'linear', false),
      this.levels(painted.normal, 'normal', false),
      this.levels(painted.height, 'linear', false),
    ]);
    return {
      ...PLAIN_LOOK,
      name,
      size: [metres, metres],
      sets,
      pictures: { color: 0, occlusion: 1, metallicRoughness: 1, normal: 2, emissive: -1, height: 3 },
      metallic: 1,
      channels: STOCK_CHANNELS,
      courses,
      gauss: sets.map(() => null),
    };
  }

  private async slot(slot: string, model: string): Promise<LookData> {
    if (!this.sources) throw new Error('no model is read whose materials could be taken');
    const { models, images } = this.sources;
    const found = models
      .filter(({ path }) => fitsPattern(path, model) || fitsPattern(path.replace(/^.*\//, ''), model))
      .flatMap((one) => one.slots.map((own, at) => ({ one, own, at })))
      .find(({ own }) => fitsPattern(own.name, slot));
    if (!found) throw new Error(`no slot is called "${slot}"`);
    const { look } = found.own;
    const sets: LevelSet[] = [];
    const pictures = { ...NO_PICTURES };
    const channels: RecipeChannel[] = ['color', 'roughness', 'metallic'];
    if (look.alphaMode !== 'OPAQUE') channels.push('alpha');
    const byKey = new Map<string, number>();
    for (const channel of IMAGE_CHANNELS) {
      const use = look[channel];
      if (!use) continue;
      const key = `${use.image} ${channelEncoding(channel)}`;
      if (!byKey.has(key)) {
        byKey.set(key, sets.length);
        const weighted = channel === 'baseColor' && look.alphaMode !== 'OPAQUE';
        sets.push(await images.levels(use.image, channelEncoding(channel), weighted, true, this.scope.threads));
      }
      pictures[PICTURE_OF[channel]] = byKey.get(key) as number;
      if (channel === 'normal' || channel === 'occlusion') channels.push(channel);
    }
    if (look.emissiveFactor.some((v) => v > 0)) channels.push('emissive');
    const metres = metresOfSlot(found.one, found.at, look.baseColor?.uvSet ?? 0);
    const [picture] = sets;
    return {
      ...PLAIN_LOOK,
      name: found.own.name,
      size: [metres, picture ? (metres * picture.height) / picture.width : metres],
      sets,
      pictures,
      color:
        look.alphaMode === 'OPAQUE'
          ? [...(look.baseColorFactor.slice(0, 3) as [number, number, number]), 1]
          : look.baseColorFactor,
      occlusionStrength: look.occlusionStrength,
      roughness: look.roughnessFactor,
      metallic: look.metallicFactor,
      normalScale: look.normalScale,
      emissive: look.emissiveFactor,
      channels,
      nearest: look.baseColor?.nearest ?? false,
      gauss: sets.map(() => null),
    };
  }

  /** A set of loose textures, told apart by the endings of their names. */
  private async files(names: string): Promise<LookData> {
    const files = this.fitting(names);
    if (files.length === 0) throw new Error(`no picture is called "${names}"`);
    const stems = files.map(({ name }) => name.replace(/^.*[\\/]/, '').replace(/\.[^.]+$/, ''));
    const slot = names
      .replace(/^.*[\\/]/, '')
      .replace(/[\s._-]*\*.*$/, '')
      .replace(/\.[^.]+$/, '');
    const { naming } = ReadingDecisions.parse({});
    const { assignments } = assignTextures(stems, [{ model: slot, slot, siblings: 1 }], naming);
    // A picture by itself is what it shows: a decal.
    if (assignments.length === 0 && files.length === 1)
      return this.lookOfMaps(stems[0], new Map([['baseColor', await this.decoded(files[0])]]), null, new Set());
    if (assignments.length === 0)
      throw new Error(`the names that "${names}" fits say of no map what it is: they end in _basecolor, _roughness, …`);
    const rasters = new Map<MapName, Raster>();
    let packed: Raster | null = null;
    const held = new Set<MapName>();
    for (const { file, holds } of assignments) {
      const raster = await this.decoded(files[file]);
      if ('all' in holds) rasters.set(holds.all, raster);
      else {
        packed = arranged(raster, holds);
        for (const map of Object.values(holds)) if (map) held.add(map);
      }
    }
    return this.lookOfMaps(slot, rasters, packed, held);
  }

  private async lookOfMaps(
    name: string,
    maps: ReadonlyMap<MapName, Raster>,
    packed: Raster | null,
    held: Set<MapName>,
  ): Promise<LookData> {
    const sets: LevelSet[] = [];
    const add = async (raster: Raster, encoding: Encoding, weighted = false): Promise<number> => {
      sets.push(await this.levels(raster, encoding, weighted));
      return sets.length - 1;
    };
    const base = maps.get('baseColor');
    const opacity = maps.get('opacity');
    const pictures = { ...NO_PICTURES };
    if (base) pictures.color = await add(opacity ? withAlpha(base, opacity) : base, 'srgb', true);
    const single = packed ?? joinedMaps(maps);
    if (single) {
      const at = await add(single, 'linear');
      if (held.has('occlusion') || maps.has('occlusion')) pictures.occlusion = at;
      if (['roughness', 'metallic', 'gloss'].some((map) => held.has(map as MapName) || maps.has(map as MapName)))
        pictures.metallicRoughness = at;
    }
    const normal = maps.get('normal');
    if (normal) pictures.normal = await add(normal, 'normal');
    const emissive = maps.get('emissive');
    if (emissive) pictures.emissive = await add(emissive, 'srgb');
    const channels: RecipeChannel[] = [];
    if (base) channels.push('color', 'alpha');
    if (pictures.occlusion >= 0) channels.push('occlusion');
    if (pictures.metallicRoughness >= 0) channels.push('roughness', 'metallic');
    if (normal) channels.push('normal');
    if (emissive) channels.push('emissive');
    const [picture] = sets;
    return {
      ...PLAIN_LOOK,
      name,
      size: [UNKNOWN_SIZE, (UNKNOWN_SIZE * picture.height) / picture.width],
      sets,
      pictures,
      metallic: 1,
      emissive: emissive ? [1, 1, 1] : [0, 0, 0],
      channels,
      gauss: sets.map(() => null),
    };
  }

  /** A picture's pixels. @throws InputError where it cannot be decoded */
  async decoded({ name, path }: InputFile): Promise<Raster> {
    const bytes = new Uint8Array(await readFile(path));
    return this.scope.run(pictureTasks.pixels, { path: name, name, bytes }, decodingLimit(bytes.length));
  }

  /** A picture by its name, or null. */
  picture(name: string): InputFile | null {
    return this.pictures.find((file) => file.name === name || file.name.endsWith(`/${name}`)) ?? null;
  }

  /** A mask as conditions read it. @throws InputError where it cannot be decoded */
  async mask(file: InputFile): Promise<LevelSet> {
    return this.levels(await this.decoded(file), 'linear', false);
  }

  /** The same look with what breaking up its repetition needs. */
  private withGauss(look: LookData): Promise<LookData> {
    const found = this.broken.get(look) ?? this.findGauss(look);
    this.broken.set(look, found);
    found.catch(() => this.broken.delete(look));
    return found;
  }

  private async findGauss(look: LookData): Promise<LookData> {
    const gauss = await Promise.all(
      look.sets.map((set, at) => (at === look.pictures.normal ? null : this.scope.run(recipeTasks.gauss, { set }))),
    );
    return { ...look, gauss };
  }
}

const PICTURE_OF: Record<ImageChannel, keyof LookData['pictures']> = {
  baseColor: 'color',
  metallicRoughness: 'metallicRoughness',
  occlusion: 'occlusion',
  normal: 'normal',
  emissive: 'emissive',
} as Record<ImageChannel, keyof LookData['pictures']>;

function plainLook(values: Extract<LookSource, { from: 'values' }>): LookData {
  const channels = (['color', 'alpha', 'occlusion', 'roughness', 'metallic', 'emissive'] as const).filter(
    (channel) => values[channel] !== undefined,
  );
  const color = values.color ? linearOf(values.color) : PLAIN_LOOK.color;
  return {
    ...PLAIN_LOOK,
    color: [color[0], color[1], color[2], values.alpha ?? 1],
    occlusion: values.occlusion ?? 1,
    roughness: values.roughness ?? 1,
    metallic: values.metallic ?? 0,
    emissive: values.emissive ? linearOf(values.emissive) : [0, 0, 0],
    channels,
  };
}

/** m that one repeat of a slot's textures covers on its own model, in the mean. */
function metresOfSlot(model: Model, slot: number, set: number): number {
  let [world, area] = [0, 0];
  for (const part of model.parts) {
    const uv = part.uvs[set];
    if (part.slot !== slot || !uv) continue;
    world += surfaceArea(surfaceOf(part.positions, part.indices)) * surfaceScale(part) ** 2;
    for (let i = 0; i < part.indices.length; i += 3) {
      const [a, b, c] = [0, 1, 2].map((k) => part.indices[i + k] * 2);
      area += Math.abs((uv[b] - uv[a]) * (uv[c + 1] - uv[a + 1]) - (uv[c] - uv[a]) * (uv[b + 1] - uv[a + 1])) / 2;
    }
  }
  return world > 0 && area > 0 ? Math.sqrt(world / area) : UNKNOWN_SIZE;
}

/** Channels of a packed picture in the order occlusion, roughness, metallic. */
function arranged(raster: Raster, holds: Record<'r' | 'g' | 'b' | 'a', MapName | null>): Raster {
  const from = (map: MapName) => (['r', 'g', 'b', 'a'] as const).findIndex((channel) => holds[channel] === map);
  const order = [from('occlusion'), from('roughness'), from('metallic')];
  const full = raster.bits === 8 ? 255 : 65535;
  const data = raster.data.slice();
  for (let i = 0; i < data.length; i += 4)
    for (let c = 0; c < 3; c++) data[i + c] = order[c] < 0 ? full : raster.data[i + order[c]];
  return { ...raster, data };
}

/** Occlusion, roughness and metallic of grey pictures in one of 8 bits, at the size of the first; null where there is none. */
function joinedMaps(maps: ReadonlyMap<MapName, Raster>): Raster | null {
  const [occlusion, metallic] = [maps.get('occlusion'), maps.get('metallic')];
  const roughness = maps.get('roughness') ?? maps.get('gloss');
  const first = roughness ?? metallic ?? occlusion;
  if (!first) return null;
  const { width, height } = first;
  const data = new Uint8Array(new SharedArrayBuffer(width * height * 4)).fill(255);
  const gloss = !maps.has('roughness') && maps.has('gloss');
  [occlusion, roughness, metallic].forEach((raster, c) => {
    if (!raster) return;
    for (let y = 0; y < height; y++)
      for (let x = 0; x < width; x++) {
        const v = byteAt(raster, (x + 0.5) / width, (y + 0.5) / height, 0);
        data[(y * width + x) * 4 + c] = c === 1 && gloss ? 255 - v : v;
      }
  });
  if (!metallic) for (let i = 2; i < data.length; i += 4) data[i] = 0;
  return { width, height, bits: 8, data };
}

/** A picture with another one's red as its alpha, 8 bits. */
function withAlpha(base: Raster, opacity: Raster): Raster {
  const { width, height } = base;
  const data = new Uint8Array(new SharedArrayBuffer(width * height * 4));
  for (let y = 0; y < height; y++)
    for (let x = 0; x < width; x++) {
      const o = (y * width + x) * 4;
      const [u, v] = [(x + 0.5) / width, (y + 0.5) / height];
      for (let c = 0; c < 3; c++) data[o + c] = byteAt(base, u, v, c);
      data[o + 3] = byteAt(opacity, u, v, 0);
    }
  return { width, height, bits: 8, data };
}

/** A channel of the texel under a place, 0 … 255. */
function byteAt({ width, height, bits, data }: Raster, u: number, v: number, c: number): number {
  const value = data[(Math.floor(v * height) * width + Math.floor(u * width)) * 4 + c];
  return bits === 16 ? value >> 8 : value;
}
