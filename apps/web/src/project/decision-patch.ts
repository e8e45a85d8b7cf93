import fastJsonPatch, { type Operation } from 'fast-json-patch';
import type { MergeDecisions } from '../contract/project.ts';
import { withReferences, withTexts } from './face-set-texts.ts';

const { applyPatch, compare, deepClone } = fastJsonPatch;

/** Steps of a project change its decisions here, and its sources elsewhere. */
const DECISIONS = '/decisions';

/** What changes from one state of the decisions to another, as the server stores them. */
export async function patchBetween(before: MergeDecisions, after: MergeDecisions): Promise<Operation[]> {
  const [from, to] = [await withReferences(before), await withReferences(after)];
  // Values that are not there and values that are undefined are the same once they are sent.
  return compare(deepClone(from), deepClone(to));
}

/** Decisions with a step of the project taken. */
export async function patched(shown: MergeDecisions, step: readonly Operation[]): Promise<MergeDecisions> {
  const own = step
    .filter((operation) => operation.path.startsWith(`${DECISIONS}/`))
    .map((operation) => ({ ...operation, path: operation.path.slice(DECISIONS.length) }) as Operation);
  const stored = await withReferences(shown);
  return withTexts(applyPatch(stored, own, false, false).newDocument);
}
