// Lists the SHA-256 of every byte that the command line delivers from the demo's files, so that two states of the code can be compared:
//   node scripts/demo-bytes.mjs --save before.txt     (builds what is missing)
//   … change the code …
//   node scripts/demo-bytes.mjs --against before.txt  (exit code 1, and the names, where bytes differ)
import { spawn } from 'node:child_process';
import { createHash } from 'node:crypto';
import { mkdtempSync, readdirSync, readFileSync, rmSync, statSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join, relative } from 'node:path';
import { parseArgs } from 'node:util';
import { bundles, root } from './build.mjs';

const { values } = parseArgs({
  options: { save: { type: 'string' }, against: { type: 'string' }, only: { type: 'string' } },
});

/** Verb and options of each case; `OUT` and names of the demo's folders are replaced by paths. */
const CASES = {
  survey: ['survey', '@signs', '@kiosk', '@pieces', '@furniture', '@workshop', '@broken', '--json', '--details'],
  furniture: ['merge', '@furniture', '--out', 'OUT', '--join', '--json'],
  pieces: ['merge', '@pieces', '--out', 'OUT', '--sheets', '2', '--size', '1024', '--compare-at', '256', '--json'],
  signs: ['merge', '@signs', '--out', 'OUT', '--size', '512', '--scale', 'even', '--compare-at', '256', '--json'],
  kiosk: ['merge', '@kiosk', '--out', 'OUT', '--size', '512', '--rotate', 'none', '--embed', '--json'],
  workshop: ['merge', '@workshop', '--out', 'OUT', '--proof', '--json'],
  bake: [
    'bake',
    '--high',
    '@posts',
    '--low',
    '@posts',
    '--out',
    'OUT',
    '--maps',
    'normal,ao,curvature,id,height',
    '--size',
    '512',
    '--json',
  ],
  repair: ['repair', '@signs', '--out', 'OUT', '--share-duplicates', '--store-useful', '--json'],
  reduce: ['repair', '@pieces/bollards.glb', '--out', 'OUT', '--instances', '--json'],
  light: ['light', '@furniture', '--out', 'OUT', '--rays', '16', '--json'],
  unwrap: ['unwrap', '@workshop', '--out', 'OUT', '--json'],
  pack: ['pack', '@pieces', '--out', 'OUT', '--effort', '2', '--json'],
  cut: ['cut-repeats', '@pieces/shelter-walls.glb', '--out', 'OUT', '--json'],
  palette: ['palette', '@signs', '--out', 'OUT', '--json'],
  propose: ['plan', 'propose', '@furniture', '@pieces', '--effort', '400', '--json'],
  predict: ['plan', 'predict', '@furniture', '@signs', '--pack', '--json'],
};

/** What may differ between two runs of the same code, in JSON that is printed. */
const VARYING = new Set(['seconds', 'peakBytes', 'raysPerSecond']);

function* files(folder) {
  for (const e of readdirSync(folder, { withFileTypes: true }).sort((a, b) => (a.name < b.name ? -1 : 1))) {
    const path = join(folder, e.name);
    if (e.isDirectory()) yield* files(path);
    else yield path;
  }
}

const sha = (data) => createHash('sha256').update(data).digest('hex');

function run(args) {
  return new Promise((resolve) => {
    let text = '';
    const child = spawn(process.execPath, [join(root, 'dist/cli.mjs'), ...args], {
      stdio: ['ignore', 'pipe', 'ignore'],
    });
    child.stdout.on('data', (d) => {
      text += d;
    });
    child.on('close', (code) => resolve({ code, text }));
  });
}

/** The printed document without times and without paths of this machine. */
function stable(text, places) {
  let out = text;
  for (const place of places) out = out.replaceAll(place, '');
  try {
    return JSON.stringify(JSON.parse(out, (key, value) => (VARYING.has(key) ? undefined : value)));
  } catch {
    return out;
  }
}

await bundles();
const work = mkdtempSync(join(tmpdir(), 'wembrel-bytes-'));
const lines = [];
try {
  const demo = join(work, 'demo');
  await run(['demo-files', demo]);
  for (const path of files(demo)) lines.push(`${sha(readFileSync(path))}  demo/${relative(demo, path)}`);
  for (const [name, args] of Object.entries(CASES)) {
    if (values.only && !values.only.split(',').includes(name)) continue;
    const out = join(work, name);
    const { code, text } = await run([
      ...args.map((a) => (a.startsWith('@') ? join(demo, a.slice(1)) : a.replace('OUT', out))),
    ]);
    lines.push(`${sha(stable(text, [out, work]))}  ${name}: exit code ${code}, printed`);
    if (statSync(out, { throwIfNoEntry: false }))
      for (const path of files(out)) lines.push(`${sha(readFileSync(path))}  ${name}/${relative(out, path)}`);
    console.error(`${name}: exit code ${code}`);
  }
} finally {
  rmSync(work, { recursive: true, force: true });
}
if (values.save) writeFileSync(values.save, `${lines.join('\n')}\n`);
else if (!values.against) console.log(lines.join('\n'));
if (values.against) {
  const before = readFileSync(values.against, 'utf8').trim().split('\n');
  const differ = [...before.filter((l) => !lines.includes(l)), ...lines.filter((l) => !before.includes(l))];
  const names = [...new Set(differ.map((l) => l.slice(66)))];
  for (const name of names) console.log(`differs: ${name}`);
  console.log(`${lines.length} entries, ${names.length} differ`);
  process.exit(names.length === 0 ? 0 : 1);
}
