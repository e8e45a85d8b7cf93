import { MergeDecisions } from '@wembrel/core/decisions/decisions';
import { Cancelled } from '@wembrel/core/errors';
import { buildFurniture } from '@wembrel/demo/furniture';
import { buildRails } from '@wembrel/demo/rails';
import { expect, test } from 'vitest';
import { kept } from '../../demo/test/kept.ts';
import { continueSearch } from '../src/plans/continue-search.ts';
import { packBasis, planBasis } from '../src/plans/plan-basis.ts';
import { stop } from '../src/pool/cancel-flag.ts';
import type { JobScope } from '../src/pool/job-scope.ts';
import { collectModels } from '../src/read/collect.ts';
import { put, testScope } from './here.ts';

const decisions = MergeDecisions.parse({
  sheets: [
    { id: '1', name: 'front', size: 256, margin: 4 },
    { id: '2', name: 'rails', kind: 'trim', size: 512, margin: 24 },
    { id: '3', name: 'back', size: 256, margin: 4, search: { seed: 11, rounds: 0 } },
  ],
  routes: { HandrailSteel: '2', KerbStone: '2', BattenWood: '2' },
  rotate: 'free',
  effort: 0,
});

async function basisOf(scope: JobScope) {
  const files = { 'stop.glb': kept(buildFurniture, 0.25), 'rails.glb': kept(buildRails) };
  return planBasis({ ...(await collectModels([await put(files)])), decisions }, scope);
}

test('tighter layouts of all sheets with islands, found again by what is noted with them', async () => {
  const scope = testScope();
  try {
    const basis = await basisOf(scope);
    const shares: number[] = [];
    const found = await continueSearch(basis, decisions, 8, scope, (progress) => shares.push(progress.share));
    expect(found.map((continuedSearch) => continuedSearch.sheet)).toEqual([0, 2]);
    expect(shares.length).toBeGreaterThan(3);
    expect([...shares].sort((a, b) => a - b)).toEqual(shares);
    // Islands of the furniture fill neither sheet at once: seconds later there is something better on one of them at least.
    expect(found.some((continuedSearch) => continuedSearch.after > continuedSearch.before)).toBe(true);
    for (const continuedSearch of found) expect(continuedSearch.after).toBeGreaterThanOrEqual(continuedSearch.before);
    const searches = new Map(found.map((continuedSearch) => [continuedSearch.sheet, continuedSearch.search]));
    const sheets = decisions.sheets.map((sheet, i) => ({ ...sheet, search: searches.get(i) ?? sheet.search }));
    const again = await packBasis(basis, { ...decisions, sheets }, scope);
    for (const continuedSearch of found) expect(again[continuedSearch.sheet]?.coverage).toBe(continuedSearch.after);
    const before = await packBasis(basis, decisions, scope);
    for (const continuedSearch of found) expect(before[continuedSearch.sheet]?.coverage).toBe(continuedSearch.before);
  } finally {
    await scope.close();
  }
});

test('cancelled, it ends at once and says so', async () => {
  const scope = testScope();
  try {
    const basis = await basisOf(scope);
    const looking = continueSearch(basis, decisions, 3600, scope, (progress) => {
      if (progress.share > 0.1) stop(scope.cancel);
    });
    await expect(looking).rejects.toThrow(Cancelled);
  } finally {
    await scope.close();
  }
});
