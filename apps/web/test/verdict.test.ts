import { SHIPPED_PROFILES } from '@wembrel/core/decisions/profiles';
import { expect, test } from 'vitest';
import { toggled } from '../src/views/handover/profile-choice.ts';
import { type DeliveryCheck, verdictOf } from '../src/views/handover/verdict.ts';

const check = (name: string, good: boolean | null): DeliveryCheck => [name, '', good];
const FINAL = { proof: false, stale: false };

test('ready only where every check was made and passed, of a final that is up to date', () => {
  const all = [check('a', true), check('b', true)];
  expect(verdictOf(all, FINAL)).toEqual({ tone: 'ready', title: 'Ready', text: '2 of 2 checks passed' });
  expect(verdictOf(all, { proof: true, stale: false }).tone).toBe('open');
  expect(verdictOf(all, { proof: false, stale: true }).title).toBe('Out of date');
  expect(verdictOf([...all, check('c', null)], FINAL)).toMatchObject({
    title: 'Complete',
    text: '2 of 3 checks passed, 1 not judged yet',
  });
});

test('what failed is named, whatever else holds', () => {
  const checks = [check('Read back', true), check('Names', false), check('Fidelity', null)];
  for (const state of [FINAL, { proof: true, stale: true }])
    expect(verdictOf(checks, state)).toEqual({
      tone: 'faulty',
      title: 'Not ready',
      text: '1 of 3 checks passed; look at: Names',
    });
});

test('a profile is chosen by its name, an own one whole, and taken away again', () => {
  const [first, second] = SHIPPED_PROFILES;
  const own = { ...first, name: 'own' };
  const both = toggled(toggled([], first, true), own, true);
  expect(both).toEqual([first.name, own]);
  expect(toggled(both, own, false)).toEqual([first.name]);
  expect(toggled(both, first, true)).toEqual([own, first.name]);
  expect(toggled([second.name], first, false)).toEqual([second.name]);
});
