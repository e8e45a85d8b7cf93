import { readdir, stat } from 'node:fs/promises';
import { extname, join, relative } from 'node:path';
import { InputError } from '@wembrel/core/errors';

const MODEL = new Set(['.glb', '.gltf']);

/** A model file to be read: `name` is how it is shown, `path` where it is. */
export interface InputFile {
  name: string;
  path: string;
  /**
   * Where side files are, by their logical path, when they do not lie beside the model on disk (an upload's blobs).
   * Without it, side files are looked for in the model's own folder.
   */
  siblings?: Record<string, string>;
}

/**
 * Model files among the given files and folders; folders are searched recursively, in order of name.
 * @throws InputError for a path that does not exist or is no model
 */
export async function collectModels(inputs: string[]): Promise<{ files: InputFile[]; problems: InputError[] }> {
  const files: InputFile[] = [];
  const problems: InputError[] = [];
  const seen = new Set<string>();
  for (const input of inputs) {
    const info = await stat(input).catch(() => null);
    if (!info) {
      problems.push(new InputError(input, 'there is no such file or folder'));
      continue;
    }
    if (info.isDirectory()) {
      const found = await searchFolder(input);
      if (found.length === 0) problems.push(new InputError(input, 'the folder holds no GLB or glTF file'));
      for (const path of found)
        if (!seen.has(path) && seen.add(path)) files.push({ name: relative(input, path), path });
    } else if (!MODEL.has(extname(input).toLowerCase()))
      problems.push(new InputError(input, 'is not a GLB or glTF file'));
    else if (!seen.has(input) && seen.add(input)) files.push({ name: input, path: input });
  }
  return { files, problems };
}

async function searchFolder(folder: string): Promise<string[]> {
  const entries = await readdir(folder, { withFileTypes: true, recursive: true });
  return entries
    .filter((e) => e.isFile() && MODEL.has(extname(e.name).toLowerCase()))
    .map((e) => join(e.parentPath, e.name))
    .sort();
}
