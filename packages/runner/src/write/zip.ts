import { readFile } from 'node:fs/promises';
import { join } from 'node:path';
import { Zip, ZipPassThrough } from 'fflate';

/** A ZIP of files in a folder, produced piece by piece. Stored, not packed, since the contents are packed already; no times. */
export async function* zipFiles(folder: string, names: string[]): AsyncGenerator<Uint8Array> {
  const queue: Uint8Array[] = [];
  let failure: Error | null = null;
  const zip = new Zip((error, chunk) => {
    if (error) failure = error;
    else queue.push(chunk);
  });
  for (const name of names) {
    const entry = new ZipPassThrough(name);
    entry.mtime = new Date(1980, 0, 1);
    zip.add(entry);
    entry.push(new Uint8Array(await readFile(join(folder, name))), true);
    if (failure) throw failure;
    yield* queue.splice(0);
  }
  zip.end();
  yield* queue.splice(0);
}
