import type { Recipe } from '@wembrel/core/decisions/recipe/recipe';
import { CONVENTIONS, type Manifest } from '@wembrel/core/handover/manifest';
import type { Delivery } from '../write/delivery.ts';
import type { RecipeReport } from './report.ts';

/** What code needs to know of a delivery, and the recipe that made it; there are no bays. */
export function manifestOf(
  { models, faults }: Pick<RecipeReport, 'models' | 'faults'>,
  recipe: Recipe,
  delivery: Pick<Delivery, 'hashes'>,
): Manifest & { recipe: { recipe: Recipe; dressed: RecipeReport['models']; faults: RecipeReport['faults'] } } {
  return {
    format: 'wembrel-manifest',
    version: 1,
    conventions: CONVENTIONS,
    models: models.flatMap(({ path, source, layout }) => (layout === 'cell' ? [] : [{ file: path, name: source }])),
    sheets: [],
    slots: [],
    keptApart: models.flatMap(({ source, apart }) =>
      apart.map((slot) => ({
        model: source,
        slot,
        code: 'kept-apart',
        reason: 'it is alpha-blended, and stays as it is',
      })),
    ),
    files: delivery.hashes(),
    recipe: { recipe, dressed: models, faults },
  };
}
