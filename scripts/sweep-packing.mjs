// Varies one number of packages/core/src/pack/tuning.ts and prints the coverage that packing reaches with each value, after so many rounds and seeds:
//   node scripts/sweep-packing.mjs --number ORDER_SEARCH.idle --values 30,60,120 --sets P1,P2 --rounds 40 --seeds 1,2
// Rounds, not seconds, are what counts, so that other work on the machine changes nothing but the time that it takes.
import { mkdtempSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { pathToFileURL } from 'node:url';
import { parseArgs } from 'node:util';
import { build } from 'esbuild';
import { bundles, EXTERNAL, root } from './build.mjs';

const { values: o } = parseArgs({
  options: {
    number: { type: 'string' },
    values: { type: 'string' },
    sets: { type: 'string', default: 'P1,P2,P4' },
    rounds: { type: 'string', default: '20' },
    seeds: { type: 'string', default: '1,2' },
  },
});
const list = (text) => text.split(',').filter(Boolean);
if (!o.number || !o.values) {
  console.error(
    'node scripts/sweep-packing.mjs --number GROUP.name --values A,B,… [--sets P1,P2] [--rounds N] [--seeds 1,2]',
  );
  process.exit(2);
}

const TUNING = join(root, 'packages/core/src/pack/tuning.ts');

/** The numbers' source with one of them set to another value. */
function withNumber(source, path, value) {
  const [group, name] = path.split('.');
  const start = source.indexOf(`export const ${group} = {`);
  const end = source.indexOf('\n};', start);
  const body = source.slice(start, end);
  const changed = body.replace(new RegExp(`^(  ${name}: )[^,\\n]+,$`, 'm'), `$1${value},`);
  if (start < 0 || changed === body.replace(/$/, '')) {
    const known = body.match(new RegExp(`^  ${name}: ([^,\\n]+),$`, 'm'));
    if (!known) throw new Error(`packages/core/src/pack/tuning.ts has no number ${path}`);
  }
  return source.slice(0, start) + changed + source.slice(end);
}

/** The packer and the bench's sets as one module, with that number. */
async function bundle(folder, value) {
  const entry = join(folder, 'entry.ts');
  writeFileSync(
    entry,
    `export { pack } from ${JSON.stringify(join(root, 'packages/core/src/pack/pack.ts'))};
     export { covered } from ${JSON.stringify(join(root, 'packages/core/src/pack/covered.ts'))};
     export { packingSets } from ${JSON.stringify(join(root, 'apps/cli/src/bench/packing-sets.ts'))};
     export { JobScope } from ${JSON.stringify(join(root, 'packages/runner/src/pool/job-scope.ts'))};`,
  );
  const outfile = join(root, 'dist', `.sweep-${process.pid}-${String(value).replace(/[^\w]/g, '_')}.mjs`);
  await build({
    entryPoints: [entry],
    outfile,
    absWorkingDir: root,
    bundle: true,
    platform: 'node',
    format: 'esm',
    external: EXTERNAL,
    nodePaths: [join(root, 'node_modules')],
    banner: { js: "import { createRequire as __cr } from 'node:module'; const require = __cr(import.meta.url);" },
    plugins: [
      {
        name: 'number',
        setup(b) {
          b.onLoad({ filter: /pack\/tuning\.ts$/ }, () => ({
            loader: 'ts',
            contents: withNumber(readFileSync(TUNING, 'utf8'), o.number, value),
          }));
        },
      },
    ],
  });
  return outfile;
}

await bundles();
const folder = mkdtempSync(join(tmpdir(), 'wembrel-sweep-'));
const made = [];
try {
  console.log([o.number, ...list(o.sets), 'mean'].join('\t'));
  for (const value of list(o.values)) {
    const file = await bundle(folder, value);
    made.push(file);
    const { pack, packingSets, covered, JobScope } = await import(pathToFileURL(file));
    const scope = new JobScope(join(root, 'dist/worker.mjs'));
    const sets = await packingSets(scope, list(o.sets));
    await scope.close();
    const row = sets.map(({ items, side, margin, rotate }) => {
      const surface = items.reduce((sum, i) => sum + covered(i.shape).area, 0);
      const covered = list(o.seeds).map((seed) => {
        const options = { width: side, height: side, margin, maxScale: 1e6, rotate, effort: Number(o.rounds) };
        return (surface * pack(items, { ...options, seed: Number(seed) }).scale ** 2) / side ** 2;
      });
      return covered.reduce((a, b) => a + b, 0) / covered.length;
    });
    const mean = row.reduce((a, b) => a + b, 0) / row.length;
    console.log([value, ...row.map((v) => v.toFixed(4)), mean.toFixed(4)].join('\t'));
  }
} finally {
  for (const f of made) rmSync(f, { force: true });
  rmSync(folder, { recursive: true, force: true });
}
