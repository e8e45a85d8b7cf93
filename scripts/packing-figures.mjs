// Draws the figures of docs/packing.md anew: node scripts/packing-figures.mjs

import { spawnSync } from 'node:child_process';
import { mkdirSync, rmSync } from 'node:fs';
import { join } from 'node:path';
import { build } from 'esbuild';
import { bundles, EXTERNAL, root } from './build.mjs';

await bundles();
const outfile = join(root, 'dist', `.figures-${process.pid}.mjs`);
mkdirSync(join(root, 'docs/figures'), { recursive: true });
try {
  await build({
    entryPoints: [join(root, 'scripts/packing-figures.ts')],
    outfile,
    bundle: true,
    platform: 'node',
    format: 'esm',
    external: EXTERNAL,
    banner: { js: "import { createRequire as __cr } from 'node:module'; const require = __cr(import.meta.url);" },
  });
  const done = spawnSync(process.execPath, [outfile, join(root, 'dist/worker.mjs'), root], { stdio: 'inherit' });
  process.exitCode = done.status ?? 1;
} finally {
  rmSync(outfile, { force: true });
}
