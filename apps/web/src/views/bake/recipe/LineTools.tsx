import type { Recipe } from '@wembrel/core/decisions/recipe/recipe';
import { AddCondition } from './AddCondition.tsx';
import { measuredIn } from './measured-in.ts';
import css from './Recipe.module.css';
import { useNames } from './recipe-context.ts';
import { type Shown, underOneCondition, withLine, withMovedLine } from './recipe-edits.ts';
import type { ByHand } from './use-by-hand.ts';
import type { RecipeHandle } from './use-recipe.ts';
import { NumberWord } from './words/NumberWord.tsx';

export interface LineToolsProps {
  recipe: Recipe;
  selected: ReadonlySet<string>;
  shown: Shown;
  hand: ByHand;
  onShown: (shown: Shown) => void;
  onChange: RecipeHandle['change'];
  onRemove: () => void;
}

/** What can be done with the lines that are selected: tried without them, alone, up to them, earlier or later, together under one condition. */
export function LineTools({ recipe, selected, shown, hand, onShown, onChange, onRemove }: LineToolsProps) {
  const { cell } = useNames();
  const names = recipe.lines.flatMap(({ name }) => (selected.has(name) ? [name] : []));
  const [name] = names;
  if (name === undefined) return null;
  if (names.length > 1)
    return (
      <p className={css.row}>
        <b>{names.length} lines</b>
        <AddCondition
          label="all of them only …"
          onAdd={(condition) =>
            onChange('Several lines under one condition', (now) =>
              underOneCondition(now, selected, condition, condition.of),
            )
          }
        />
        <button type="button" onClick={onRemove}>
          remove
        </button>
      </p>
    );
  const line = recipe.lines.find((one) => one.name === name);
  const isShown = (kind: Shown['kind']) => shown.kind === kind && 'line' in shown && shown.line === name;
  const toggle = (kind: 'alone' | 'without' | 'up-to', label: string) => (
    <button
      type="button"
      aria-pressed={isShown(kind)}
      onClick={() => onShown(isShown(kind) ? { kind: 'all' } : { kind, line: name })}
    >
      {isShown(kind) ? <b>{label}</b> : label}
    </button>
  );
  const stretch = !cell && line?.where && measuredIn(line.where, () => {}) !== null;
  const decal = line && 'look' in line.what && line.what.lay.by === 'side';
  return (
    <p className={css.row}>
      <b>{name}</b>
      {toggle('without', 'without it')}
      {toggle('alone', 'alone')}
      {toggle('up-to', 'up to here')}
      <button type="button" onClick={() => onChange(`Move ${name}`, (now) => withMovedLine(now, name, -1))}>
        earlier
      </button>
      <button type="button" onClick={() => onChange(`Move ${name}`, (now) => withMovedLine(now, name, 1))}>
        later
      </button>
      <button
        type="button"
        onClick={() =>
          onChange(line?.off ? `${name} on` : `${name} off`, (now) =>
            withLine(now, name, (one) => ({ ...one, off: !one.off })),
          )
        }
      >
        {line?.off ? 'turn on' : 'turn off'}
      </button>
      {decal && (
        <button
          type="button"
          aria-pressed={hand.mode === 'decal'}
          onClick={() => hand.setMode(hand.mode === 'decal' ? null : 'decal')}
        >
          {hand.mode === 'decal' ? <b>end placing</b> : 'place it on the model'}
        </button>
      )}
      {stretch && (
        <button
          type="button"
          aria-pressed={hand.mode === 'stretch'}
          title="Sets what belongs to its condition by the values on the model"
          onClick={() => hand.setMode(hand.mode === 'stretch' ? null : 'stretch')}
        >
          {hand.mode === 'stretch' ? <b>end setting</b> : 'set its stretch on the model'}
        </button>
      )}
      {hand.mode === 'places' && (
        <>
          <span>
            radius{' '}
            <NumberWord
              label="Radius of what is marked next"
              unit="mm"
              value={hand.radius}
              min={0.5}
              onChange={hand.setRadius}
            />
          </span>
          <button type="button" onClick={() => hand.setMode(null)}>
            <b>end marking</b>
          </button>
        </>
      )}
      <button type="button" onClick={onRemove}>
        remove
      </button>
    </p>
  );
}
