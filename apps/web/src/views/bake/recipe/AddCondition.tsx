import type { SingleCondition } from '@wembrel/core/decisions/recipe/condition';
import { asksModel } from '@wembrel/core/recipes/inputs/needs';
import { useNames } from './recipe-context.ts';
import { CONDITIONS, newCondition } from './recipe-options.ts';
import { AddWord } from './words/ChoiceWord.tsx';

/** Adds a condition to a line. */
export function AddCondition({ label, onAdd }: { label: string; onAdd: (condition: SingleCondition) => void }) {
  const { cell } = useNames();
  const offered = cell ? CONDITIONS.filter(({ of }) => !asksModel(of)) : CONDITIONS;
  return (
    <AddWord
      label={label}
      options={offered.map(({ of, label: text }) => ({ value: of, label: text }))}
      onAdd={(of) => onAdd(newCondition(of))}
    />
  );
}
