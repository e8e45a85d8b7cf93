import type { RecipeUse } from '@wembrel/core/decisions/recipe/recipe-use';
import css from './Recipe.module.css';
import { ChoiceWord } from './words/ChoiceWord.tsx';
import { NumberWord } from './words/NumberWord.tsx';

const SIDES = [256, 512, 1024, 2048, 4096];

/** The sheet that each model gets, as the last sentence. */
export function RecipeSheet({
  use,
  layout,
  apart,
  onUse,
}: {
  use: RecipeUse;
  layout: string | null;
  apart: readonly string[];
  onUse: (label: string, change: (use: RecipeUse) => RecipeUse) => void;
}) {
  return (
    <p className={css.row}>
      <span>
        Final: a sheet of{' '}
        <ChoiceWord
          label="Side of the sheet"
          value={String(use.size)}
          options={[...new Set([...SIDES, use.size])]
            .sort((a, b) => a - b)
            .map((side) => ({ value: String(side), label: `${side} px` }))}
          onChange={(side) => onUse(`Sheet of ${side} px`, (now) => ({ ...now, size: Number(side) }))}
        />
        {', margin '}
        <NumberWord
          label="Margin"
          unit="px"
          value={use.margin}
          min={0}
          max={256}
          onChange={(margin, trial) => !trial && onUse('Margin', (now) => ({ ...now, margin }))}
        />
        {', '}
        <ChoiceWord
          label="Samples"
          value={String(use.samples)}
          options={[1, 4, 16].map((n) => ({
            value: String(n),
            label: n === 1 ? 'one sample a texel' : `${n} samples a texel`,
          }))}
          onChange={(n) => onUse('Samples', (now) => ({ ...now, samples: Number(n) as RecipeUse['samples'] }))}
        />
        {', '}
        <ChoiceWord
          label="Islands that lie over each other"
          value={use.separate ? 'apart' : 'stay'}
          options={[
            { value: 'stay', label: 'stacked islands share their look' },
            { value: 'apart', label: 'stacked islands get places of their own' },
          ]}
          onChange={(v) => onUse('Stacked islands', (now) => ({ ...now, separate: v === 'apart' }))}
        />
        .
      </span>
      {layout && layout !== 'own' && (
        <span>
          {layout === 'packed'
            ? 'Its islands are packed anew, since its slots share texels.'
            : 'It is unwrapped, since it has no UVs of its own.'}
        </span>
      )}
      {apart.length > 0 && <span>Alpha-blended slots stay as they are: {apart.join(', ')}.</span>}
    </p>
  );
}
