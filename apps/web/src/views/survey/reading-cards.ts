import { MODEL } from '@wembrel/runner/read/endings';
import type { ReadFileView, SourceView } from '../../contract/project.ts';

/** A model of the project while its files are read. */
export interface ReadingCard {
  path: string;
  /** What is known of it; null: it is not read yet. */
  read: ReadFileView | null;
}

/**
 * A card for each model in the order of their names, as the survey reads them.
 * @param known what was read when it was asked for @param later what was read since; the two may overlap
 */
export function readingCards(
  sources: readonly SourceView[],
  known: readonly ReadFileView[],
  later: readonly ReadFileView[],
): ReadingCard[] {
  const byPath = new Map([...known, ...later].map((one) => [one.path, one]));
  return sources
    .map(({ path }) => path)
    .filter((path) => MODEL.test(path))
    .sort((a, b) => (a < b ? -1 : 1))
    .map((path) => ({ path, read: byPath.get(path) ?? null }));
}

/** Sums over what was read. */
export function readingTotals(cards: readonly ReadingCard[]) {
  const read = cards.flatMap((card) => (card.read ? [card.read] : []));
  const sum = (of: (one: ReadFileView) => number) => read.reduce((total, one) => total + of(one), 0);
  return {
    files: read.length,
    drawCalls: sum((one) => one.drawCalls),
    slots: sum((one) => one.slots),
    triangles: sum((one) => one.triangles),
    textureBytes: sum((one) => one.textureBytes),
  };
}
