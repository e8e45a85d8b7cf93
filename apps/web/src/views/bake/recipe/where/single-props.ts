import type { Condition, SingleCondition } from '@wembrel/core/decisions/recipe/condition';
import type { SetPart } from '../recipe-context.ts';
import type { ConditionKind } from '../recipe-options.ts';

export type Of<K extends ConditionKind> = Extract<SingleCondition, { of: K }>;

export interface SingleProps<T extends SingleCondition> {
  value: T;
  set: SetPart<Condition>;
  /** The line is selected: what is as usual is said as well. */
  open: boolean;
}
