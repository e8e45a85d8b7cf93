import { sentence } from '@wembrel/core/errors';
import { type OptionSpec, UsageError } from './arguments.ts';
import { bake, bakeOptions } from './bake.ts';
import { bench, benchOptions } from './bench/bench.ts';
import { cutRepeats, repack, unwrap } from './change.ts';
import { collide } from './collide.ts';
import { demoFiles, demoFilesOptions } from './demo-files.ts';
import { faces, facesOptions } from './faces.ts';
import { light } from './light.ts';
import { merge, mergeOptions } from './merge.ts';
import { options } from './option-table.ts';
import { palette, paletteOptions } from './palette.ts';
import { plan, planOptions } from './plan.ts';
import { profile } from './profiles.ts';
import { recipe, recipeOptions } from './recipe.ts';
import { repair, repairOptions } from './repair.ts';
import { standIn, standInOptions } from './stand-in.ts';
import { survey, surveyOptions } from './survey.ts';
import { tileSheet, tileSheetOptions } from './tile-sheet.ts';
import { trial } from './trial.ts';

interface Verb {
  run: (args: string[]) => Promise<number>;
  options: Record<string, OptionSpec>;
  about: string;
}

const VERBS: Record<string, Verb> = {
  survey: { run: survey, options: surveyOptions, about: 'what a pile of files costs' },
  merge: { run: merge, options: mergeOptions, about: 'bake all materials onto shared sheets and merge slots' },
  bake: {
    run: bake,
    options: bakeOptions,
    about: 'cast rays from low-polys to high-polys: normal, AO, curvature and other maps',
  },
  'stand-in': {
    run: standIn,
    options: standInOptions,
    about: 'one light model with one slot from a heavy one, with levels of detail',
  },
  recipe: {
    run: recipe,
    options: recipeOptions,
    about: 'lay a recipe on models or cells: looks by ID, curvature, AO, noise, …',
  },
  light: { ...light, about: 'multiply AO and a sun into vertex colours' },
  plan: {
    run: plan,
    options: planOptions,
    about: 'propose which slots share which sheets, or predict what a plan costs',
  },
  repair: {
    run: repair,
    options: repairOptions,
    about: 'hand models over with their own materials, mended: shared textures, fewer copies',
  },
  faces: { run: faces, options: facesOptions, about: 'change faces by groups: slots, colours, UVs, strips, cells' },
  unwrap: { ...unwrap, about: 'cut surfaces into charts that lie flat, and pack them' },
  pack: { ...repack, about: 'pack UV islands anew, tightly' },
  'cut-repeats': { ...cutRepeats, about: 'cut tiling surfaces where their texture begins anew' },
  'tile-sheet': {
    run: tileSheet,
    options: tileSheetOptions,
    about: 'pictures in the cells of one sheet, with its table',
  },
  profile: { run: profile, options: {}, about: 'conventions for handing over: which channel carries what' },
  palette: { run: palette, options: paletteOptions, about: 'one palette and one material for many models' },
  collide: { ...collide, about: 'collision shapes: boxes, spheres, capsules, hulls, convex pieces' },
  trial: { run: trial, options: {}, about: 'load a delivery as an engine would, and count' },
  'demo-files': { run: demoFiles, options: demoFilesOptions, about: 'write the files of the demo into a folder' },
  bench: { run: bench, options: benchOptions, about: 'run the benchmarks' },
};

const LATER = ['compare', 'run'];

function help(): string {
  const own = Object.entries(VERBS).map(([k, v]) => `  ${k.padEnd(12)}${v.about}`);
  return [
    'Usage: wembrel VERB …',
    '',
    '  demo        build and start the web application with the demo project',
    '  start       start the web application',
    '  test        run all tests',
    ...own,
    '  options     one table of the options of all verbs',
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
  if (verb === 'options')
    return options(args, Object.fromEntries(Object.entries(VERBS).map(([name, { options }]) => [name, options])));
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
