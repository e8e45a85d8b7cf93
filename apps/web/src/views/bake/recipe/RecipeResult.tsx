import { useQuery } from '@tanstack/react-query';
import { canonicalJson } from '@wembrel/core/canonical-json';
import type { Recipe } from '@wembrel/core/decisions/recipe/recipe';
import type { JobView, ProjectView, RecipeResultView } from '../../../contract/project.ts';
import { call } from '../../../project/call.ts';
import { ButtonLink } from '../../../ui/Button.tsx';
import { bytes } from '../../../ui/format.ts';
import { GoOn } from '../GoOn.tsx';
import css from './Recipe.module.css';

export interface RecipeJobs {
  last: JobView | undefined;
  running: JobView | undefined;
  failed: JobView | undefined;
}

/** The jobs of a recipe of a project. */
export function recipeJobs({ jobs }: Pick<ProjectView, 'jobs'>, name: string | null): RecipeJobs {
  const own = jobs.filter(({ kind, sheet }) => (kind === 'recipe-proof' || kind === 'recipe-final') && sheet === name);
  const [newest] = own;
  return {
    last: own.find(({ state }) => state === 'done'),
    running: own.find(({ state }) => state === 'running' || state === 'queued'),
    failed: newest?.state === 'failed' || newest?.state === 'interrupted' ? newest : undefined,
  };
}

/** What was made of a recipe last: how much, whether it is still so, and where it goes. */
export function RecipeResult({ job, recipe, stamp }: { job: JobView; recipe: Recipe; stamp: string }) {
  const { data: result } = useQuery({
    queryKey: ['recipe', job.id],
    staleTime: Infinity,
    queryFn: () => call<RecipeResultView>(`/api/jobs/${job.id}/files/recipe.json`),
  });
  if (!result) return null;
  const stale = job.madeFrom !== stamp || canonicalJson(result.made) !== canonicalJson(recipe);
  const size = Object.values(result.sizes).reduce((sum, n) => sum + n, 0);
  const notes = [
    ...result.faults.map(({ subject, message }) => `${subject}: ${message}`),
    ...result.errors.map(({ path, message }) => `${path}: ${message}`),
  ];
  return (
    <div className={css.result}>
      <p>
        <b>{result.proof ? 'Proof' : 'Final'}</b>
        {stale && ', out of date'}:{' '}
        {result.models.every(({ layout }) => layout === 'cell')
          ? 'one cell'
          : result.models.length === 1
            ? 'one model'
            : `${result.models.length} models`}
        , {bytes(size)}
        {notes.length > 0 && (
          <span title={notes.join('\n')}>
            , <b>{notes.length === 1 ? 'one note' : `${notes.length} notes`}</b>
          </span>
        )}
      </p>
      <ButtonLink href={`/api/jobs/${job.id}/zip`} download tone={result.proof ? 'plain' : 'main'}>
        Download (ZIP)
      </ButtonLink>
      {result.models.some(({ layout }) => layout !== 'cell') && (
        <GoOn job={job.id} of="dressed models" under="dressed" />
      )}
    </div>
  );
}
