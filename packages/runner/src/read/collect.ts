import { createWriteStream } from 'node:fs';
import { mkdtemp, readdir, rm, stat } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { extname, join, posix, relative } from 'node:path';
import { pipeline } from 'node:stream/promises';
import { InputError, sentence } from '@wembrel/core/errors';
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
  /** Of a picture: the slot whose base colour it is, whatever it is called. */
  slot?: string;
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
export const collectModels = (inputs: string[]): Promise<Collected> =>
  collect(inputs, new Collecting(MODEL, `model (${KINDS})`));

/** The same for pictures alone: a folder without any is a problem, one without models is none. */
export const collectPictures = (inputs: string[]): Promise<Collected> =>
  collect(inputs, new Collecting(PICTURE, 'picture'));

async function collect(inputs: string[], collecting: Collecting): Promise<Collected> {
  try {
    for (const input of inputs) await collecting.add(input);
  } catch (error) {
    await collecting.close();
    throw error;
  }
  const { files, textures, problems } = collecting;
  return { files, textures, problems, close: () => collecting.close() };
}

class Collecting {
  readonly files: InputFile[] = [];
  readonly textures: InputFile[] = [];
  readonly problems: InputError[] = [];
  private readonly unpacked: string[] = [];
  private readonly seen = new Set<string>();

  /** @param wanted what folders and archives must hold some of @param what the same in words */
  constructor(
    private readonly wanted: RegExp,
    private readonly what: string,
  ) {}

  async add(input: string): Promise<void> {
    const info = await stat(input).catch(() => null);
    if (!info) this.refuse(input, 'there is no such file or folder');
    else if (info.isDirectory()) await this.addFolder(input);
    else if (MODEL.test(input) || PICTURE.test(input)) this.addFile({ name: input, path: input });
    else if (extname(input).toLowerCase() === '.zip') await this.addArchive(input);
    else this.refuse(input, `is neither a model (${KINDS}) nor a picture nor a ZIP`);
  }

  async close(): Promise<void> {
    for (const folder of this.unpacked) await rm(folder, { recursive: true, force: true });
  }

  private refuse(input: string, reason: string): void {
    this.problems.push(new InputError(input, reason));
  }

  private addFile(file: InputFile): void {
    if (this.seen.has(file.path)) return;
    this.seen.add(file.path);
    (MODEL.test(file.name) ? this.files : this.textures).push(file);
  }

  private async addFolder(folder: string): Promise<void> {
    try {
      const found = await searchFolder(folder);
      if (!found.some((file) => this.wanted.test(file))) this.refuse(folder, `the folder holds no ${this.what}`);
      for (const path of found) this.addFile({ name: relative(folder, path), path });
    } catch (error) {
      this.refuse(folder, `the folder cannot be searched: ${sentence(error)}`);
    }
  }

  /** Unpacks under numbers: a disk may not take the names that an archive holds. */
  private async addArchive(archive: string): Promise<void> {
    const folder = await mkdtemp(join(tmpdir(), 'wembrel-zip-'));
    this.unpacked.push(folder);
    const siblings: Record<string, string> = {};
    let number = 0;
    try {
      await unpackArchive(archive, archive, async (name, contents) => {
        const path = join(folder, `${number++}${extname(name).toLowerCase()}`);
        await pipeline(contents, createWriteStream(path));
        siblings[posix.normalize(posix.join(archive, name))] = path;
      });
    } catch (error) {
      if (!(error instanceof InputError)) throw error;
      this.problems.push(error);
      return;
    }
    const names = Object.keys(siblings).sort();
    if (!names.some((name) => this.wanted.test(name))) this.refuse(archive, `the archive holds no ${this.what}`);
    for (const name of names)
      if (MODEL.test(name) || PICTURE.test(name)) this.addFile({ name, path: siblings[name], siblings });
  }
}

async function searchFolder(folder: string): Promise<string[]> {
  const entries = await readdir(folder, { withFileTypes: true, recursive: true });
  return entries
    .filter((entry) => entry.isFile() && (MODEL.test(entry.name) || PICTURE.test(entry.name)))
    .map((entry) => join(entry.parentPath, entry.name))
    .sort();
}
