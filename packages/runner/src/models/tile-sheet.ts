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
export async function makeTileSheet(o: TileSheetOptions): Promise<TileSheetReport> {
  const names = o.images.map(stem);
  const twice = names.find((n, i) => names.indexOf(n) !== i);
  if (twice) throw new InputError(twice, 'two tiles have this name');
  const tiles: Tile[] = [];
  for (const [i, path] of o.images.entries()) {
    const bytes = await readFile(path).catch(() => {
      throw new InputError(path, 'there is no such picture');
    });
    tiles.push({ name: names[i], raster: await decodeImage(path, names[i], new Uint8Array(bytes)) });
  }
  const grid = said(o.name, () => tileGrid(o.width, o.height, o.cell, o.gutter));
  const { data, width, height } = said(o.name, () =>
    drawTiles(tiles, grid, o.around, o.sense === 'data' ? 'data' : o.sense),
  );
  const rows = tileRows(names, grid);
  const byName = new Map(rows.map((r) => [r.name, r]));
  for (const [slot, parts] of o.mix)
    for (const p of parts)
      if (!byName.has(p.tile)) throw new InputError(o.name, `the mix of "${slot}" names "${p.tile}", which is no tile`);
  const png = await encodePng(data, width, height, 4);
  const delivery = await Delivery.begin(o.out);
  const report: TileSheetReport = {
    size: [o.width, o.height],
    cell: o.cell,
    gutter: o.gutter,
    tiles: rows,
    models: [],
    written: [],
    errors: [],
  };
  try {
    const files = new TextureFiles(new Names(), delivery);
    await delivery.write(`${o.name}.png`, png);
    const { size, cell, gutter } = report;
    await delivery.write(`${o.name}.json`, jsonFile({ name: o.name, size, cell, gutter, tiles: rows }));
    await delivery.write(`${o.name}.csv`, new TextEncoder().encode(tileCsv(rows)));
    const claimed = new Names();
    for (const file of o.models) {
      try {
        report.models.push(await layModel(o, file, byName, png, claimed, files, delivery));
      } catch (error) {
        if (!(error instanceof InputError)) throw error;
        report.errors.push({ path: error.path, message: error.reason });
      }
    }
    report.written = delivery.list();
    await delivery.commit([...o.images, ...o.models.map((m) => m.path)]);
    return report;
  } catch (error) {
    await delivery.discard();
    throw error;
  }
}

async function layModel(
  o: TileSheetOptions,
  file: InputFile,
  tiles: ReadonlyMap<string, TileRow>,
  png: Uint8Array,
  claimed: Names,
  files: TextureFiles,
  delivery: Delivery,
): Promise<TileSheetReport['models'][number]> {
  const model = await loadModel(file);
  const { document } = model;
  let material: Material | null = null;
  const slots: { slot: string; faces: Record<string, number> }[] = [];
  const left: string[] = [];
  const seen = new Set<unknown>();
  for (const [s, { name }] of model.slots.entries()) {
    const parts = o.mix.get(name) ?? (tiles.has(name) ? [{ tile: name, share: 1 }] : null);
    if (!parts) {
      left.push(name);
      continue;
    }
    material ??= document.createMaterial(o.name).setBaseColorTexture(
      document
        .createTexture(o.name)
        .setMimeType('image/png')
        .setImage(png as Uint8Array<ArrayBuffer>),
    );
    const faces: Record<string, number> = {};
    for (const part of model.parts) {
      if (part.slot !== s || part.mode < 4 || seen.has(part.primitive)) continue;
      seen.add(part.primitive);
      const quads = quadFaces(part);
      const taken = mixTiles(parts, quads.length, o.seed);
      const cells = Array.from(taken, (t) => tiles.get(parts[t].tile) as TileRow);
      for (const c of cells) faces[c.name] = (faces[c.name] ?? 0) + 1;
      const turns = o.turns ? mixTurns(quads.length, o.seed) : new Uint8Array(quads.length);
      const m = material;
      said(file.name, () => mapFaces(document, part, quads, cells, turns, m));
    }
    slots.push({ slot: name, faces });
  }
  dropUnused(document);
  const path = claimed.claim(stem(file.name), '.glb');
  await writeModel(model, path, o.embed, files, delivery);
  return { path, slots, left };
}

function said<T>(name: string, run: () => T): T {
  try {
    return run();
  } catch (error) {
    throw new InputError(name, (error as Error).message);
  }
}
