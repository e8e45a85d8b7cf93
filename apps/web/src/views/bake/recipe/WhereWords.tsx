import type { Condition } from '@wembrel/core/decisions/recipe/condition';
import { Fragment } from 'react';
import { type SetPart, useNames } from './recipe-context.ts';
import { SingleWords } from './SingleWords.tsx';
import { ChoiceWord } from './words/ChoiceWord.tsx';
import css from './words/Words.module.css';

interface WhereProps<T extends Condition> {
  value: T;
  set: SetPart<Condition>;
  /** Takes it away; null where nothing would be left. */
  drop: (() => void) | null;
  /** The line is selected: what can be taken away or added is shown. */
  open: boolean;
  /** Says the opposite of it; else it is put behind a "not". */
  flip?: () => void;
}

/** A condition, as the end of a sentence. */
export function WhereWords({ value, set, drop, open, flip }: WhereProps<Condition>) {
  if ('use' in value) return <UseWords value={value} set={set} drop={drop} open={open} />;
  if ('not' in value)
    return (
      <>
        not{' '}
        <WhereWords
          value={value.not}
          set={(not, label, trial) => set({ not }, label, trial)}
          drop={drop}
          open={open}
          flip={() => set(value.not, 'The opposite of a condition')}
        />
      </>
    );
  if ('all' in value || 'any' in value) {
    const list = 'all' in value ? value.all : value.any;
    const word = 'all' in value ? 'and' : 'or';
    const rebuilt = (next: Condition[]): Condition =>
      next.length === 1 ? next[0] : 'all' in value ? { ...value, all: next } : { any: next };
    return (
      <>
        {list.map((one, i) => (
          // biome-ignore lint/suspicious/noArrayIndexKey: conditions have no other name than their place
          <Fragment key={i}>
            {i > 0 && (open ? <JoinWord value={value} list={list} set={set} /> : ` ${word} `)}
            {'all' in one || 'any' in one ? '(' : ''}
            <WhereWords
              value={one}
              set={(next, label, trial) => set(rebuilt(list.map((v, k) => (k === i ? next : v))), label, trial)}
              drop={() => set(rebuilt(list.filter((_, k) => k !== i)), 'Remove a condition')}
              open={open}
            />
            {'all' in one || 'any' in one ? ')' : ''}
          </Fragment>
        ))}
      </>
    );
  }
  return (
    <>
      <SingleWords value={value} set={set} open={open} />
      {open && (
        <>
          <button
            type="button"
            className={css.drop}
            title="The opposite"
            aria-label="Not: the opposite of this condition"
            onClick={flip ?? (() => set({ not: value }, 'The opposite of a condition'))}
          >
            not
          </button>
          {drop && (
            <button
              type="button"
              className={css.drop}
              title="Remove this condition"
              aria-label="Remove this condition"
              onClick={drop}
            >
              ×
            </button>
          )}
        </>
      )}
    </>
  );
}

/** All of them or any of them. */
function JoinWord({ value, list, set }: { value: Condition; list: Condition[]; set: SetPart<Condition> }) {
  return (
    <>
      {' '}
      <ChoiceWord
        label="All of these conditions, or any of them"
        value={'all' in value ? (value.by === 'least' ? 'least' : 'and') : 'or'}
        options={[
          { value: 'and', label: 'and' },
          { value: 'least', label: 'and (the least)' },
          { value: 'or', label: 'or' },
        ]}
        onChange={(join) =>
          set(
            join === 'or' ? { any: list } : { all: list, by: join === 'least' ? 'least' : 'product' },
            join === 'or' ? 'Any of the conditions' : 'All of the conditions',
          )
        }
      />{' '}
    </>
  );
}

function UseWords({ value, set, drop, open }: WhereProps<{ use: string }>) {
  const { shared } = useNames();
  return (
    <>
      where{' '}
      <ChoiceWord
        label="Shared condition"
        value={value.use}
        options={shared.map((name) => ({ value: name, label: `“${name}”` }))}
        onChange={(use) => set({ use }, 'Another shared condition')}
      />{' '}
      holds
      {open && drop && (
        <button type="button" className={css.drop} aria-label="Remove this condition" onClick={drop}>
          ×
        </button>
      )}
    </>
  );
}
