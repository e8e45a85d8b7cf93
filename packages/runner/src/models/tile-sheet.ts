import { readFile } from 'node:fs/promises';
import type { Material } from '@gltf-transform/core';
import { InputError } from '@wembrel/core/errors';
import { Names, stem } from '@wembrel/core/handover/names';
import { mapFaces, quadFaces } from '@wembrel/core/tiles/map-tiles';
import { type MixPart, mixTiles, mixTurns } from '@wembrel/core/tiles/mix';
import { drawTiles, type Tile, type TileRow, tileCsv, tileGrid, tileRows } from '@wembrel/core/tiles/tile-sheet';
import { decodeImage, encodePng } from '../pictures/codec.ts';
import type { InputFile } from '../read/collect.ts';
import { loadModel } from '../read/load.ts';
import { Delivery } from '../write/delivery.ts';
import { dropUnused, jsonFile, TextureFiles, writeModel } from '../write/write-models.ts';

export interface TileSheetOptions {
  /** Pictures of the tiles, in the order of their cells; each is called after its file. */
  images: readonly string[];
  out: string;
  name: string;
  width: number;
  height: number;
  cell: number;
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
  models: { path: string; slots: { slot: string; faces: Record<string, number> }[]; left: string[] }[];
  written: string[];
  errors: { path: string; message: string }[];
}

/**
 * Draws tiles onto one sheet of cells and writes its table; faces of models can be laid onto the cells.
 * @throws InputError when a picture cannot be read, tiles do not fit, or a mix names a tile that is not there
 */
export async function makeTileSheet(options: TileSheetOptions): Promise<TileSheetReport> {
  const names = options.images.map(stem);
  const twice = names.find((name, i) => names.indexOf(name) !== i);
  if (twice) throw new InputError(twice, 'two tiles have this name');
  const tiles: Tile[] = [];
  for (const [i, path] of options.images.entries()) {
    const bytes = await readFile(path).catch(() => {
      throw new InputError(path, 'there is no such picture');
    });
    tiles.push({ name: names[i], raster: await decodeImage(path, names[i], new Uint8Array(bytes)) });
  }
  const grid = said(options.name, () => tileGrid(options.width, options.height, options.cell, options.gutter));
  const { data, width, height } = said(options.name, () =>
    drawTiles(tiles, grid, options.around, options.sense === 'data' ? 'data' : options.sense),
  );
  const rows = tileRows(names, grid);
  const byName = new Map(rows.map((row) => [row.name, row]));
  for (const [slot, parts] of options.mix)
    for (const part of parts)
      if (!byName.has(part.tile))
        throw new InputError(options.name, `the mix of "${slot}" names "${part.tile}", which is no tile`);
  const png = await encodePng(data, width, height, 4);
  const delivery = await Delivery.begin(options.out);
  const report: TileSheetReport = {
    size: [options.width, options.height],
    cell: options.cell,
    gutter: options.gutter,
    tiles: rows,
    models: [],
    written: [],
    errors: [],
  };
  try {
    const files = new TextureFiles(new Names(), delivery);
    await delivery.write(`${options.name}.png`, png);
    const { size, cell, gutter } = report;
    await delivery.write(`${options.name}.json`, jsonFile({ name: options.name, size, cell, gutter, tiles: rows }));
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
    await delivery.commit([...options.images, ...options.models.map((model) => model.path)]);
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
  let material: Material | null = null;
  const slots: { slot: string; faces: Record<string, number> }[] = [];
  const left: string[] = [];
  const seen = new Set<unknown>();
  for (const [s, { name }] of model.slots.entries()) {
    const parts = options.mix.get(name) ?? (tiles.has(name) ? [{ tile: name, share: 1 }] : null);
    if (!parts) {
      left.push(name);
      continue;
    }
    material ??= document.createMaterial(options.name).setBaseColorTexture(
      document
        .createTexture(options.name)
        .setMimeType('image/png')
        .setImage(png as Uint8Array<ArrayBuffer>),
    );
    const faces: Record<string, number> = {};
    for (const part of model.parts) {
      if (part.slot !== s || part.mode < 4 || seen.has(part.primitive)) continue;
      seen.add(part.primitive);
      const quads = quadFaces(part);
      const taken = mixTiles(parts, quads.length, options.seed);
      const cells = Array.from(taken, (t) => tiles.get(parts[t].tile) as TileRow);
      for (const cell of cells) faces[cell.name] = (faces[cell.name] ?? 0) + 1;
      const turns = options.turns ? mixTurns(quads.length, options.seed) : new Uint8Array(quads.length);
      const m = material;
      said(file.name, () => mapFaces(document, part, { faces: quads, cells, turns, material: m }));
    }
    slots.push({ slot: name, faces });
  }
  dropUnused(document);
  const path = claimed.claim(stem(file.name), '.glb');
  await writeModel(model, path, options.embed, files, delivery);
  return { path, slots, left };
}

function said<T>(name: string, run: () => T): T {
  try {
    return run();
  } catch (error) {
    throw new InputError(name, (error as Error).message);
  }
}
