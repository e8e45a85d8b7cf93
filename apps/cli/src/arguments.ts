import { parseArgs } from 'node:util';

/** Wrong usage: exit code 2. */
export class UsageError extends Error {
  override readonly name = 'UsageError';
}

export interface OptionSpec {
  type: 'string' | 'boolean';
  multiple?: boolean;
  /** How the value is shown in the help, for instance `N`. */
  value?: string;
  help: string;
}

/** Options that every verb has. */
export const COMMON: Record<string, OptionSpec> = {
  json: { type: 'boolean', help: 'print one JSON document and nothing else on stdout' },
  strict: { type: 'boolean', help: 'stop at the first bad file' },
  threads: { type: 'string', value: 'N', help: 'worker threads (default: as many as cores)' },
  'no-cache': { type: 'boolean', help: 'find everything anew, and keep nothing of it for later runs' },
  seed: { type: 'string', value: 'N', help: 'seed of everything that is shaken (default 1)' },
  quiet: { type: 'boolean', help: 'no progress and no remarks on stderr' },
  help: { type: 'boolean', help: 'this text' },
};

export type Values = Record<string, string | boolean | string[] | undefined>;

/** @throws UsageError in one sentence */
export function parse(args: string[], options: Record<string, OptionSpec>): { values: Values; inputs: string[] } {
  try {
    const { values, positionals } = parseArgs({
      args: withNegativeValues(args, options),
      allowPositionals: true,
      options: Object.fromEntries(
        Object.entries({ ...options, ...COMMON }).map(([k, optionSpec]) => [
          k,
          { type: optionSpec.type, multiple: optionSpec.multiple ?? false },
        ]),
      ),
    });
    return { values: values as Values, inputs: positionals };
  } catch (error) {
    throw new UsageError(error instanceof Error ? error.message.split('. ')[0] : String(error));
  }
}

/** Arguments in which a number below zero is the value of the option before it, not an option of its own. */
function withNegativeValues(args: readonly string[], options: Record<string, OptionSpec>): string[] {
  const out: string[] = [];
  for (const arg of args) {
    const before = out.at(-1);
    const takes = before?.startsWith('--') && options[before.slice(2)]?.type === 'string';
    if (takes && /^-[\d.]/.test(arg)) out[out.length - 1] = `${before}=${arg}`;
    else out.push(arg);
  }
  return out;
}

/** A whole number in a range. @throws UsageError */
export function whole(values: Values, name: string, fallback: number, min: number, max: number): number {
  const v = values[name];
  if (v === undefined) return fallback;
  const n = Number(v);
  if (!Number.isInteger(n) || n < min || n > max)
    throw new UsageError(`--${name} takes a whole number from ${min} to ${max}, not "${String(v)}"`);
  return n;
}

/** A number in a range; null when it is not given. @throws UsageError */
export function real(values: Values, name: string, min: number, max: number): number | null {
  const v = values[name];
  if (v === undefined) return null;
  const n = Number(v);
  if (v === '' || !Number.isFinite(n) || n < min || n > max)
    throw new UsageError(`--${name} takes a number from ${min} to ${max}, not "${String(v)}"`);
  return n;
}

/** One of some words. @throws UsageError */
export function choice<T extends string>(
  values: Values,
  name: string,
  fallback: T,
  allowed: readonly T[],
  later: readonly string[] = [],
): T {
  const v = values[name];
  if (v === undefined) return fallback;
  if (later.includes(String(v))) throw new UsageError(`--${name} ${String(v)} is not in this build yet`);
  if (!allowed.includes(v as T)) throw new UsageError(`--${name} takes ${allowed.join(' or ')}, not "${String(v)}"`);
  return v as T;
}

export function helpText(
  usage: string,
  about: string,
  options: Record<string, OptionSpec>,
  examples: string[],
): string {
  const rows = Object.entries({ ...options, ...COMMON }).map(([k, optionSpec]) => [
    `--${k}${optionSpec.value ? ` ${optionSpec.value}` : ''}`,
    optionSpec.help,
  ]);
  const width = Math.max(...rows.map((row) => row[0].length));
  return [
    `Usage: ${usage}`,
    '',
    about,
    '',
    'Options:',
    ...rows.map(([a, b]) => `  ${a.padEnd(width)}  ${b}`),
    '',
    'Examples:',
    ...examples.map((example) => `  ${example}`),
    '',
  ].join('\n');
}
