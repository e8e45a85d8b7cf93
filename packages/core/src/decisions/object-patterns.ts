import { fitsPattern } from './patterns.ts';

/** Names from the root of a scene down to the node that draws something; nodes without a name are left out. */
export type ObjectNames = readonly string[];

/** The parts of a model's path by which it may be called: all of it, its file name, that without ending. */
const modelNames = (path: string): string[] => {
  const file = path.slice(path.lastIndexOf('/') + 1);
  return [path, file, file.replace(/\.[^.]*$/, '')];
};

/**
 * Whether an object of a model fits a pattern: some name of its own or above it fits, in a model that fits what stands before the last `/`.
 * @param pattern `*` stands for any letters: "bench*", "stop.glb/bench*"
 */
export function fitsObject(pattern: string, model: string, names: ObjectNames): boolean {
  if (names.some((name) => fitsPattern(name, pattern))) return true;
  const cut = pattern.lastIndexOf('/');
  if (cut < 0) return false;
  const [head, tail] = [pattern.slice(0, cut), pattern.slice(cut + 1)];
  return modelNames(model).some((name) => fitsPattern(name, head)) && names.some((name) => fitsPattern(name, tail));
}

/** What decides which objects are told apart. */
export interface ObjectChoices {
  rules: readonly { when: { kind: string; pattern?: string } }[];
  only: readonly string[];
}

/** Patterns of objects that are told apart: slots that such an object shares with others are split, so that each has its own. */
export function objectPatterns({ rules, only }: ObjectChoices): string[] {
  const named = rules.flatMap(({ when }) => (when.kind === 'object' && when.pattern ? [when.pattern] : []));
  return [...new Set([...only, ...named])];
}
