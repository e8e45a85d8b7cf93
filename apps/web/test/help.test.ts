import { existsSync } from 'node:fs';
import { expect, test } from 'vitest';
import { GLOSSARY, MEANINGS } from '../src/project/glossary.ts';
import { MANUAL } from '../src/project/manual.ts';

test('each word stands in the glossary once, and is explained by a sentence', () => {
  expect(new Set(GLOSSARY.map(([word]) => word.toLowerCase())).size).toBe(GLOSSARY.length);
  for (const [label, meaning] of MEANINGS) expect([label, meaning]).toEqual([label, expect.any(String)]);
  for (const [word, meaning] of GLOSSARY)
    expect([word, meaning]).toEqual([word, expect.stringMatching(/^\S.{10,}\.$/)]);
});

test('each page of the manual is there', () => {
  for (const { name } of MANUAL) expect(existsSync(new URL(`../../../docs/${name}.md`, import.meta.url))).toBe(true);
});
