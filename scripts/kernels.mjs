// Compiles the kernels in packages/kernels/assembly to WebAssembly and writes each as a module that holds its bytes, so that it is there
// wherever the module is: in bundles, workers and tests.
import { createHash } from 'node:crypto';
import { existsSync, mkdirSync, readdirSync, readFileSync, renameSync, writeFileSync } from 'node:fs';
import { dirname, join } from 'node:path';
import { fileURLToPath } from 'node:url';

const root = dirname(dirname(fileURLToPath(import.meta.url)));
const source = join(root, 'packages/kernels/assembly');
const target = join(root, 'packages/kernels/src/generated');
const FLAGS = ['-O3', '--enable', 'simd', '--importMemory', '--runtime', 'stub', '--noAssert'];
/** Kernels whose first line says `// shared` work on memory that several workers have in common. */
const SHARED = [...FLAGS, '--enable', 'threads', '--sharedMemory', '--maximumMemory', '65536'];

export async function kernels() {
  for (const file of readdirSync(source).sort()) {
    if (!file.endsWith('.ts')) continue;
    const text = readFileSync(join(source, file), 'utf8');
    const flags = text.startsWith('// shared\n') ? SHARED : FLAGS;
    const hash = createHash('sha256').update(text).update(flags.join(' ')).digest('hex');
    const out = join(target, file);
    if (existsSync(out) && readFileSync(out, 'utf8').startsWith(`// ${hash}\n`)) continue;
    const { default: asc } = await import('assemblyscript/asc');
    let bytes;
    const { error, stderr } = await asc.main([file, ...flags, '--outFile', 'out.wasm'], {
      readFile: (name) => (name === file ? text : null),
      writeFile: (name, data) => {
        if (name === 'out.wasm') bytes = data;
      },
      listFiles: () => [],
    });
    if (error) throw new Error(`packages/kernels/assembly/${file}: ${error.message}\n${stderr.toString()}`);
    mkdirSync(target, { recursive: true });
    const line = `// ${hash}\nexport default '${Buffer.from(bytes).toString('base64')}';\n`;
    writeFileSync(`${out}.${process.pid}`, line);
    renameSync(`${out}.${process.pid}`, out);
  }
}
