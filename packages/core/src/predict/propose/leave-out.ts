import type { LeftOut } from '../../decisions/decisions.ts';
import type { Evaluator } from './evaluator.ts';
import { compareScores } from './score.ts';
import type { Found, SheetChoice } from './search.ts';

/** A plan that was found with some slots left out. */
export interface Trial {
  evaluator: Evaluator;
  choice: SheetChoice;
  found: Found;
  leftOut: readonly LeftOut[];
}

/** Finds the best plan with these slots left out. */
type Try = (leftOut: readonly LeftOut[]) => Trial;

/** So many groups of classes without a gain are tried one by one; beyond it, all together alone. */
const MOST_TRIED = 6;

/** Without a bay that starves its sheet, the others are at least so much sharper; reference, "Worth it". */
const STARVED = 1.25;

/** Sheets that keep this share of the sharpness of use are not called starved. */
const GOOD_SCALE = 0.7;

/** Below this share, what needs most room is left out. */
const LEAST_SCALE = 0.5;

/** One sheet that keeps this share of the sharpness wanted is better than several. */
const ONE_IS_ENOUGH = 0.75;

/**
 * The best plan in which each class of slots is merged only with a gain: fewer draw calls, else a better plan than without it. What is left out already stays
 * so.
 * @param all everything is merged, whether that gains anything or not
 */
export function gainful(
  attempt: Try,
  { leftOut, all: everything }: { leftOut: readonly LeftOut[]; all: boolean },
): Trial {
  const all = attempt(leftOut);
  const useless = everything ? [] : groupsWithoutCalls(all);
  if (useless.length === 0) return all;
  const without = (groups: readonly number[][]) => [
    ...leftOut,
    ...groups.flat().map((u): LeftOut => ({ slot: all.evaluator.units[u].name, why: 'no-gain' })),
  ];
  let left = useless;
  let best = attempt(asStarved(without(left)));
  const better = (trial: Trial) => compareScores(trial.found.score, best.found.score) < 0;
  if (useless.length <= MOST_TRIED)
    for (const group of useless) {
      if (useless.length === 1) break;
      const fewer = left.filter((other) => other !== group);
      const trial = attempt(asStarved(without(fewer)));
      if (better(trial)) [best, left] = [trial, fewer];
    }
  if (better(all)) return all;
  return { ...best, leftOut: without(left) };
}

/** While searching, everything is merged that is not called starved. */
const asStarved = (list: readonly LeftOut[]): LeftOut[] => list.map(({ slot }) => ({ slot, why: 'starved' }));

/** Units by classes that never share, of which none saves a draw call. */
function groupsWithoutCalls({ evaluator, found }: Trial): number[][] {
  const groups: { classes: Set<string>; units: number[] }[] = [];
  evaluator.units.forEach((unit, u) => {
    const own = groups.filter((group) => unit.classes.some((key) => group.classes.has(key)));
    const joined = {
      classes: new Set([...unit.classes, ...own.flatMap((group) => [...group.classes])]),
      units: [...own.flatMap((group) => group.units), u],
    };
    for (const group of own) groups.splice(groups.indexOf(group), 1);
    groups.push(joined);
  });
  const calls = evaluator.drawCalls(found);
  return groups.flatMap(({ units }) => (evaluator.drawCalls(found, new Set(units)) > calls ? [] : [units]));
}

/**
 * What a new project begins with: on one sheet if that is enough, and what would starve its sheet left out.
 * @param attempt takes the slots left out and how many sheets there may be
 * @param wanted how many sheets at most, if somebody said so; and whether everything is merged, whatever it gains
 */
export function cautiousTrial(
  attempt: (leftOut: readonly LeftOut[], most: number) => Trial,
  { sheets, all }: { sheets?: number; all: boolean },
): Trial {
  let leftOut: readonly LeftOut[] = [];
  for (;;) {
    let best = gainful((list) => attempt(list, sheets ?? 1), { leftOut, all });
    if (sheets === undefined && best.found.score.density > -ONE_IS_ENOUGH) {
      const several = gainful((list) => attempt(list, 4), { leftOut, all });
      if (compareScores(several.found.score, best.found.score) < 0) best = several;
    }
    const starving = starvingUnit(best);
    if (starving === null) return best;
    leftOut = [...leftOut, { slot: best.evaluator.units[starving].name, why: 'starved' }];
  }
}

/** The unit without which a sheet would be much sharper, or null. */
function starvingUnit({ evaluator, found }: Trial): number | null {
  for (const [s, sheet] of found.sheets.entries()) {
    const units = found.sheetOf.flatMap((of, u) => (of === s && !evaluator.units[u].flat ? [u] : []));
    if (units.length === 0) continue;
    const scale = (list: readonly number[]) => evaluator.sheetCost(sheet, list).scale;
    const now = scale(units);
    if (now >= GOOD_SCALE) continue;
    const [most] = [...units].sort((a, b) => evaluator.units[b].area - evaluator.units[a].area || a - b);
    const others = units.filter((u) => u !== most);
    if (now < LEAST_SCALE || (others.length > 0 && scale(others) > STARVED * now)) return most;
  }
  return null;
}
