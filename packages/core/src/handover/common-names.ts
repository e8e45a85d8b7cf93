import { freeName } from '../decisions/free-name.ts';

/** A material of one model: what it looks like, and what it is called. */
export interface NamedLook {
  look: string;
  name: string;
}

/**
 * One name for each look that is there under different names: the one that most models use, of equals the one that comes first. Two looks
 * never get the same one: the later gets a number.
 * @param models materials of each model @returns new name by look; looks that need none are left out
 */
export function commonNames(models: readonly (readonly NamedLook[])[]): Map<string, string> {
  const byLook = new Map<string, Map<string, number>>();
  for (const materials of models)
    for (const key of new Set(materials.map(({ look, name }) => JSON.stringify([look, name])))) {
      const [look, name] = JSON.parse(key) as [string, string];
      const names = byLook.get(look) ?? new Map<string, number>();
      byLook.set(look, names);
      names.set(name, (names.get(name) ?? 0) + 1);
    }
  // A name that stands for one look already is not given to another.
  const taken = new Set([...byLook.values()].flatMap((names) => (names.size === 1 ? [...names.keys()] : [])));
  const out = new Map<string, string>();
  for (const [look, names] of byLook) {
    if (names.size < 2) continue;
    const [[best]] = [...names].sort((a, b) => b[1] - a[1]);
    const name = freeName(best, taken);
    taken.add(name);
    out.set(look, name);
  }
  return out;
}
