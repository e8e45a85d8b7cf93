import { readFile } from 'node:fs/promises';
import type { Readable } from 'node:stream';
import { thumbnail } from '@wembrel/runner/pictures/codec';
import { storeBlob } from './blobs.ts';
import { blobPath } from './paths.ts';
import { Problem } from './problem.ts';

/** Longest side at which pictures of planned surfaces are shown, px. */
const SHOWN = 512;

/** Stores a picture of a planned surface. @throws Problem 422 when it is none that can be shown */
export async function storePicture(contents: Readable): Promise<string> {
  const { hash } = await storeBlob(contents);
  try {
    await thumbnail(new Uint8Array(await readFile(blobPath(hash))), 16);
  } catch {
    throw new Problem(422, 'this is no picture that can be shown; PNG, JPEG, WebP and TIFF can');
  }
  return hash;
}

/** A stored picture as PNG. @throws Problem 404 when there is none of that hash, or it is no picture */
export async function plannedPicture(hash: string | undefined): Promise<Uint8Array> {
  if (!/^[0-9a-f]{64}$/.test(hash ?? '')) throw new Problem(404, 'there is no such picture');
  try {
    return await thumbnail(new Uint8Array(await readFile(blobPath(hash as string))), SHOWN);
  } catch {
    throw new Problem(404, 'there is no such picture');
  }
}
