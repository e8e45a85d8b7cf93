import { expect, test } from 'vitest';
import type { ReadFileView } from '../src/contract/project.ts';
import { readingCards, readingTotals } from '../src/views/survey/reading-cards.ts';

const source = (path: string) => ({ path, bytes: 1, hash: path });
const read = (path: string, file: number, more: Partial<ReadFileView> = {}): ReadFileView => ({
  path,
  file,
  problem: null,
  drawCalls: 2,
  slots: 1,
  triangles: 10,
  textureBytes: 100,
  ...more,
});

test('each model has its card from the beginning, pictures and side files have none', () => {
  const sources = ['b.glb', 'a.OBJ', 'a.mtl', 'paving.png', 'c.gltf'].map(source);
  expect(readingCards(sources, [], [])).toEqual([
    { path: 'a.OBJ', read: null },
    { path: 'b.glb', read: null },
    { path: 'c.gltf', read: null },
  ]);
});

test('what was read before and since is filled in once; what cannot be read counts as read and adds nothing', () => {
  const sources = ['a.glb', 'b.glb', 'c.glb'].map(source);
  const broken = read('c.glb', 2, { problem: 'cut short', drawCalls: 0, slots: 0, triangles: 0, textureBytes: 0 });
  const cards = readingCards(sources, [read('b.glb', 1)], [read('b.glb', 1), broken]);
  expect(cards.map((card) => card.read?.file ?? null)).toEqual([null, 1, 2]);
  expect(readingTotals(cards)).toEqual({ files: 2, drawCalls: 2, slots: 1, triangles: 10, textureBytes: 100 });
});
