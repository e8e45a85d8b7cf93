import { sentence } from '@wembrel/core/errors';
import { UsageError } from './arguments.ts';
import { bake } from './bake.ts';
import { bench } from './bench/bench.ts';
import { cutRepeats, repack, unwrap } from './change.ts';
import { demoFiles } from './demo-files.ts';
import { faces } from './faces.ts';
import { light } from './light.ts';
import { merge } from './merge.ts';
import { palette } from './palette.ts';
import { plan } from './plan.ts';
import { repair } from './repair.ts';
import { survey } from './survey.ts';
import { tileSheet } from './tile-sheet.ts';

const VERBS: Record<string, { run: (args: string[]) => Promise<number>; about: string }> = {
  survey: { run: survey, about: 'what a pile of files costs' },
  merge: { run: merge, about: 'bake all materials onto shared sheets and merge slots' },
  bake: { run: bake, about: 'cast rays from low-polys to high-polys: normal, AO, curvature and other maps' },
  light: { run: light, about: 'multiply AO and a sun into vertex colours' },
  plan: { run: plan, about: 'propose which slots share which sheets, or predict what a plan costs' },
  repair: { run: repair, about: 'hand models over with their own materials, mended: shared textures, fewer copies' },
  faces: { run: faces, about: 'change faces by groups: slots, colours, UVs, strips, cells' },
  unwrap: { run: unwrap, about: 'cut surfaces into charts that lie flat, and pack them' },
  pack: { run: repack, about: 'pack UV islands anew, tightly' },
  'cut-repeats': { run: cutRepeats, about: 'cut tiling surfaces where their texture begins anew' },
  'tile-sheet': { run: tileSheet, about: 'pictures in the cells of one sheet, with its table' },
  palette: { run: palette, about: 'one palette and one material for many models' },
  'demo-files': { run: demoFiles, about: 'write the files of the demo into a folder' },
  bench: { run: bench, about: 'run the benchmarks' },
};

const LATER = ['hull', 'compare', 'run'];

function help(): string {
  const own = Object.entries(VERBS).map(([k, v]) => `  ${k.padEnd(12)}${v.about}`);
  return [
    'Usage: wembrel VERB …',
    '',
    '  demo        build and start the web application with the demo project',
    '  start       start the web application',
    '  test        run all tests',
    ...own,
    '',
    '`wembrel VERB --help` says more.',
    '',
  ].join('\n');
}

async function main(): Promise<number> {
  const [verb, ...args] = process.argv.slice(2);
  if (verb === undefined || verb === '--help' || verb === 'help') {
    process.stdout.write(help());
    return 0;
  }
  const known = VERBS[verb];
  if (!known) {
    const why = LATER.includes(verb) ? `${verb} is not in this build yet` : `there is no verb "${verb}"`;
    throw new UsageError(`${why}; see wembrel --help`);
  }
  return known.run(args);
}

try {
  process.exitCode = await main();
} catch (error) {
  if (error instanceof UsageError) {
    process.stderr.write(`wembrel: ${error.message}\n`);
    process.exitCode = 2;
  } else {
    process.stderr.write(`wembrel: ${sentence(error)}\n`);
    // A program that reads JSON gets some, whatever happened.
    if (process.argv.includes('--json'))
      process.stdout.write(
        `${JSON.stringify({ errors: [{ path: '', message: sentence(error) }], written: [] }, null, 2)}\n`,
      );
    if (process.env.WEMBREL_DEBUG && error instanceof Error) process.stderr.write(`${error.stack}\n`);
    process.exitCode = 1;
  }
}
