import { readFile } from 'node:fs/promises';
import type { Document } from '@gltf-transform/core';
import type { MapName, SourceOptions } from '@wembrel/core/decisions/reading';
import { DEFAULT_FRAME, type Imported, type ImportedMaterial, importedDocument } from '@wembrel/core/formats/imported';
import { readMtl } from '@wembrel/core/formats/obj/mtl';
import { materialLibraries, readObj } from '@wembrel/core/formats/obj/obj';
import { readPly } from '@wembrel/core/formats/ply/ply';
import { readStl } from '@wembrel/core/formats/stl';
import type { PictureWork } from '../pictures/work.ts';
import { looksLikeNormals, MapApplier, type MaterialMaps } from './apply-maps.ts';
import type { InputFile } from './collect.ts';
import { looseSideFile } from './side-files.ts';

export type SimpleFormat = 'obj' | 'ply' | 'stl';

export interface SimpleRead {
  document: Document;
  notes: string[];
  /** Files beside it that were used, by key. */
  used: string[];
  /** Files that it names and that are not there. */
  missing: string[];
}

/** Reads OBJ (with its MTL), PLY or STL into a glTF document. @throws InputError */
export async function readSimple(
  file: InputFile,
  format: SimpleFormat,
  bytes: Uint8Array,
  options: SourceOptions,
  work: PictureWork,
): Promise<SimpleRead> {
  const used: string[] = [];
  const missing: string[] = [];
  const side = async (written: string): Promise<Uint8Array | null> => {
    for (const found of looseSideFile(file, written)) {
      const data = await readFile(found.path).catch(() => null);
      if (!data) continue;
      used.push(found.key);
      return new Uint8Array(data);
    }
    if (!missing.includes(written)) missing.push(written);
    return null;
  };
  let read: Imported;
  if (format === 'obj') {
    const materials: ImportedMaterial[] = [];
    for (const name of libraryNames(materialLibraries(bytes))) {
      const data = await side(name);
      if (data) materials.push(...readMtl(data));
    }
    read = readObj(file.name, bytes, materials);
  } else read = format === 'ply' ? readPly(file.name, bytes) : readStl(file.name, bytes);
  const habit = DEFAULT_FRAME[format];
  const frame = { unit: options.unit ?? habit.unit, up: options.up ?? habit.up };
  const { document, materials } = importedDocument(read, frame);
  const applier = new MapApplier(file.name, document, work);
  const notes = [...read.notes];
  if (options.unit === null || options.up === null)
    notes.push(
      `taken as ${frame.unit === 1 ? 'metres' : frame.unit === 0.001 ? 'millimetres' : `units of ${frame.unit} m`}, ${frame.up.toUpperCase()} up`,
    );
  for (const [i, importedMaterial] of read.materials.entries()) {
    const maps: MaterialMaps = {};
    for (const [kind, map] of Object.entries(importedMaterial.maps)) {
      const data = await side(map.file);
      if (!data) continue;
      let name = kind as MapName | 'bump';
      if (name === 'bump') {
        if (!(await looksLikeNormals(file.name, map.file, data))) {
          notes.push(`the height map "${map.file}" is left out`);
          continue;
        }
        name = 'normal';
      }
      const { file: _, ...placing } = map;
      maps[name] = { name: map.file.replace(/\\/g, '/'), bytes: data, channel: null, options, placing };
    }
    await applier.apply(materials[i], maps);
  }
  return { document, notes, used, missing };
}

/** `mtllib` may name several files in one line, or one with blanks in its name. */
function libraryNames(lines: string[]): string[] {
  return lines.flatMap((line) => ((line.match(/\.mtl\b/gi) ?? []).length > 1 ? line.split(/\s+/) : [line]));
}
