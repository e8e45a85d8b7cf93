import type { RecipeUse } from '@wembrel/core/decisions/recipe/recipe-use';
import type { ViewProps } from '../../../project/view-props.ts';
import { Begin } from './Begin.tsx';
import { CellSheet } from './CellSheet.tsx';
import { InputWords } from './InputWords.tsx';
import { LineTools } from './LineTools.tsx';
import css from './Recipe.module.css';
import { RecipeHead } from './RecipeHead.tsx';
import { RecipeLines } from './RecipeLines.tsx';
import { RecipeSheet } from './RecipeSheet.tsx';
import type { ByHand } from './use-by-hand.ts';
import type { Laid } from './use-laid.ts';
import type { LiveModelState } from './use-live-model.ts';
import type { RecipeHandle } from './use-recipe.ts';
import type { useRecipeActions } from './use-recipe-actions.ts';
import { ChoiceWord } from './words/ChoiceWord.tsx';

/** Stands for a cell among the models. */
const CELL = 'cell';

export interface RecipeTextProps extends Pick<ViewProps, 'project' | 'edit'> {
  /** Path of the model in sight; null: a cell. */
  path: string | null;
  model: number;
  onSubject: (model: number | null) => void;
  handle: RecipeHandle;
  actions: ReturnType<typeof useRecipeActions>;
  hand: ByHand;
  laid: Laid | null;
  live: LiveModelState;
  /** Lines that reach the place that was clicked. */
  reached: ReadonlyMap<string, number>;
  onPoint: (line: string | null) => void;
}

/** The side where the recipe is read and written. */
export function RecipeText(props: RecipeTextProps) {
  const { project, edit, path, model, onSubject, handle, actions, hand, laid, live, reached, onPoint } = props;
  const { use, recipe } = handle;
  const models = project.survey?.models ?? [];
  const remove = (gone: RecipeUse) => {
    edit(`Remove the recipe ${gone.recipe.name}`.slice(0, 120), (decisions) => ({
      ...decisions,
      recipes: decisions.recipes.filter((one) => one.recipe.name !== gone.recipe.name),
    }));
    handle.choose(null);
  };
  const useHere = (name: string) => {
    edit(`${name} for ${path}`.slice(0, 120), (decisions) => ({
      ...decisions,
      recipes: decisions.recipes.map((one) =>
        one.recipe.name === name && path !== null ? { ...one, models: [...one.models, path] } : one,
      ),
    }));
    handle.choose(name);
  };
  return (
    <div className={css.text}>
      <div>
        <p className={css.which}>
          On{' '}
          <ChoiceWord
            label="Model, or a cell"
            value={path === null ? CELL : String(model)}
            options={[
              ...models.map((one, i) => ({ value: String(i), label: one.path })),
              { value: CELL, label: 'a cell of a tile sheet' },
            ]}
            onChange={(v) => onSubject(v === CELL ? null : Number(v))}
          />
        </p>
        {use && (
          <RecipeHead
            project={project}
            use={use}
            uses={handle.uses}
            onChoose={handle.choose}
            onRename={(name) => {
              handle.change('Name of the recipe', (now) => ({ ...now, name }));
              handle.choose(name);
            }}
            onUse={handle.changeUse}
            onNew={actions.create}
            onRemove={() => remove(use)}
          />
        )}
      </div>
      <div className={css.scroll}>
        {use && recipe ? (
          <RecipeLines
            recipe={recipe}
            view={laid?.view ?? null}
            selected={actions.selected}
            shown={actions.shown}
            reached={reached}
            onSelect={actions.select}
            onPoint={onPoint}
            onLine={(name, change, label, trial) => {
              const before = recipe.lines.find((one) => one.name === name);
              const after = before && change(before).name;
              handle.changeLine(name, change, label, trial);
              if (after && after !== name) actions.select(after);
            }}
            onAdd={actions.addKind}
            onKey={actions.onKey}
            onMark={hand.markPlaces}
          />
        ) : (
          <Begin
            on={path === null ? 'cell' : 'model'}
            others={project.decisions.recipes.filter((one) => path !== null && one.cell === null)}
            onNew={actions.create}
            onUse={useHere}
          />
        )}
      </div>
      <div>
        {recipe && actions.selected.size > 0 && (
          <LineTools
            recipe={recipe}
            selected={actions.selected}
            shown={actions.shown}
            hand={hand}
            onShown={actions.setShown}
            onChange={handle.change}
            onRemove={() => actions.remove(actions.selected)}
          />
        )}
        {use?.cell && (
          <CellSheet
            use={use}
            cell={use.cell}
            others={handle.uses.flatMap((one) => (one === use ? [] : [one.recipe]))}
            onUse={handle.changeUse}
            onChange={handle.change}
            onNew={actions.create}
          />
        )}
        {recipe && !use?.cell && <InputWords inputs={recipe.inputs} onChange={handle.change} />}
        {use && !use.cell && <RecipeSheet use={use} layout={live.layout} apart={live.apart} onUse={handle.changeUse} />}
      </div>
    </div>
  );
}
