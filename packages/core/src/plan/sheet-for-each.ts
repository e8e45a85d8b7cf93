import type { MergeDecisions } from '../decisions/decisions.ts';
import { fitsObject, type ObjectNames } from '../decisions/object-patterns.ts';
import { addRule, type RouteRule } from '../decisions/rules.ts';
import { MOST_SHEETS, PROPOSED_SIDES, plainSheet, type SheetDecision } from '../decisions/sheets.ts';

/** What dealing out sheets to objects reads of a slot. */
export interface SlotOfObjects {
  path: string;
  objects: readonly ObjectNames[];
  /** Equal for slots that look the same. */
  look: string;
  islands: readonly { key: string; area: number }[];
}

/** An object of a model: what stands just below all that the model's objects have in common. */
export interface SceneObject {
  path: string;
  name: string;
  /** Texels of its islands at the sharpness of its sources, each counted once. */
  texels: number;
}

/** Share of a sheet that islands are taken to cover. */
const COVERAGE = 0.7;

/** Objects by name, those of one name and model as one, sorted by model and name. */
export function objectsOf(slots: readonly SlotOfObjects[]): SceneObject[] {
  const chains = new Map<string, ObjectNames[]>();
  for (const { path, objects } of slots) chains.set(path, [...(chains.get(path) ?? []), ...objects]);
  const common = new Map([...chains].map(([path, all]) => [path, sharedLength(all)]));
  const found = new Map<string, SceneObject & { seen: Set<string> }>();
  for (const { path, objects, look, islands } of slots)
    for (const names of objects) {
      const name = names[Math.min(common.get(path) ?? 0, names.length - 1)];
      if (name === undefined) continue;
      const key = JSON.stringify([path, name]);
      const object = found.get(key) ?? { path, name, texels: 0, seen: new Set<string>() };
      found.set(key, object);
      for (const island of islands) {
        const own = `${look} ${island.key}`;
        if (!object.seen.has(own)) object.texels += island.area;
        object.seen.add(own);
      }
    }
  const { compare } = new Intl.Collator('en', { numeric: true });
  return [...found.values()]
    .map(({ seen: _, ...object }) => object)
    .sort((a, b) => compare(a.path, b.path) || compare(a.name, b.name) || (a.name < b.name ? -1 : 1));
}

/** How many names from the root on all objects share; at least one is left of each. */
function sharedLength(objects: readonly ObjectNames[]): number {
  const [first] = objects;
  let length = Math.min(...objects.map((names) => names.length - 1));
  for (let i = 0; i < length; i++) if (objects.some((names) => names[i] !== first[i])) length = i;
  return Math.max(0, length);
}

/**
 * A plan in which each object has a sheet of its own, called after it and as large as the islands that only it shows are said to need.
 * @throws Error with a sentence when there are more objects than sheets
 */
export function sheetForEachObject(decisions: MergeDecisions, slots: readonly SlotOfObjects[]): MergeDecisions {
  const objects = objectsOf(slots);
  if (objects.length === 0) throw new Error('nothing is drawn by an object with a name');
  if (objects.length > MOST_SHEETS)
    throw new Error(`there are ${objects.length} objects, and a plan has at most ${MOST_SHEETS} sheets`);
  const margin = decisions.sheets[0].margin;
  const names = new Set<string>();
  const sheets: SheetDecision[] = [];
  let rules: RouteRule[] = [];
  objects.forEach(({ path, name, texels }, i) => {
    const id = `${i + 1}`;
    const side = PROPOSED_SIDES.find((s) => s ** 2 * COVERAGE >= texels) ?? (PROPOSED_SIDES.at(-1) as number);
    sheets.push(plainSheet(id, freeName(name, names), side, margin));
    rules = addRule(rules, { kind: 'object', pattern: objectPattern({ path, name }, objects) }, id);
  });
  return { ...decisions, sheets, rules, routes: [], leftOut: [], scale: 'detail', proposed: null };
}

/** The pattern that an object fits; it names the model where there are several. */
export const objectPattern = (
  { path, name }: Pick<SceneObject, 'path' | 'name'>,
  all: readonly SceneObject[],
): string => (all.some((other) => other.path !== path) ? `${path}/${name}` : name);

/** Patterns that no object fits. */
export const fittingNone = (patterns: readonly string[], slots: readonly Pick<SlotOfObjects, 'path' | 'objects'>[]) =>
  patterns.filter(
    (pattern) => !slots.some(({ path, objects }) => objects.some((names) => fitsObject(pattern, path, names))),
  );

/** A name that a sheet may have and none has yet. */
function freeName(name: string, taken: Set<string>): string {
  const plain =
    name
      .normalize('NFC')
      .replace(/[^\p{L}\p{M}\p{N} _.-]+/gu, '_')
      .replace(/^[^\p{L}\p{N}]+/u, '')
      .slice(0, 50)
      .trim() || 'object';
  let out = plain;
  for (let n = 2; taken.has(out.toLowerCase()); n++) out = `${plain} ${n}`;
  taken.add(out.toLowerCase());
  return out;
}
