import type { Recipe } from '@wembrel/core/decisions/recipe/recipe';
import type { RecipeUse } from '@wembrel/core/decisions/recipe/recipe-use';
import { transitionOf, variantOf } from './cell-recipes.ts';
import css from './Recipe.module.css';
import { AddWord, ChoiceWord } from './words/ChoiceWord.tsx';
import { ColourWord } from './words/ColourWord.tsx';
import { NumberWord } from './words/NumberWord.tsx';

const SIDES = [64, 128, 256, 512, 1024, 2048];

/** How large a cell is and what lies under its lines; and other cells that follow from it. */
export function CellSheet({
  use,
  cell,
  others,
  onUse,
  onChange,
  onNew,
}: {
  use: RecipeUse;
  cell: NonNullable<RecipeUse['cell']>;
  /** Other recipes of cells. */
  others: readonly Recipe[];
  onUse: (label: string, change: (use: RecipeUse) => RecipeUse) => void;
  onChange: (label: string, change: (recipe: Recipe) => Recipe, trial?: boolean) => void;
  onNew: (from: Partial<Recipe>) => void;
}) {
  const { recipe } = use;
  const ground = recipe.ground ?? { color: '#808080', roughness: 0.6, metallic: 0 };
  const metres = (i: 0 | 1, label: string) => (
    <NumberWord
      label={label}
      unit="m"
      value={cell.metres[i]}
      min={0.01}
      step={0.1}
      onChange={(m, trial) =>
        !trial &&
        onUse(label, (now) => ({
          ...now,
          cell: { ...cell, metres: i === 0 ? [m, cell.metres[1]] : [cell.metres[0], m] },
        }))
      }
    />
  );
  return (
    <p className={css.row}>
      <span>
        A cell of {metres(0, 'Width of the cell')} × {metres(1, 'Height of the cell')},{' '}
        <ChoiceWord
          label="Side of the cell"
          value={String(cell.px)}
          options={[...new Set([...SIDES, cell.px])]
            .sort((a, b) => a - b)
            .map((px) => ({ value: String(px), label: `${px} px` }))}
          onChange={(px) => onUse(`Cell of ${px} px`, (now) => ({ ...now, cell: { ...cell, px: Number(px) } }))}
        />
        , on a ground of{' '}
        <ColourWord
          label="Colour of the ground"
          value={ground.color}
          onChange={(color, trial) =>
            onChange('Colour of the ground', (now) => ({ ...now, ground: { ...ground, color } }), trial)
          }
        />
        .
      </span>
      <button type="button" title="The same sentences with other chances" onClick={() => onNew(variantOf(recipe))}>
        write a variant
      </button>
      {others.length > 0 && (
        <AddWord
          label="write a transition to …"
          options={others.map(({ name }) => ({ value: name, label: name }))}
          onAdd={(name) => {
            const to = others.find((one) => one.name === name);
            if (to) onNew(transitionOf(recipe, to, cell.metres[0]));
          }}
        />
      )}
    </p>
  );
}
