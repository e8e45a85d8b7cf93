import { helpText, type OptionSpec, parse, UsageError } from '../arguments.ts';
import { table } from '../output.ts';
import { browserBenches } from './browser.ts';
import { packingBenches } from './packing.ts';
import { rayBenches } from './rays.ts';
import { recipeBenches } from './recipes.ts';
import { selectBenches } from './select.ts';
import { standInBenches } from './stand-in.ts';
import { surveyBenches } from './survey.ts';
import { textureBenches } from './textures.ts';
import type { BenchRow } from './turns.ts';
import { unwrapBenches } from './unwrap.ts';
import { wholeBenches } from './whole.ts';

const BENCHES: Record<string, () => BenchRow[] | Promise<BenchRow[]>> = {
  textures: textureBenches,
  packing: packingBenches,
  unwrap: unwrapBenches,
  select: selectBenches,
  rays: rayBenches,
  survey: surveyBenches,
  whole: wholeBenches,
  'stand-in': standInBenches,
  recipes: recipeBenches,
  browser: browserBenches,
};

export const benchOptions: Record<string, OptionSpec> = {
  only: { type: 'string', value: Object.keys(BENCHES).join('|'), help: 'one group of benchmarks (default all)' },
};

/** `wembrel bench`: our figures and the references', measured in turns in the same run. */
export async function bench(args: string[]): Promise<number> {
  const { values } = parse(args, benchOptions);
  if (values.help) {
    process.stdout.write(
      helpText(
        'wembrel bench [--json]',
        'Runs the benchmarks. Each line has our figure, that of a reference run in turns with it, and their ratio.',
        benchOptions,
        ['wembrel bench', 'wembrel bench --only packing --json'],
      ),
    );
    return 0;
  }
  const only = values.only === undefined ? Object.keys(BENCHES) : [String(values.only)];
  for (const name of only)
    if (!BENCHES[name]) throw new UsageError(`--only takes ${Object.keys(BENCHES).join(' or ')}`);
  const rows: BenchRow[] = [];
  for (const name of only) {
    if (!values.quiet) process.stderr.write(`measuring ${name} …\n`);
    rows.push(...(await BENCHES[name]()));
  }
  if (values.json) process.stdout.write(`${JSON.stringify({ benches: rows, errors: [] }, null, 2)}\n`);
  else {
    const shown = (v: number | null) => (v === null ? 'not measured' : String(v));
    process.stdout.write(
      `${table([
        ['', 'ours', 'reference', 'ratio', ''],
        ...rows.map((row) => [
          `${row.name} (${row.unit})`,
          shown(row.ours),
          shown(row.reference),
          shown(row.ratio),
          `${row.against}${row.note ? `; ${row.note}` : ''}`,
        ]),
      ])}\n`,
    );
  }
  return 0;
}
