import type { Recipe } from '@wembrel/core/decisions/recipe/recipe';
import type { RecipeUse } from '@wembrel/core/decisions/recipe/recipe-use';
import { Button } from '../../../ui/Button.tsx';
import css from './Recipe.module.css';
import { OpenRecipe } from './RecipeHead.tsx';
import { WORN } from './worn.ts';

/** What stands where lines will: what a recipe is, and the ways to begin one. */
export function Begin({
  on,
  others,
  onNew,
  onUse,
}: {
  on: 'model' | 'cell';
  others: readonly RecipeUse[];
  onNew: (from: Partial<Recipe>) => void;
  onUse: (name: string) => void;
}) {
  return (
    <div className={css.begin}>
      <h2>How this {on} gets its look</h2>
      <p>
        A recipe is read like a text: lines that lay a look or change what is there, each where you say, one over the
        other. It is tried on the model while you write it.
      </p>
      <Button tone="main" onClick={() => onNew({})}>
        Begin an empty recipe
      </Button>
      {on === 'model' && <Button onClick={() => onNew(WORN)}>Begin with paint that is worn and dirty</Button>}
      <span className={css.adders}>
        <OpenRecipe onOpen={onNew} />
      </span>
      {others.length > 0 && (
        <>
          <h2>Recipes of this project</h2>
          {others.map(({ recipe }) => (
            <Button key={recipe.name} onClick={() => onUse(recipe.name)}>
              Use “{recipe.name}” here too
            </Button>
          ))}
        </>
      )}
    </div>
  );
}
