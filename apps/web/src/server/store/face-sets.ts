import { readFile, stat } from 'node:fs/promises';
import { Readable } from 'node:stream';
import type { FaceDecisions } from '@wembrel/core/decisions/face-decisions';
import { parseFaceText } from '@wembrel/core/decisions/face-list';
import {
  faceSetHash,
  faceSetReference,
  faceTexts,
  LONG_FACE_TEXT,
  mapFaceTexts,
} from '@wembrel/core/decisions/face-sets';
import { storeBlob } from './blobs.ts';
import { blobPath } from './paths.ts';
import { Problem } from './problem.ts';

/** Bytes of the faces of one part. */
export const MOST_BYTES = 4_000_000;

/** Stores faces as text. @returns what stands for it in the decisions @throws Problem when it names no faces */
export async function storeFaceText(text: string): Promise<string> {
  try {
    parseFaceText(text);
  } catch (error) {
    throw new Problem(400, (error as Error).message);
  }
  const { hash } = await storeBlob(Readable.from([Buffer.from(text)]));
  return faceSetReference(hash);
}

/** The text of a face set. @throws Problem when it is not there */
export async function faceText(hash: string): Promise<string> {
  const path = blobPath(hash);
  const info = await stat(path).catch(() => null);
  if (!info || info.size > MOST_BYTES) throw new Problem(404, `the face set ${hash.slice(0, 8)} was not found`);
  return readFile(path, 'utf8');
}

/** Decisions in which long texts are face sets of their own. */
export async function withFaceReferences(faces: FaceDecisions): Promise<FaceDecisions> {
  const long = new Set(faceTexts(faces).filter((text) => text.length >= LONG_FACE_TEXT));
  const references = new Map<string, string>();
  for (const text of long) references.set(text, await storeFaceText(text));
  return mapFaceTexts(faces, (text) => references.get(text) ?? text);
}

/** Decisions in which every group has its faces as text. @throws Problem when a face set is not there */
export async function withFaceTexts(faces: FaceDecisions): Promise<FaceDecisions> {
  const texts = new Map<string, string>();
  for (const reference of new Set(faceTexts(faces))) {
    const hash = faceSetHash(reference);
    if (hash) texts.set(reference, await faceText(hash));
  }
  return mapFaceTexts(faces, (text) => texts.get(text) ?? text);
}
