import { spawn } from 'node:child_process';
import { mkdtempSync } from 'node:fs';
import { mkdir, writeFile } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { dirname, join } from 'node:path';
import { fileURLToPath } from 'node:url';

const CLI = fileURLToPath(new URL('../../../dist/cli.mjs', import.meta.url));

export interface Ran {
  code: number;
  out: string;
  err: string;
}

/**
 * Runs the bundled command line; `./wembrel test` builds it first.
 * @param interruptAt sends the signal as soon as this answers true
 */
export function wembrel(args: string[], interruptAt?: () => Promise<boolean>): Promise<Ran> {
  return new Promise((resolve) => {
    const child = spawn(process.execPath, [CLI, ...args], { stdio: ['ignore', 'pipe', 'pipe'] });
    let out = '';
    let err = '';
    child.stdout.on('data', (d) => {
      out += d;
    });
    child.stderr.on('data', (d) => {
      err += d;
    });
    if (interruptAt) {
      const look = setInterval(async () => {
        if (!(await interruptAt())) return;
        clearInterval(look);
        child.kill('SIGINT');
      }, 20);
      child.once('close', () => clearInterval(look));
    }
    child.on('close', (code) => resolve({ code: code ?? -1, out, err }));
  });
}

export const temporary = () => mkdtempSync(join(tmpdir(), 'wembrel-cli-'));

/** Writes files into a new folder. */
export async function put(files: Record<string, Uint8Array>): Promise<string> {
  const at = temporary();
  for (const [name, bytes] of Object.entries(files)) {
    await mkdir(dirname(join(at, name)), { recursive: true });
    await writeFile(join(at, name), bytes);
  }
  return at;
}
