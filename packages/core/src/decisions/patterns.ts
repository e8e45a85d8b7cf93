const compiled = new Map<string, RegExp>();

/** True when a name fits a pattern in which `*` stands for any letters, none included. */
export function fitsPattern(name: string, pattern: string): boolean {
  let exp = compiled.get(pattern);
  if (!exp) {
    const escaped = pattern.split('*').map((path) => path.replace(/[.*+?^${}()|[\]\\]/g, '\\$&'));
    exp = new RegExp(`^${escaped.join('.*')}$`, 's');
    if (compiled.size > 1000) compiled.clear();
    compiled.set(pattern, exp);
  }
  return exp.test(name);
}

/** Whether a file is meant: by its whole path, or by its name alone, wherever it lies. */
export const fitsFile = (path: string, pattern: string): boolean =>
  fitsPattern(path, pattern) || fitsPattern(path.replace(/^.*[\\/]/, ''), pattern);
