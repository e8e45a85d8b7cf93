import { faceSetHash, faceTexts, LONG_FACE_TEXT, mapFaceTexts } from '@wembrel/core/decisions/face-sets';
import type { MergeDecisions } from '../contract/project.ts';
import { call } from './call.ts';

/*
 * The page works with the faces of groups as text. What is stored names long texts by their hash, so that a change of a few faces is small.
 */

const textOf = new Map<string, string>();
const referenceOf = new Map<string, string>();

function remember(reference: string, text: string): void {
  textOf.set(reference, text);
  referenceOf.set(text, reference);
}

async function fetchText(reference: string): Promise<void> {
  if (textOf.has(reference)) return;
  const response = await fetch(`/api/face-sets/${faceSetHash(reference)}`);
  if (!response.ok) throw new Error('the faces of a group could not be fetched; load the page again');
  remember(reference, await response.text());
}

async function storeText(text: string): Promise<void> {
  const { reference } = await call<{ reference: string }>('/api/face-sets', {
    method: 'POST',
    headers: { 'content-type': 'text/plain' },
    body: text,
  });
  remember(reference, text);
}

/** Decisions as they are stored, with texts in place of references. */
export async function withTexts(stored: MergeDecisions): Promise<MergeDecisions> {
  await Promise.all(faceTexts(stored.faces).map((text) => (faceSetHash(text) ? fetchText(text) : undefined)));
  return { ...stored, faces: mapFaceTexts(stored.faces, (text) => textOf.get(text) ?? text) };
}

/** Decisions as they are stored: long texts are stored by themselves, those that the server does not know yet first. */
export async function withReferences(shown: MergeDecisions): Promise<MergeDecisions> {
  const unknown = new Set(
    faceTexts(shown.faces).filter((text) => text.length >= LONG_FACE_TEXT && !referenceOf.has(text)),
  );
  for (const text of unknown) if (!faceSetHash(text)) await storeText(text);
  return { ...shown, faces: mapFaceTexts(shown.faces, (text) => referenceOf.get(text) ?? text) };
}
