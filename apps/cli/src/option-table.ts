import { COMMON, type OptionSpec, parse } from './arguments.ts';

export type OptionsOfVerbs = Readonly<Record<string, Record<string, OptionSpec>>>;

interface OptionRow {
  option: string;
  /** How its value is written; null: it takes none. */
  value: string | null;
  /** Verbs that have it, `all` alone for those of every verb. */
  verbs: string[];
  meaning: string;
}

/** Every option once; verbs in which it means something else have a row of their own. */
function optionRows(verbs: OptionsOfVerbs): OptionRow[] {
  const rows = new Map<string, OptionRow>();
  const add = (verb: string, options: Record<string, OptionSpec>) => {
    for (const [name, { value = null, help }] of Object.entries(options)) {
      const key = `${name} ${help}`;
      const row = rows.get(key) ?? { option: `--${name}`, value, verbs: [], meaning: help };
      row.verbs.push(verb);
      rows.set(key, row);
    }
  };
  for (const [verb, options] of Object.entries(verbs)) add(verb, options);
  add('all', COMMON);
  return [...rows.values()].sort((a, b) => (a.option < b.option ? -1 : a.option > b.option ? 1 : 0));
}

/** `wembrel options`: one table of the options of all verbs. */
export async function options(args: string[], verbs: OptionsOfVerbs): Promise<number> {
  const { values } = parse(args, {});
  const rows = optionRows(verbs);
  const lines = rows.map(({ option, value, verbs, meaning }) => [
    value === null ? option : `${option} ${value}`,
    verbs.join(', '),
    meaning,
  ]);
  const widths = [0, 1].map((column) => Math.max(...lines.map((line) => line[column].length)));
  const text = lines.map(([option, of, meaning]) => `${option.padEnd(widths[0])}  ${of.padEnd(widths[1])}  ${meaning}`);
  process.stdout.write(values.json ? `${JSON.stringify({ options: rows }, null, 2)}\n` : `${text.join('\n')}\n`);
  return 0;
}
