import type { SheetMaps } from '@wembrel/core/bake/transfer';
import type { LookSource } from '@wembrel/core/decisions/recipe/look';
import { Recipe } from '@wembrel/core/decisions/recipe/recipe';
import type { JobScope } from '../../pool/job-scope.ts';
import type { InputFile } from '../../read/collect.ts';
import type { Looks } from '../looks.ts';
import { openLiveCell } from './live-cell.ts';

/** One repeat of a look, to be chosen by: its maps, or why it cannot be read. @param side px */
export async function slabOf(
  look: LookSource,
  from: { pictures: readonly InputFile[]; looks: Looks | null },
  side: number,
  scope: JobScope,
): Promise<SheetMaps | string> {
  const line = { name: 'look', what: { look, lay: { by: 'uv', metres: 1 } } };
  const recipe = Recipe.parse({ recipe: 1, name: 'slab', lines: [line] });
  const cell = openLiveCell({ ground: null, ...from, side, metres: [1, 1] }, scope);
  const { maps, problems } = await cell.lay(recipe, from.pictures);
  return problems.find(({ leftOut }) => leftOut)?.message ?? maps;
}
