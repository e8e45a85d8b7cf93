import { createReadStream } from 'node:fs';
import { Readable } from 'node:stream';
import { LIMITS } from '@wembrel/core/limits';
import { Unzip, type UnzipFile, UnzipInflate, UnzipPassThrough } from 'fflate';
import { storeBlob } from './blobs.ts';
import { database } from './database.ts';
import { blobPath } from './paths.ts';
import { Problem } from './problem.ts';

const KINDS = /\.(glb|gltf|bin|png|jpe?g|webp|zip)$/i;
/** What archives carry along and nobody wants. */
const NOISE = /(^|\/)(__MACOSX|\.[^/]*|Thumbs\.db)(\/|$)/;

/** A logical path in a project: forward slashes, no way out. @throws Problem */
export function logicalPath(given: string): string {
  const path = given.normalize('NFC').replace(/\\/g, '/').replace(/^\/+/, '');
  const parts = path.split('/');
  if (path === '' || path.length > 400 || parts.some((p) => p === '' || p === '.' || p === '..'))
    throw new Problem(400, `"${given}" is not a usable file name`);
  if ([...path].some((c) => c < ' ')) throw new Problem(400, 'a file name may not hold control characters');
  return path;
}

/** Adds one uploaded file; an archive is unpacked. Returns the paths that are there now. */
export async function addSource(project: string, given: string, contents: Readable): Promise<string[]> {
  const path = logicalPath(given);
  if (!KINDS.test(path))
    throw new Problem(415, `${path}: this kind of file is not read; GLB, glTF with its files, or a ZIP of them is`);
  const blob = await storeBlob(contents);
  if (blob.bytes === 0) throw new Problem(400, `${path}: the file is empty`);
  if (!/\.zip$/i.test(path)) {
    await record(project, [{ path, ...blob }]);
    return [path];
  }
  const files = await unpack(path, blobPath(blob.hash));
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

/** Unpacks an archive into blobs, piece by piece; nothing is kept of one that is broken or too large. */
async function unpack(name: string, file: string): Promise<{ path: string; hash: string; bytes: number }[]> {
  const work: Promise<{ path: string; hash: string; bytes: number } | null>[] = [];
  let total = 0;
  let entries = 0;
  let failure: Error | null = null;
  const open = new Set<Readable>();
  const unzip = new Unzip((entry: UnzipFile) => {
    if (entry.name.endsWith('/') || NOISE.test(entry.name) || !KINDS.test(entry.name) || /\.zip$/i.test(entry.name))
      return;
    if (++entries > LIMITS.archiveEntries) {
      failure ??= new Problem(413, `${name}: the archive holds more than ${LIMITS.archiveEntries} files`);
      return;
    }
    let path: string;
    try {
      path = logicalPath(entry.name);
    } catch (error) {
      failure ??= error as Error;
      return;
    }
    const stream = new Readable({ read() {} });
    open.add(stream);
    work.push(
      storeBlob(stream).then(
        (b) => ({ path, ...b }),
        (e) => {
          failure ??= e;
          return null;
        },
      ),
    );
    entry.ondata = (error, chunk, final) => {
      if (error) failure ??= new Problem(400, `${name}: "${entry.name}" in the archive is damaged`);
      total += chunk?.length ?? 0;
      if (total > LIMITS.archiveBytes)
        failure ??= new Problem(413, `${name}: the archive expands to more than ${LIMITS.archiveBytes} bytes`);
      if (failure) {
        stream.destroy(failure);
        return;
      }
      stream.push(chunk);
      if (!final) return;
      open.delete(stream);
      stream.push(null);
    };
    entry.start();
  });
  unzip.register(UnzipInflate);
  unzip.register(UnzipPassThrough);
  try {
    for await (const chunk of createReadStream(file)) {
      unzip.push(new Uint8Array(chunk));
      if (failure) break;
    }
    if (!failure) unzip.push(new Uint8Array(0), true);
  } catch {
    failure ??= new Problem(400, `${name}: the archive cannot be read`);
  }
  if (!failure && open.size > 0) failure = new Problem(400, `${name}: the archive is cut short`);
  if (failure) {
    for (const stream of open) stream.destroy(failure);
    await Promise.allSettled(work);
    throw failure;
  }
  const done = await Promise.all(work);
  if (failure) throw failure;
  return done.filter((d) => d !== null);
}
