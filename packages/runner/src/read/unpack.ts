import { createReadStream } from 'node:fs';
import { Readable } from 'node:stream';
import { InputError } from '@wembrel/core/errors';
import { LIMITS } from '@wembrel/core/limits';
import { Unzip, type UnzipFile, UnzipInflate, UnzipPassThrough } from 'fflate';
import { isReadable } from './endings.ts';

/** What archives carry along and nobody wants. */
const NOISE = /(^|\/)(__MACOSX|\.[^/.][^/]*|Thumbs\.db)(\/|$)/;

/** A path below some root: forward slashes, NFC, no way out; null when the given one cannot be that. */
export function logicalPath(given: string): string | null {
  const path = given.normalize('NFC').replace(/\\/g, '/').replace(/^\/+/, '');
  if (path === '' || path.length > 400) return null;
  if (path.split('/').some((path) => path === '' || path === '.' || path === '..')) return null;
  return [...path].some((c) => c < ' ') ? null : path;
}

/**
 * Unpacks a ZIP piece by piece; each file that a model may consist of is handed to `store` as a stream.
 * @param name how errors call the archive
 * @returns what `store` made of each file, in the order of the archive
 * @throws InputError when the archive is damaged, cut short, too large, or leads out of its folder
 */
export async function unpackArchive<T>(
  name: string,
  file: string,
  store: (path: string, contents: Readable) => Promise<T>,
): Promise<T[]> {
  const work: Promise<T | null>[] = [];
  const open = new Set<Readable>();
  let total = 0;
  let entries = 0;
  let failure: Error | null = null;
  const fail = (reason: string): void => {
    failure ??= new InputError(name, reason);
  };
  const unzip = new Unzip((entry: UnzipFile) => {
    if (failure || entry.name.endsWith('/') || NOISE.test(entry.name) || !isReadable(entry.name)) return;
    if (++entries > LIMITS.archiveEntries) return fail(`the archive holds more than ${LIMITS.archiveEntries} files`);
    const path = logicalPath(entry.name);
    if (path === null) return fail(`"${entry.name}" leads out of the archive or is no usable file name`);
    const stream = new Readable({ read() {} });
    // The consumer hears of it too; without a listener of ours a failure before it listens would end the process.
    stream.on('error', () => {});
    open.add(stream);
    work.push(
      store(path, stream).catch((error: Error) => {
        failure ??= error;
        return null;
      }),
    );
    entry.ondata = (error, chunk, final) => {
      if (error) fail(`"${entry.name}" in the archive is damaged`);
      total += chunk?.length ?? 0;
      if (total > LIMITS.archiveBytes) fail(`the archive expands to more than ${LIMITS.archiveBytes} bytes`);
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
  let looksLikeZip = false;
  try {
    for await (const chunk of createReadStream(file)) {
      if (!looksLikeZip && !(chunk[0] === 0x50 && chunk[1] === 0x4b)) throw new Error('no ZIP');
      looksLikeZip = true;
      unzip.push(new Uint8Array(chunk));
      if (failure) break;
    }
    if (!failure) unzip.push(new Uint8Array(0), true);
  } catch {
    fail('the archive cannot be read');
  }
  if (open.size > 0) fail('the archive is cut short');
  if (failure) {
    for (const stream of open) stream.destroy(failure);
    await Promise.allSettled(work);
    throw failure;
  }
  const done = await Promise.all(work);
  if (failure) throw failure;
  return done.filter((awaited): awaited is Awaited<T> & T => awaited !== null);
}
