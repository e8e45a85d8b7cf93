import {
  type Condition,
  conditionLeaves,
  MAP_CONDITIONS,
  type MapCondition,
  type SingleCondition,
} from '../../decisions/recipe/condition.ts';
import type { Recipe, RecipeLine } from '../../decisions/recipe/recipe.ts';

/** A distance that some condition reads. */
export interface DistanceNeed {
  key: string;
  /** Border of UV islands; of IDs; or the signed distance to the border of some ID colours, negative inside. */
  to: 'uv' | 'ids' | 'colours';
  /** File of the picture of IDs; '' for those that are baked. */
  picture: string;
  /** R + 256 G + 65536 B */
  colours: number[];
  /** Patterns of names. */
  names: string[];
  /** mm beyond which nobody asks. */
  reach: number;
}

/** What a recipe reads before it can be evaluated. */
export interface RecipeNeeds {
  maps: MapCondition[];
  /** The baked ID map is read. */
  bakedIds: boolean;
  /** Pictures of IDs, and of masks, by file. */
  idPictures: string[];
  masks: string[];
  distances: DistanceNeed[];
}

/** Number of a colour. */
export const colourCode = (hex: string): number => {
  const v = Number.parseInt(hex.slice(1), 16);
  return (v >> 16) | (v & 0xff00) | ((v & 255) << 16);
};

/** Lines that are evaluated. */
export const activeLines = (recipe: Recipe): RecipeLine[] => recipe.lines.filter((line) => !line.off);

/** All single conditions that a line asks, those of shared ones as well. */
export function lineConditions(recipe: Recipe, line: RecipeLine): SingleCondition[] {
  return line.where ? singlesOf(recipe, line.where) : [];
}

function singlesOf(recipe: Recipe, condition: Condition): SingleCondition[] {
  const { singles, uses } = conditionLeaves(condition);
  return [...singles, ...uses.flatMap((name) => singlesOf(recipe, recipe.conditions[name]))];
}

/** How far from a border a stretch of distances still matters, mm. */
const reachOf = ({ from, to, soft, wander }: Extract<SingleCondition, { of: 'uv-border' | 'id-border' }>): number =>
  Math.max(from ?? 0, to ?? 0) + soft + (wander?.by ?? 0);

/** The distance that a condition reads, or null. */
export function distanceNeed(condition: SingleCondition): DistanceNeed | null {
  if (condition.of === 'uv-border')
    return { key: 'uv', to: 'uv', picture: '', colours: [], names: [], reach: reachOf(condition) };
  if (condition.of === 'id-border')
    return { key: 'ids', to: 'ids', picture: '', colours: [], names: [], reach: reachOf(condition) };
  if (condition.of !== 'id' || condition.soft === 0) return null;
  const colours = condition.colours.map(colourCode).sort((a, b) => a - b);
  const picture = condition.picture ?? '';
  const names = [...condition.names].sort();
  const key = JSON.stringify([picture, colours, names]);
  return { key, to: 'colours', picture, colours, names, reach: condition.soft };
}

/** What all lines that are evaluated read. */
export function recipeNeeds(recipe: Recipe): RecipeNeeds {
  const singles = activeLines(recipe).flatMap((line) => lineConditions(recipe, line));
  const distances = new Map<string, DistanceNeed>();
  for (const single of singles) {
    const need = distanceNeed(single);
    if (!need) continue;
    const known = distances.get(need.key);
    distances.set(need.key, known ? { ...need, reach: Math.max(known.reach, need.reach) } : need);
  }
  const pictures = singles.flatMap((single) => (single.of === 'id' ? [single.picture ?? ''] : []));
  return {
    maps: MAP_CONDITIONS.filter((kind) => singles.some((single) => single.of === kind)),
    bakedIds: pictures.includes('') || singles.some((single) => single.of === 'id-border'),
    idPictures: [...new Set(pictures.filter((name) => name !== ''))],
    masks: [...new Set(singles.flatMap((single) => (single.of === 'mask' ? [single.picture] : [])))],
    distances: [...distances.values()],
  };
}

/** Whether a recipe names pictures: IDs, masks or loose textures. */
export function namesPictures(recipe: Recipe): boolean {
  const { idPictures, masks } = recipeNeeds(recipe);
  const files = activeLines(recipe).some(({ what }) => 'look' in what && what.look.from === 'files');
  return files || idPictures.length > 0 || masks.length > 0;
}

/** Conditions that only a surface of a model has an answer to. */
const NEED_SURFACE: ReadonlySet<SingleCondition['of']> = new Set([
  ...MAP_CONDITIONS,
  'slot',
  'part',
  'model',
  'group',
  'island',
  'facing',
  'uv-border',
  'id-border',
  'strokes',
]);

/** Whether a condition is asked of the surface of a model, so that a cell has no answer to it. */
export const asksModel = (of: SingleCondition['of']): boolean => NEED_SURFACE.has(of);

/** Why a line cannot be laid on a cell, or null. */
export function needsSurface(recipe: Recipe, line: RecipeLine): string | null {
  const single = lineConditions(recipe, line).find(({ of }) => NEED_SURFACE.has(of));
  return single ? `a cell has no ${single.of}: that is asked of the surface of a model` : null;
}
