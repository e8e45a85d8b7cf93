import { createHash, randomBytes } from 'node:crypto';
import { createWriteStream } from 'node:fs';
import { access, mkdir, open, rename, rm, utimes } from 'node:fs/promises';
import { dirname, join } from 'node:path';
import { Readable, Transform } from 'node:stream';
import { pipeline } from 'node:stream/promises';
import { LIMITS } from '@wembrel/core/limits';
import { blobPath, dataFolder } from './paths.ts';
import { Problem } from './problem.ts';

export interface Blob {
  hash: string;
  bytes: number;
}

/** Streams contents to disk, hashed on the way; synced and renamed into place, so that a blob is whole or not there. */
export async function storeBlob(contents: AsyncIterable<Uint8Array> | Readable): Promise<Blob> {
  const temp = join(dataFolder('incoming'), randomBytes(12).toString('hex'));
  const hash = createHash('sha256');
  let bytes = 0;
  const meter = new Transform({
    transform(chunk: Buffer, _encoding, done) {
      bytes += chunk.length;
      if (bytes > LIMITS.fileBytes) {
        done(new Problem(413, `the file is larger than ${LIMITS.fileBytes} bytes`));
        return;
      }
      hash.update(chunk);
      done(null, chunk);
    },
  });
  try {
    await pipeline(contents instanceof Readable ? contents : Readable.from(contents), meter, createWriteStream(temp));
    const handle = await open(temp, 'r+');
    await handle.sync();
    await handle.close();
    const digest = hash.digest('hex');
    const path = blobPath(digest);
    await mkdir(dirname(path), { recursive: true });
    const there = await access(path).then(
      () => true,
      () => false,
    );
    if (!there) await rename(temp, path);
    // Wanted again: it is no leftover now, though nothing names it yet.
    else await utimes(path, new Date(), new Date());
    return { hash: digest, bytes };
  } finally {
    await rm(temp, { force: true });
  }
}
