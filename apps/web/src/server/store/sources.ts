import { stat } from 'node:fs/promises';
import type { Readable } from 'node:stream';
import { isReadable } from '@wembrel/runner/read/endings';
import { logicalPath, unpackArchive } from '@wembrel/runner/read/unpack';
import type { SourceView } from '../../contract/project.ts';
import { storeBlob } from './blobs.ts';
import { blobPath } from './paths.ts';
import { Problem } from './problem.ts';
import type { ProjectState } from './state.ts';
import { changeProject } from './steps.ts';

/** A logical path in a project. @throws Problem */
export function sourcePath(given: string): string {
  const path = logicalPath(given);
  if (path === null) throw new Problem(400, `"${given}" is not a usable file name`);
  return path;
}

export interface StoredSource {
  path: string;
  hash: string;
  bytes: number;
}

/** Stores one uploaded file; an archive is unpacked. Nothing belongs to a project before `addSources`. */
export async function storeUpload(given: string, contents: Readable): Promise<StoredSource[]> {
  const path = sourcePath(given);
  const archive = /\.zip$/i.test(path);
  if (!archive && !isReadable(path))
    throw new Problem(
      415,
      `${path}: this kind of file is not read; GLB, glTF, OBJ, PLY and STL with their files, pictures, or a ZIP of them are`,
    );
  const blob = await storeBlob(contents);
  if (blob.bytes === 0) throw new Problem(400, `${path}: the file is empty`);
  if (!archive) return [{ path, ...blob }];
  const files = await unpackArchive(path, blobPath(blob.hash), async (name, stream) => ({
    path: name,
    ...(await storeBlob(stream)),
  }));
  if (files.length === 0) throw new Problem(400, `${path}: the archive holds no file that is read`);
  return files;
}

/** The files of a project, by path. */
export function sourceViews({ sources }: ProjectState): SourceView[] {
  return Object.entries(sources)
    .map(([path, s]) => ({ path, ...s }))
    .sort((a, b) => (a.path < b.path ? -1 : 1));
}

/** Adds stored files to a project, and takes others out, as one step. */
export async function changeSources(
  project: string | undefined,
  add: { path: string; hash: string }[],
  remove: string[],
): Promise<number> {
  const sized = await Promise.all(
    add.map(async ({ path, hash }) => {
      const info = await stat(blobPath(hash)).catch(() => null);
      if (!info) throw new Problem(400, `${path}: its contents have not arrived`);
      return { path: sourcePath(path), hash, bytes: info.size };
    }),
  );
  const files = (n: number, only: string) => (n === 1 ? only : `${n} files`);
  const label =
    add.length > 0 ? `Add ${files(add.length, add[0].path)}` : `Take out ${files(remove.length, remove[0] ?? '')}`;
  return changeProject(project, null, label, (state) => {
    for (const path of remove) delete state.sources[path];
    for (const { path, hash, bytes } of sized) state.sources[path] = { hash, bytes };
    return state;
  });
}
