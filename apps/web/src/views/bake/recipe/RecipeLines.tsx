import type { Condition } from '@wembrel/core/decisions/recipe/condition';
import type { Recipe, RecipeLine } from '@wembrel/core/decisions/recipe/recipe';
import { type KeyboardEvent, useEffect, useRef } from 'react';
import type { LaidView } from '../../../contract/live-recipe.ts';
import { percent } from '../../../ui/format.ts';
import { AddCondition } from './AddCondition.tsx';
import { HowWords } from './HowWords.tsx';
import css from './Recipe.module.css';
import { useNames } from './recipe-context.ts';
import type { Shown } from './recipe-edits.ts';
import { andAlso, NEW_LINES, orElse } from './recipe-options.ts';
import { StretchChart } from './StretchChart.tsx';
import { WhatWords } from './WhatWords.tsx';
import { WhereWords } from './WhereWords.tsx';
import { AddWord } from './words/ChoiceWord.tsx';
import { TextWord } from './words/TextWord.tsx';

export interface RecipeLinesProps {
  recipe: Recipe;
  /** What came of the lines when they were laid last. */
  view: LaidView | null;
  selected: ReadonlySet<string>;
  shown: Shown;
  /** Lines that reach the texel that is looked at, and by how much. */
  reached: ReadonlyMap<string, number>;
  onSelect: (name: string | null, more: boolean) => void;
  onPoint: (name: string | null) => void;
  onLine: (name: string, change: (line: RecipeLine) => RecipeLine, label: string, trial?: boolean) => void;
  onAdd: (kind: string) => void;
  onKey: (event: KeyboardEvent, line: string) => void;
  onMark: (line: string) => void;
}

/** A recipe as text: numbered sentences, each value changed where it stands. */
export function RecipeLines(props: RecipeLinesProps) {
  const { recipe, onAdd } = props;
  return (
    <ol className={css.lines} aria-label={`Lines of ${recipe.name}`}>
      {recipe.lines.map((line, i) => (
        <Line key={line.name} line={line} number={i + 1} {...props} />
      ))}
      <li className={css.more}>
        <AddWord
          label={recipe.lines.length === 0 ? 'Write the first line' : 'Add a line'}
          options={NEW_LINES.map(({ value, label }) => ({ value, label }))}
          onAdd={onAdd}
        />
      </li>
    </ol>
  );
}

/** Where it lies is said already. */
const isDecal = ({ what }: RecipeLine): boolean => 'look' in what && what.lay.by === 'side';

function Line({
  line,
  number,
  recipe,
  view,
  selected,
  shown,
  reached,
  onSelect,
  onPoint,
  onLine,
  onKey,
  onMark,
}: RecipeLinesProps & { line: RecipeLine; number: number }) {
  const { cell } = useNames();
  const open = selected.has(line.name);
  const problem = view?.problems.find((one) => one.line === line.name);
  const here = reached.get(line.name);
  const set = (change: (line: RecipeLine) => RecipeLine, label: string, trial?: boolean) =>
    onLine(line.name, change, label, trial);
  const setWhere = (where: Condition | null, label: string, trial?: boolean) =>
    set((now) => ({ ...now, where }), label, trial);
  const at = 'line' in shown ? recipe.lines.findIndex((one) => one.name === shown.line) : -1;
  const state = line.off ? 'off' : shown.kind === 'up-to' && number - 1 > at ? 'later' : undefined;
  const item = useRef<HTMLLIElement>(null);
  // What opens below the fold would not be seen to open.
  useEffect(() => {
    if (open) item.current?.scrollIntoView({ block: 'nearest' });
  }, [open]);
  return (
    <li
      ref={item}
      className={css.line}
      data-line={line.name}
      data-open={open || undefined}
      data-state={state}
      data-reached={here !== undefined || undefined}
      onPointerEnter={() => onPoint(line.name)}
      onPointerLeave={() => onPoint(null)}
      onKeyDown={(event) => onKey(event, line.name)}
    >
      <button
        type="button"
        className={css.number}
        aria-pressed={open}
        aria-label={`Line ${number}, ${line.name}`}
        title="Select; Alt with an arrow moves it, O leaves it out, Delete removes it"
        onClick={(event) =>
          onSelect(open && !event.shiftKey ? null : line.name, event.shiftKey || event.ctrlKey || event.metaKey)
        }
        onFocus={() => onPoint(line.name)}
        onBlur={() => onPoint(null)}
      >
        {number}
      </button>
      <div className={css.sentence}>
        <TextWord
          label={`Name of line ${number}`}
          strong
          value={line.name}
          onChange={(name) => set((now) => ({ ...now, name: name.slice(0, 120) }), 'Name of a line')}
        />
        {': '}
        <WhatWords
          value={line.what}
          set={(what, label, trial) => set((now) => ({ ...now, what }), label, trial)}
          open={open}
        />
        {line.where ? (
          <>
            {', '}
            <WhereWords
              value={line.where}
              set={setWhere}
              drop={() => setWhere(null, 'Remove a condition')}
              open={open}
            />
          </>
        ) : (
          !isDecal(line) && ' everywhere'
        )}
        <HowWords
          value={line.how}
          isLook={'look' in line.what}
          set={(how, label, trial) => set((now) => ({ ...now, how }), label, trial)}
          open={open}
        />
        .{here !== undefined && <span className={css.here}>{percent(here)} here</span>}
        {problem && (
          <p className={css.problem}>
            {problem.leftOut ? 'Left out: ' : ''}
            {problem.message}
          </p>
        )}
        {open && selected.size === 1 && (
          <p className={css.adders}>
            <AddCondition
              label={line.where ? '+ and …' : '+ only …'}
              onAdd={(more) => setWhere(andAlso(line.where, more), 'Add a condition')}
            />
            {line.where && (
              <AddCondition label="+ or …" onAdd={(more) => setWhere(orElse(line.where, more), 'Add a condition')} />
            )}
            {!cell && (
              <button type="button" onClick={() => onMark(line.name)}>
                + mark places
              </button>
            )}
            {!line.how.relief && (
              <button
                type="button"
                onClick={() =>
                  set((now) => ({ ...now, how: { ...now.how, relief: { depth: 0.5, from: 'mask' } } }), 'Relief')
                }
              >
                + relief
              </button>
            )}
            {!line.how.shadow && (
              <button
                type="button"
                onClick={() =>
                  set(
                    (now) => ({
                      ...now,
                      how: { ...now.how, shadow: { towards: [0, -1, 0], distance: 2, soft: 2, strength: 0.5 } },
                    }),
                    'Shadow',
                  )
                }
              >
                + shadow
              </button>
            )}
          </p>
        )}
        {open && selected.size === 1 && line.where && <StretchChart where={line.where} set={setWhere} />}
      </div>
    </li>
  );
}
