import type { RecipeUse } from '@wembrel/core/decisions/recipe/recipe-use';
import { useMemo, useState } from 'react';
import type { SurveyView } from '../../../contract/project.ts';
import { Button } from '../../../ui/Button.tsx';
import { Dialog } from '../../../ui/Dialog.tsx';
import { TextField } from '../../../ui/Field.tsx';
import { MiddleCut } from '../../../ui/MiddleCut.tsx';
import css from './Recipe.module.css';
import { type ModelMatch, recipeMatches } from './recipe-matches.ts';

interface RecipeModelsProps {
  use: RecipeUse;
  survey: SurveyView;
  onModels: (models: string[]) => void;
}

/** For which models a recipe is; a window shows what it would find on each before other ones are taken. */
export function RecipeModels({ use, survey, onModels }: RecipeModelsProps) {
  const [open, setOpen] = useState(false);
  const [text, setText] = useState('');
  const models = useMemo(() => text.split(',').flatMap((name) => name.trim() || []), [text]);
  const matches = useMemo(
    () => (open ? recipeMatches({ ...use, models: models.length > 0 ? models : use.models }, survey) : []),
    [open, use, models, survey],
  );
  const meant = matches.filter((match) => match.meant);
  const now = useMemo(() => recipeMatches(use, survey).filter((match) => match.meant), [use, survey]);
  const lacking = now.filter((match) => match.missing.length > 0).length;
  return (
    <>
      <button
        type="button"
        className={css.models}
        title="What the recipe finds on each model"
        onClick={() => {
          setText(use.models.join(', '));
          setOpen(true);
        }}
      >
        {now.length === 1 ? 'one model' : `${now.length} of ${survey.models.length} models`}
        {lacking > 0 && `, ${lacking} without some of what it names`}
      </button>
      <Dialog
        open={open}
        title={`Models of ${use.recipe.name}`}
        about="Names apart by commas; * stands for any letters. Below is what the lines would find on each model."
        onClose={() => setOpen(false)}
      >
        <TextField label="Models by name" value={text} onChange={setText} />
        <ul className={css.matches} aria-label="Models and what is found on them">
          {[...meant, ...matches.filter((match) => !match.meant)].map((match) => (
            <Match key={match.path} match={match} />
          ))}
        </ul>
        <p className={css.matchEnd}>
          <span>
            For {meant.length} of {matches.length} models.
          </span>
          <Button
            tone="main"
            disabled={models.length === 0}
            title={models.length === 0 ? 'At least one name is needed' : undefined}
            onClick={() => {
              onModels(models);
              setOpen(false);
            }}
          >
            Take these models
          </Button>
        </p>
      </Dialog>
    </>
  );
}

function Match({ match: { path, meant, found, missing } }: { match: ModelMatch }) {
  const words = (list: readonly string[]) => [...new Set(list)].join(', ');
  const has = words(found.map(({ kind, name }) => `${kind} ${name}`));
  const lacks = words(missing.map(({ kind, pattern, line }) => `no ${kind} ${pattern} (${line})`));
  return (
    <li data-meant={meant}>
      <MiddleCut text={path} />
      <span>{meant ? has || (missing.length === 0 ? 'every line can lie on it' : '') : 'not meant'}</span>
      {meant && lacks !== '' && <span className={css.problem}>{lacks}</span>}
    </li>
  );
}
