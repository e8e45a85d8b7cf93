import type { Condition } from '@wembrel/core/decisions/recipe/condition';
import type { MeasuredCondition } from '@wembrel/core/recipes/conditions/measure';
import type { SetPart } from './recipe-context.ts';

/** The first condition that is a stretch of something, and how to change it within the whole. */
export function measuredIn(
  where: Condition,
  set: SetPart<Condition>,
): { value: MeasuredCondition; set: SetPart<Condition> } | null {
  if ('of' in where) return 'from' in where ? { value: where, set } : null;
  if ('not' in where) return measuredIn(where.not, (not, label, trial) => set({ not }, label, trial));
  if ('use' in where) return null;
  const list = 'all' in where ? where.all : where.any;
  for (const [i, one] of list.entries()) {
    const found = measuredIn(one, (next, label, trial) => {
      const changed = list.map((v, k) => (k === i ? next : v));
      set('all' in where ? { ...where, all: changed } : { any: changed }, label, trial);
    });
    if (found) return found;
  }
  return null;
}

/** The same condition as `where`, its first stretch changed. */
export function withStretch(where: Condition, change: (value: MeasuredCondition) => MeasuredCondition): Condition {
  let out = where;
  const found = measuredIn(where, (next) => {
    out = next;
  });
  found?.set(change(found.value), '');
  return out;
}

const tidy = (v: number): number => Number(v.toPrecision(3));

/** The stretch between two values that were met. */
export const stretchBetween = (value: MeasuredCondition, a: number, b: number): MeasuredCondition => ({
  ...value,
  from: tidy(Math.min(a, b)),
  to: tidy(Math.max(a, b)),
});

/** The stretch with its nearer end at a value; an end that is open stays open. */
export function nearerEndAt(value: MeasuredCondition, at: number): MeasuredCondition {
  const { from, to } = value;
  if (from === null && to === null) return { ...value, from: tidy(at) };
  const isLower = to === null || (from !== null && Math.abs(at - from) <= Math.abs(at - to));
  return isLower ? { ...value, from: tidy(at) } : { ...value, to: tidy(at) };
}
