import { createWriteStream } from 'node:fs';
import { mkdir, mkdtemp, readdir, rm, stat } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { dirname, extname, join, relative } from 'node:path';
import { pipeline } from 'node:stream/promises';
import { InputError } from '@wembrel/core/errors';
import { PICTURE } from '../pictures/kind.ts';
import { MODEL } from './endings.ts';
import { unpackArchive } from './unpack.ts';

const KINDS = 'GLB, glTF, OBJ, PLY, STL';

/** A file to be read: `name` is how it is shown, `path` where it is. */
export interface InputFile {
  name: string;
  path: string;
  /**
   * Where side files are, by their logical path, when they do not lie beside the model on disk (an upload's blobs).
   * Without it, side files are looked for in the model's own folder.
   */
  siblings?: Record<string, string>;
}

export interface Collected {
  files: InputFile[];
  /** Pictures, of which those that no model names may be given to slots by their names. */
  textures: InputFile[];
  problems: InputError[];
  /** Removes what was unpacked. */
  close(): Promise<void>;
}

/**
 * Model files among the given files, folders and ZIPs; folders are searched recursively, in order of name. What cannot be used
 * is listed in `problems`, each with its sentence.
 */
export async function collectModels(inputs: string[]): Promise<Collected> {
  const files: InputFile[] = [];
  const textures: InputFile[] = [];
  const problems: InputError[] = [];
  const unpacked: string[] = [];
  const seen = new Set<string>();
  const add = (name: string, path: string): void => {
    if (seen.has(path)) return;
    seen.add(path);
    (MODEL.test(path) ? files : textures).push({ name, path });
  };
  for (const input of inputs) {
    const info = await stat(input).catch(() => null);
    if (!info) problems.push(new InputError(input, 'there is no such file or folder'));
    else if (info.isDirectory()) {
      const found = await searchFolder(input);
      if (!found.some((file) => MODEL.test(file)))
        problems.push(new InputError(input, `the folder holds no model (${KINDS})`));
      for (const path of found) add(relative(input, path), path);
    } else if (MODEL.test(input) || PICTURE.test(input)) add(input, input);
    else if (extname(input).toLowerCase() === '.zip') {
      const folder = await mkdtemp(join(tmpdir(), 'wembrel-zip-'));
      unpacked.push(folder);
      try {
        await unpackArchive(input, input, async (name, contents) => {
          const path = join(folder, name);
          await mkdir(dirname(path), { recursive: true });
          await pipeline(contents, createWriteStream(path));
        });
        const found = await searchFolder(folder);
        if (!found.some((file) => MODEL.test(file)))
          problems.push(new InputError(input, `the archive holds no model (${KINDS})`));
        for (const path of found) add(join(input, relative(folder, path)), path);
      } catch (error) {
        if (!(error instanceof InputError)) throw error;
        problems.push(error);
      }
    } else problems.push(new InputError(input, `is neither a model (${KINDS}) nor a picture nor a ZIP`));
  }
  return {
    files,
    textures,
    problems,
    async close() {
      for (const folder of unpacked) await rm(folder, { recursive: true, force: true });
    },
  };
}

async function searchFolder(folder: string): Promise<string[]> {
  const entries = await readdir(folder, { withFileTypes: true, recursive: true });
  return entries
    .filter((entry) => entry.isFile() && (MODEL.test(entry.name) || PICTURE.test(entry.name)))
    .map((entry) => join(entry.parentPath, entry.name))
    .sort();
}
