import type { Readable } from 'node:stream';
import { logicalPath, READABLE, unpackArchive } from '@wembrel/runner/read/unpack';
import { storeBlob } from './blobs.ts';
import { database } from './database.ts';
import { blobPath } from './paths.ts';
import { Problem } from './problem.ts';

/** A logical path in a project. @throws Problem */
export function sourcePath(given: string): string {
  const path = logicalPath(given);
  if (path === null) throw new Problem(400, `"${given}" is not a usable file name`);
  return path;
}

/** Adds one uploaded file; an archive is unpacked. Returns the paths that are there now. */
export async function addSource(project: string, given: string, contents: Readable): Promise<string[]> {
  const path = sourcePath(given);
  const archive = /\.zip$/i.test(path);
  if (!archive && !READABLE.test(path))
    throw new Problem(415, `${path}: this kind of file is not read; GLB, glTF with its files, or a ZIP of them is`);
  const blob = await storeBlob(contents);
  if (blob.bytes === 0) throw new Problem(400, `${path}: the file is empty`);
  if (!archive) {
    await record(project, [{ path, ...blob }]);
    return [path];
  }
  const files = await unpackArchive(path, blobPath(blob.hash), async (name, stream) => ({
    path: name,
    ...(await storeBlob(stream)),
  }));
  if (files.length === 0) throw new Problem(400, `${path}: the archive holds no file that is read`);
  await record(project, files);
  return files.map((f) => f.path);
}

async function record(project: string, files: { path: string; hash: string; bytes: number }[]): Promise<void> {
  const db = await database();
  await db.transaction().execute(async (t) => {
    for (const f of files)
      await t
        .insertInto('source')
        .values({ project, ...f })
        .onConflict((c) => c.columns(['project', 'path']).doUpdateSet({ hash: f.hash, bytes: f.bytes }))
        .execute();
    await t.updateTable('project').set({ changed: new Date().toISOString() }).where('id', '=', project).execute();
  });
}
