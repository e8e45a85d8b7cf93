import { canonicalJson } from '@wembrel/core/canonical-json';
import type { Condition } from '@wembrel/core/decisions/recipe/condition';
import { Recipe } from '@wembrel/core/decisions/recipe/recipe';
import { andAlso, freshName } from './recipe-options.ts';

/** Other cells that follow from one: its variants, and the way over to another one. */

/** The same recipe with other chances: every seed is another one. */
export function variantOf(recipe: Recipe): Partial<Recipe> {
  const other = (value: unknown): unknown => {
    if (Array.isArray(value)) return value.map(other);
    if (value === null || typeof value !== 'object') return value;
    return Object.fromEntries(
      Object.entries(value).map(([key, v]) => [key, key === 'seed' && typeof v === 'number' ? v + 101 : other(v)]),
    );
  };
  return Recipe.parse({ ...(other(recipe) as Recipe), name: `${recipe.name}, variant` });
}

/** A recipe that gives way to another one towards +X, along a border that strays. @param metres width of the cell */
export function transitionOf(recipe: Recipe, to: Recipe, metres: number): Partial<Recipe> {
  const mm = metres * 1000;
  const border: Condition = {
    of: 'position',
    axis: 'x',
    within: 'world',
    unit: 'mm',
    end: 'low',
    from: mm / 2,
    to: null,
    soft: mm / 50,
    wander: { by: mm / 10, size: mm / 4, seed: 1 },
  };
  const shared = { ...recipe.conditions };
  // A condition of the same name may say something else in each.
  const names = new Map<string, string>();
  for (const [name, condition] of Object.entries(to.conditions)) {
    const same = canonicalJson(shared[name] ?? condition) === canonicalJson(condition);
    names.set(name, same ? name : freshName(name, [...Object.keys(shared), ...Object.keys(to.conditions)]));
    shared[names.get(name) as string] = condition;
  }
  const borderName = freshName('beyond the border', Object.keys(shared));
  const taken = recipe.lines.map(({ name }) => name);
  const lines = to.lines.map((line) => {
    const name = freshName(line.name, taken);
    taken.push(name);
    return { ...line, name, where: andAlso(line.where && renamed(line.where, names), { use: borderName }) };
  });
  return Recipe.parse({
    ...recipe,
    name: `${recipe.name} to ${to.name}`.slice(0, 120),
    conditions: { ...shared, [borderName]: border },
    lines: [...recipe.lines, ...lines],
  });
}

/** A condition with the shared ones that it uses under other names. */
function renamed(condition: Condition, names: ReadonlyMap<string, string>): Condition {
  if ('use' in condition) return { use: names.get(condition.use) ?? condition.use };
  if ('not' in condition) return { not: renamed(condition.not, names) };
  if ('all' in condition) return { ...condition, all: condition.all.map((one) => renamed(one, names)) };
  return 'any' in condition ? { any: condition.any.map((one) => renamed(one, names)) } : condition;
}
