// Builds the bundles (command line, worker, server) and the web application when their sources have changed.
import { spawnSync } from 'node:child_process';
import { createHash } from 'node:crypto';
import { existsSync, mkdirSync, readdirSync, readFileSync, statSync, watch, writeFileSync } from 'node:fs';
import { dirname, join } from 'node:path';
import { fileURLToPath } from 'node:url';
import { kernels } from './kernels.mjs';

export const root = dirname(dirname(fileURLToPath(import.meta.url)));
const dist = join(root, 'dist');

/** Packages that stay outside the bundles: native ones, and those that find their own files. */
export const EXTERNAL = [
  'sharp',
  'libsql',
  'piscina',
  'gltf-validator',
  'pino',
  'esbuild',
  'potpack',
  'astro',
  'three',
  'three-mesh-bvh',
  'draco3dgltf',
  'ktx2-encoder',
];

function* files(folder) {
  for (const e of readdirSync(folder, { withFileTypes: true }).sort((a, b) => (a.name < b.name ? -1 : 1))) {
    if (['node_modules', 'dist', '.astro', 'test'].includes(e.name)) continue;
    const path = join(folder, e.name);
    if (e.isDirectory()) yield* files(path);
    else if (!/\.test\.tsx?$/.test(e.name)) yield path;
  }
}

/** One hash over the contents of folders and files. */
function sourceHash(paths) {
  const h = createHash('sha256');
  for (const p of paths.map((q) => join(root, q)))
    for (const f of statSync(p).isDirectory() ? files(p) : [p]) h.update(f.slice(root.length)).update(readFileSync(f));
  return h.digest('hex');
}

function fresh(name, hash) {
  const stamp = join(dist, `.${name}`);
  return existsSync(stamp) && readFileSync(stamp, 'utf8') === hash;
}

function mark(name, hash) {
  mkdirSync(dist, { recursive: true });
  writeFileSync(join(dist, `.${name}`), hash);
}

/** What is bundled, and how. */
function bundleOptions() {
  return {
    absWorkingDir: root,
    entryPoints: {
      cli: 'apps/cli/src/main.ts',
      worker: 'packages/runner/src/worker/worker.ts',
      serve: 'apps/web/src/server/http/serve.ts',
      job: 'apps/web/src/server/jobs/job-thread.ts',
      live: 'apps/web/src/server/live/live-thread.ts',
    },
    outdir: dist,
    outExtension: { '.js': '.mjs' },
    bundle: true,
    platform: 'node',
    target: 'node20',
    format: 'esm',
    sourcemap: true,
    external: EXTERNAL,
    logLevel: 'warning',
    banner: { js: "import { createRequire as __cr } from 'node:module'; const require = __cr(import.meta.url);" },
  };
}

/** Bundles again, and compiles kernels, whenever a source changes; jobs that start afterwards run the new code. */
export async function watchBundles() {
  const assembly = join(root, 'packages/kernels/assembly');
  let compiling = Promise.resolve();
  watch(assembly, () => {
    // The bundles follow by themselves: they hold what is compiled.
    compiling = compiling.then(kernels).catch((error) => console.error(String(error.message ?? error)));
  });
  const { context } = await import('esbuild');
  await (await context(bundleOptions())).watch();
}

export async function bundles() {
  await kernels();
  const hash = sourceHash([
    'packages',
    'apps/cli',
    'apps/web/src/server',
    'apps/web/src/contract',
    'scripts/build.mjs',
  ]);
  if (fresh('bundles', hash) && existsSync(join(dist, 'cli.mjs'))) return;
  const { build } = await import('esbuild');
  await build(bundleOptions());
  mark('bundles', hash);
}

export function webEnv() {
  return { ASTRO_TELEMETRY_DISABLED: '1', ASTRO_DISABLE_UPDATE_CHECK: 'true', WEMBREL_ROOT: root };
}

export async function web() {
  await kernels();
  const hash = sourceHash(['packages', 'apps/web', 'package-lock.json']);
  // The stamp may have come without what it stands for, with a copied folder.
  if (fresh('web', hash) && existsSync(join(root, 'apps/web/dist'))) return;
  console.error('wembrel: building the web application, about a minute …');
  const done = spawnSync(
    process.execPath,
    [join(root, 'node_modules/astro/astro.js'), 'build', '--root', join(root, 'apps/web')],
    {
      stdio: ['ignore', 'pipe', 'pipe'],
      env: { ...process.env, ...webEnv() },
    },
  );
  if (done.status !== 0) {
    console.error(`${done.stdout}${done.stderr}`);
    console.error('wembrel: the web application could not be built');
    process.exit(1);
  }
  mark('web', hash);
}
