import { readFile } from 'node:fs/promises';
import { type Document, type Material, type Texture, TextureInfo } from '@gltf-transform/core';
import { InputError } from '@wembrel/core/errors';
import { Names, stem } from '@wembrel/core/handover/names';
import { lookKey, materialLook } from '@wembrel/core/scene/material';
import { mapFaces, quadFaces } from '@wembrel/core/tiles/map-tiles';
import { type MixPart, mixTiles, mixTurns } from '@wembrel/core/tiles/mix';
import {
  blocksOf,
  drawTiles,
  sheetSideFor,
  type Tile,
  type TileRow,
  type TileTraits,
  tileCsv,
  tileGrid,
  tileRows,
} from '@wembrel/core/tiles/tile-sheet';
import { decodeImage, encodePng } from '../pictures/codec.ts';
import type { InputFile } from '../read/collect.ts';
import { loadModel } from '../read/load.ts';
import { Delivery } from '../write/delivery.ts';
import { dropUnused, jsonFile, TextureFiles, writeModel } from '../write/write-models.ts';

export interface TileSheetOptions extends TileTraits {
  /** Pictures of the tiles, in the order of their cells; each is called after its file. */
  images: readonly InputFile[];
  out: string;
  name: string;
  /** px; null: the least power of two that holds all cells. */
  width: number | null;
  height: number | null;
  /** Side of the picture in a cell, px; null: that of the largest picture. */
  cell: number | null;
  gutter: number;
  around: 'repeat' | 'edge';
  sense: 'colour' | 'normal' | 'data';
  /** Models whose faces take cells. */
  models: readonly InputFile[];
  /** For slots, by name: the tiles that their faces take. A slot that is named like a tile takes it without being listed. */
  mix: ReadonlyMap<string, readonly MixPart[]>;
  /** Faces are turned by quarters at random. */
  turns: boolean;
  seed: number;
  embed: boolean;
}

export interface TileSheetReport {
  size: [number, number];
  cell: number;
  gutter: number;
  tiles: TileRow[];
  /** Tiles that are faces of something, by role. */
  blocks: ReturnType<typeof blocksOf>;
  models: { path: string; slots: { slot: string; faces: Record<string, number> }[]; left: string[] }[];
  written: string[];
  errors: { path: string; message: string }[];
}

/**
 * Draws tiles onto one sheet of cells and writes its table; faces of models can be laid onto the cells.
 * @throws InputError when a picture cannot be read, tiles do not fit, or a mix names a tile that is not there
 */
export async function makeTileSheet(options: TileSheetOptions): Promise<TileSheetReport> {
  if (options.images.length === 0) throw new InputError(options.name, 'there is no picture');
  const names = options.images.map((image) => stem(image.name));
  const twice = names.find((name, i) => names.indexOf(name) !== i);
  if (twice) throw new InputError(twice, 'two tiles have this name');
  const tiles: Tile[] = [];
  for (const [i, image] of options.images.entries()) {
    const bytes = new Uint8Array(await readFile(image.path));
    tiles.push({ name: names[i], raster: await decodeImage(image.name, names[i], bytes) });
  }
  const { gutter } = options;
  const cell = options.cell ?? Math.max(...tiles.map(({ raster }) => Math.max(raster.width, raster.height)));
  const sheetWidth = options.width ?? sheetSideFor(tiles.length, cell, gutter);
  const grid = said(options.name, () => tileGrid(sheetWidth, options.height ?? sheetWidth, cell, gutter));
  const { data, width, height } = said(options.name, () =>
    drawTiles(tiles, grid, options.around, options.sense === 'data' ? 'data' : options.sense),
  );
  const rows = tileRows(names, grid, options);
  for (const name of [...options.roles.keys(), ...options.flips.keys()])
    if (!names.includes(name)) throw new InputError(options.name, `"${name}" is no tile`);
  const byName = new Map(rows.map((row) => [row.name, row]));
  for (const [slot, parts] of options.mix)
    for (const part of parts)
      if (!byName.has(part.tile))
        throw new InputError(options.name, `the mix of "${slot}" names "${part.tile}", which is no tile`);
  const blocks = blocksOf(rows);
  const png = await encodePng(data, width, height, 4);
  const delivery = await Delivery.begin(options.out);
  const report: TileSheetReport = {
    size: [grid.width, grid.height],
    cell,
    gutter,
    tiles: rows,
    blocks,
    models: [],
    written: [],
    errors: [],
  };
  try {
    const files = new TextureFiles(new Names(), delivery);
    await delivery.write(`${options.name}.png`, png);
    const { size } = report;
    await delivery.write(
      `${options.name}.json`,
      jsonFile({ name: options.name, size, cell, gutter, tiles: rows, blocks }),
    );
    await delivery.write(`${options.name}.csv`, new TextEncoder().encode(tileCsv(rows)));
    const claimed = new Names();
    for (const file of options.models) {
      try {
        report.models.push(await layModel(options, { file, tiles: byName, png, claimed, files, delivery }));
      } catch (error) {
        if (!(error instanceof InputError)) throw error;
        report.errors.push({ path: error.path, message: error.reason });
      }
    }
    report.written = delivery.list();
    await delivery.commit([...options.images, ...options.models].map(({ path }) => path));
    return report;
  } catch (error) {
    await delivery.discard();
    throw error;
  }
}

interface TiledModel {
  file: InputFile;
  tiles: ReadonlyMap<string, TileRow>;
  png: Uint8Array;
  claimed: Names;
  files: TextureFiles;
  delivery: Delivery;
}

async function layModel(
  options: TileSheetOptions,
  { file, tiles, png, claimed, files, delivery }: TiledModel,
): Promise<TileSheetReport['models'][number]> {
  const model = await loadModel(file);
  const { document } = model;
  const own = new TileMaterials(document, options.name, png);
  const slots: { slot: string; faces: Record<string, number> }[] = [];
  const left: string[] = [];
  const seen = new Set<unknown>();
  for (const [s, { name }] of model.slots.entries()) {
    const parts = options.mix.get(name) ?? (tiles.has(name) ? [{ tile: name, share: 1 }] : null);
    if (!parts) {
      left.push(name);
      continue;
    }
    const faces: Record<string, number> = {};
    for (const part of model.parts) {
      if (part.slot !== s || part.mode < 4 || seen.has(part.primitive)) continue;
      seen.add(part.primitive);
      const quads = quadFaces(part);
      const taken = mixTiles(parts, quads.length, options.seed);
      const cells = Array.from(taken, (t) => tiles.get(parts[t].tile) as TileRow);
      for (const cell of cells) faces[cell.name] = (faces[cell.name] ?? 0) + 1;
      const turns = options.turns ? mixTurns(quads.length, options.seed) : new Uint8Array(quads.length);
      const material = await own.like(part.primitive.getMaterial());
      said(file.name, () => mapFaces(document, part, { faces: quads, cells, turns, material }));
    }
    slots.push({ slot: name, faces });
  }
  dropUnused(document);
  const path = claimed.claim(stem(file.name), '.glb');
  await writeModel(model, path, options.embed, files, delivery);
  return { path, slots, left };
}

/** Materials of the sheet: those of the slots that are laid onto it, with its picture in place of theirs. */
class TileMaterials {
  private readonly made = new Map<string, Material>();
  private readonly texture: Texture;
  private readonly means = new Map<Texture | null, ReturnType<typeof meanOfMap>>();

  constructor(
    private readonly document: Document,
    private readonly name: string,
    png: Uint8Array,
  ) {
    this.texture = document
      .createTexture(name)
      .setMimeType('image/png')
      .setImage(png as Uint8Array<ArrayBuffer>);
  }

  /** @param slot the material that faces had: its factors, its sides, how it is blended and how its picture is sampled stay */
  async like(slot: Material | null): Promise<Material> {
    const [roughness, metallic] = await this.meanOf(slot?.getMetallicRoughnessTexture() ?? null);
    const look = lookKey(
      materialLook(slot, () => ''),
      (image) => image,
    );
    // Maps whose means are alike to a tenth share a material.
    const key = `${look} ${roughness.toFixed(1)} ${metallic.toFixed(1)}`;
    const known = this.made.get(key);
    if (known) return known;
    const made = slot ? slot.clone() : this.document.createMaterial();
    made
      .setName(this.made.size === 0 ? this.name : `${this.name} ${this.made.size + 1}`)
      .setBaseColorTexture(this.texture)
      // Maps were laid out for other UVs. Without that of roughness and metal, factors stand for its mean.
      .setRoughnessFactor((slot?.getRoughnessFactor() ?? 1) * roughness)
      .setMetallicFactor((slot?.getMetallicFactor() ?? 1) * metallic)
      .setMetallicRoughnessTexture(null)
      .setNormalTexture(null)
      .setOcclusionTexture(null)
      .setEmissiveTexture(null);
    // Without its map all of it would glow.
    if (slot?.getEmissiveTexture()) made.setEmissiveFactor([0, 0, 0]);
    const [from, to] = [slot?.getBaseColorTextureInfo(), made.getBaseColorTextureInfo()];
    const { CLAMP_TO_EDGE } = TextureInfo.WrapMode;
    to?.setTexCoord(0)
      .setMagFilter(from?.getMagFilter() ?? null)
      .setMinFilter(from?.getMinFilter() ?? null)
      .setWrapS(CLAMP_TO_EDGE)
      .setWrapT(CLAMP_TO_EDGE)
      .setExtension('KHR_texture_transform', null);
    this.made.set(key, made);
    return made;
  }

  /** See `meanOfMap`; each map is decoded once. */
  private meanOf(map: Texture | null): ReturnType<typeof meanOfMap> {
    const known = this.means.get(map) ?? meanOfMap(map);
    this.means.set(map, known);
    return known;
  }
}

/** Mean roughness and metalness of a map, 0 to 1; 1 without one. @throws InputError when it cannot be decoded */
async function meanOfMap(map: Texture | null): Promise<[roughness: number, metallic: number]> {
  const image = map?.getImage();
  if (!map || !image) return [1, 1];
  const { data, bits, width, height } = await decodeImage(map.getURI(), map.getName(), image);
  const sum = [0, 0];
  for (let i = 0; i < data.length; i += 4) {
    sum[0] += data[i + 1];
    sum[1] += data[i + 2];
  }
  return sum.map((v) => v / (width * height * (2 ** bits - 1))) as [number, number];
}

function said<T>(name: string, run: () => T): T {
  try {
    return run();
  } catch (error) {
    throw new InputError(name, (error as Error).message);
  }
}
