import { canonicalJson } from '@wembrel/core/canonical-json';
import { fitsFile } from '@wembrel/core/decisions/patterns';
import type { Recipe } from '@wembrel/core/decisions/recipe/recipe';
import { isForModel } from '@wembrel/core/decisions/recipe/recipe-use';
import { highsOfModel } from '@wembrel/core/rays/pairing/highs-of-model';
import { activeLines, recipeNeeds } from '@wembrel/core/recipes/inputs/needs';
import type { LiveQuestion } from '../../contract/live-recipe.ts';
import { projectFiles } from '../jobs/project-files.ts';
import { POOL_WORKER } from '../store/paths.ts';
import { Problem } from '../store/problem.ts';
import { requireProject } from '../store/projects.ts';
import { stampOver } from '../store/stamps.ts';
import type { LiveOrder } from './live-message.ts';

/** What the thread is given for a question: the project as it stands now. @throws Problem */
export async function liveOrder(
  projectId: string | undefined,
  { on, question }: LiveQuestion,
): Promise<{ project: string; order: Omit<LiveOrder, 'cancel'> }> {
  const project = await requireProject(projectId);
  const { sources, decisions } = project.state;
  const { models, textures, faces } = await projectFiles(project.state);
  const path = 'model' in on ? on.model : null;
  const file = path === null ? null : models.find(({ name }) => name === path);
  if (file === undefined) throw new Problem(404, `the project holds no model "${path}"`);
  const recipe = 'recipe' in question ? question.recipe : null;
  const high = path === null ? new Set<string>() : highsOfModel(decisions.rays.pairings, path);
  const others = recipe || question.ask === 'slab' ? othersFor(recipe, question) : [];
  const wanted = (name: string) => others.some((pattern) => fitsFile(name, pattern));
  const taken = models.filter((one) => one !== file && !high.has(one.name) && wanted(one.name));
  const use = decisions.recipes.find((one) => path !== null && isForModel(one, path));
  const read =
    path === null
      ? { ground: recipe?.ground ?? null, cell: on }
      : sourcesOf(sources, [...decisions.recipes.map((one) => one.recipe), ...(recipe ? [recipe] : [])]);
  return {
    project: project.id,
    order: {
      on,
      question,
      key: canonicalJson([
        project.id,
        path,
        taken.map(({ path: blob }) => blob),
        [...high],
        decisions.reading,
        faces,
        read,
      ]),
      worker: POOL_WORKER,
      file,
      high: models.filter(({ name }) => high.has(name)),
      others: taken,
      textures,
      reading: decisions.reading,
      faces,
      sheet: use?.size ?? 1024,
      margin: use?.margin ?? 8,
    },
  };
}

/** Patterns of the models whose materials are taken: not those of any model, since the one in sight will do. */
function othersFor(recipe: Recipe | null, question: LiveQuestion['question']): string[] {
  const looks = (recipe ? activeLines(recipe) : []).flatMap(({ what }) => ('look' in what ? [what.look] : []));
  if (question.ask === 'slab') looks.push(question.look);
  return looks.flatMap((look) => (look.from === 'slot' && look.model !== '*' ? [look.model] : []));
}

/** One text for the sources, without the pictures that recipes read: those may change while one is tuned. Every question about a model has the same one. */
function sourcesOf(sources: Parameters<typeof stampOver>[0], recipes: readonly Recipe[]): string {
  const named = [...new Set(recipes.flatMap(picturesOf))];
  const counted = Object.entries(sources).filter(([name]) => !named.some((one) => fitsFile(name, one)));
  return stampOver(Object.fromEntries(counted));
}

function picturesOf(recipe: Recipe): string[] {
  const { idPictures, masks } = recipeNeeds(recipe);
  const files = activeLines(recipe).flatMap(({ what }) =>
    'look' in what && what.look.from === 'files' ? [what.look.names] : [],
  );
  return [...idPictures, ...masks, ...files];
}
