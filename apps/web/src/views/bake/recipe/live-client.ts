import { splitLive } from '../../../contract/live-bytes.ts';
import type { LiveAnswer, LiveAsk, LiveSubject } from '../../../contract/live-recipe.ts';

type Answer<K extends LiveAsk['ask']> =
  Extract<LiveAnswer, { ask: K }> extends never ? LiveAnswer : Extract<LiveAnswer, { ask: K }>;

/** ms that a question waits for a newer one. */
const SETTLE = 15;

/** Asks what is asked while a recipe is tuned. @throws Error with a sentence; a `DOMException` when it was given up */
export async function askLive<K extends LiveAsk['ask']>(
  project: string,
  on: LiveSubject,
  question: Extract<LiveAsk, { ask: K }>,
  signal?: AbortSignal,
): Promise<{ head: Answer<K>; blocks: Uint8Array[] }> {
  // What is given up at once, as while a number is dragged, is never sent.
  await new Promise((go) => setTimeout(go, SETTLE));
  signal?.throwIfAborted();
  const response = await fetch(`/api/projects/${project}/live`, {
    method: 'POST',
    headers: { 'content-type': 'application/json' },
    body: JSON.stringify({ on, question }),
    signal,
  });
  if (!response.ok) {
    const value = (await response.json().catch(() => null)) as { error?: string } | null;
    throw new Error(value?.error ?? `the server answered ${response.status}`);
  }
  const { head, blocks } = splitLive(new Uint8Array(await response.arrayBuffer()));
  return { head: head as Answer<K>, blocks };
}
