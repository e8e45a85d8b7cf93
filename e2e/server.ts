import { type ChildProcess, spawn } from 'node:child_process';
import { mkdtempSync } from 'node:fs';
import { mkdir, writeFile } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { dirname, join } from 'node:path';
import { fileURLToPath } from 'node:url';
import { unzipSync } from 'fflate';

export const ROOT = fileURLToPath(new URL('..', import.meta.url));

export function temporary(): string {
  return mkdtempSync(join(tmpdir(), 'wembrel-e2e-'));
}

export interface Server {
  url: string;
  data: string;
  /** Ends it: SIGTERM, or SIGKILL as a crash would. */
  stop(signal?: 'SIGTERM' | 'SIGKILL'): Promise<void>;
}

/** The real server on a free port with its own data. */
export async function startServer(data = temporary(), ...options: string[]): Promise<Server> {
  const child: ChildProcess = spawn(
    process.execPath,
    [join(ROOT, 'dist/serve.mjs'), 'start', '--port', '0', '--data', data, ...options],
    { stdio: ['ignore', 'pipe', 'inherit'] },
  );
  const gone = new Promise<void>((resolve) => child.once('exit', () => resolve()));
  const url = await new Promise<string>((resolve, reject) => {
    let text = '';
    child.stdout?.on('data', (d) => {
      text += d;
      const found = /ready: (http:\/\/[^/\s]+)/.exec(text);
      if (found) resolve(found[1]);
    });
    child.once('exit', (code) => reject(new Error(`the server ended with ${code}`)));
  });
  return {
    url,
    data,
    async stop(signal = 'SIGTERM') {
      child.kill(signal);
      await gone;
    },
  };
}

/** Runs the command line; stdout, stderr and the exit code. */
export function wembrel(...args: string[]): Promise<{ code: number; out: string; err: string }> {
  return new Promise((resolve) => {
    const child = spawn(process.execPath, [join(ROOT, 'dist/cli.mjs'), ...args], { stdio: ['ignore', 'pipe', 'pipe'] });
    let out = '';
    let err = '';
    child.stdout.on('data', (d) => {
      out += d;
    });
    child.stderr.on('data', (d) => {
      err += d;
    });
    child.on('close', (code) => resolve({ code: code ?? -1, out, err }));
  });
}

/** Unpacks a ZIP into a folder of its own. */
export async function unpacked(zip: Uint8Array): Promise<string> {
  const at = join(temporary(), 'elsewhere');
  for (const [name, bytes] of Object.entries(unzipSync(zip))) {
    await mkdir(dirname(join(at, name)), { recursive: true });
    await writeFile(join(at, name), bytes);
  }
  return at;
}
