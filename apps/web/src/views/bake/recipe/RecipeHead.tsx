import { Recipe } from '@wembrel/core/decisions/recipe/recipe';
import type { RecipeUse } from '@wembrel/core/decisions/recipe/recipe-use';
import { useRef } from 'react';
import type { ProjectView } from '../../../contract/project.ts';
import { notify } from '../../../project/notices.ts';
import css from './Recipe.module.css';
import { RecipeModels } from './RecipeModels.tsx';
import { ChoiceWord } from './words/ChoiceWord.tsx';
import { NamesWord, TextWord } from './words/TextWord.tsx';

export interface RecipeHeadProps {
  project: ProjectView;
  use: RecipeUse;
  uses: readonly RecipeUse[];
  onChoose: (name: string) => void;
  onRename: (name: string) => void;
  onUse: (label: string, change: (use: RecipeUse) => RecipeUse) => void;
  onNew: (from: Partial<Recipe>) => void;
  onRemove: () => void;
}

/** Which recipe it is, and for which models. */
export function RecipeHead({ project, use, uses, onChoose, onRename, onUse, onNew, onRemove }: RecipeHeadProps) {
  const models = project.survey?.models.map(({ path }) => path) ?? [];
  return (
    <header className={css.title}>
      <TextWord
        label="Name of the recipe"
        strong
        value={use.recipe.name}
        onChange={(name) => onRename(name.slice(0, 120))}
      />
      {uses.length > 1 && (
        <ChoiceWord
          label="Another recipe of this model"
          value={use.recipe.name}
          options={uses.map(({ recipe }) => ({
            value: recipe.name,
            label: recipe.name === use.recipe.name ? 'change to …' : recipe.name,
          }))}
          onChange={onChoose}
        />
      )}
      {!use.cell && (
        <span className={css.for}>
          for{' '}
          <NamesWord
            label="Models by name, apart by commas; * stands for any letters"
            value={use.models}
            known={['*', ...models]}
            onChange={(list) => onUse('Models of a recipe', (now) => ({ ...now, models: list }))}
          />
          {project.survey && (
            <>
              {' ('}
              <RecipeModels
                use={use}
                survey={project.survey}
                onModels={(list) => onUse('Models of a recipe', (now) => ({ ...now, models: list }))}
              />
              )
            </>
          )}
          {', '}
          <ChoiceWord
            label="Sheets of the merge"
            value={use.sheets.length === 0 ? 'none' : use.sheets.join()}
            options={[
              { value: 'none', label: 'each on a sheet of its own' },
              { value: '*', label: 'and on the merge’s sheets too' },
              ...project.decisions.sheets.map(({ name }) => ({ value: name, label: `and on the sheet ${name}` })),
            ]}
            onChange={(sheet) =>
              onUse('Sheets of a recipe', (now) => ({ ...now, sheets: sheet === 'none' ? [] : [sheet] }))
            }
          />
        </span>
      )}
      <RecipeFiles use={use} onNew={onNew} onRemove={onRemove} />
    </header>
  );
}

function RecipeFiles({ use, onNew, onRemove }: Pick<RecipeHeadProps, 'use' | 'onNew' | 'onRemove'>) {
  return (
    <span className={css.adders}>
      <button type="button" onClick={() => onNew({ ...use.recipe })} title="A copy of it, to try another way beside it">
        Copy as alternative
      </button>
      <button type="button" onClick={() => onNew({})}>
        New
      </button>
      <OpenRecipe onOpen={onNew} />
      <button type="button" onClick={() => saveRecipe(use.recipe)}>
        Save as file
      </button>
      <button type="button" onClick={onRemove} title="Undo brings it back">
        Remove
      </button>
    </span>
  );
}

/** Opens a recipe that was saved as a file. */
export function OpenRecipe({ onOpen }: { onOpen: (recipe: Recipe) => void }) {
  const picker = useRef<HTMLInputElement>(null);
  const read = async (file: File) => {
    try {
      const parsed = Recipe.safeParse(JSON.parse(await file.text()));
      if (parsed.success) onOpen(parsed.data);
      else {
        const [issue] = parsed.error.issues;
        notify({ tone: 'fault', text: `${file.name}: ${issue.path.join('.') || 'the file'}: ${issue.message}` });
      }
    } catch {
      notify({ tone: 'fault', text: `${file.name} is not JSON` });
    }
  };
  return (
    <>
      <button type="button" onClick={() => picker.current?.click()}>
        Open a file
      </button>
      <input
        ref={picker}
        type="file"
        hidden
        accept=".json,application/json"
        data-testid="recipe-file"
        onChange={(event) => {
          const [file] = event.target.files ?? [];
          if (file) void read(file);
          event.target.value = '';
        }}
      />
    </>
  );
}

function saveRecipe(recipe: Recipe): void {
  const url = URL.createObjectURL(new Blob([`${JSON.stringify(recipe, null, 2)}\n`], { type: 'application/json' }));
  const link = document.createElement('a');
  link.href = url;
  link.download = `${recipe.name.replace(/[\\/:*?"<>|]+/g, '-')}.recipe.json`;
  link.click();
  setTimeout(() => URL.revokeObjectURL(url), 1000);
}
