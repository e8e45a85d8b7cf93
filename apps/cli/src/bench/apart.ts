import { spawn } from 'node:child_process';
import { mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { fileURLToPath } from 'node:url';

/** What a call of the command line took as a process of its own, all threads together. */
export interface Apart {
  /** Seconds of the processors, and of the clock. */
  cpu: number;
  wall: number;
  /** Most memory that it held at a time, bytes. */
  peak: number;
  /** What it printed. */
  printed: string;
}

const CLI = fileURLToPath(new URL('./cli.mjs', import.meta.url));

/** Writes what the process took to its fourth file as it ends. */
const TELLS = `data:text/javascript,${encodeURIComponent(
  'import{writeSync}from"node:fs";process.on("exit",()=>{const r=process.resourceUsage();writeSync(3,JSON.stringify([(r.userCPUTime+r.systemCPUTime)/1e6,r.maxRSS*1024]))})',
)}`;

/** What calls keep for later ones, of this run of the benchmarks alone. */
const CACHE = mkdtempSync(join(tmpdir(), 'wembrel-bench-cache-'));

/** Takes away what calls kept. */
export const forgetKept = (): void => rmSync(CACHE, { recursive: true, force: true });

/** Runs the command line with some arguments. @throws Error where it does not end well */
export async function apart(args: readonly string[]): Promise<Apart> {
  const begun = performance.now();
  const child = spawn(process.execPath, ['--import', TELLS, CLI, ...args], {
    stdio: ['ignore', 'pipe', 'ignore', 'pipe'],
    env: { ...process.env, WEMBREL_CACHE: CACHE },
  });
  const [out, told]: Buffer[][] = [[], []];
  child.stdout?.on('data', (d: Buffer) => out.push(d));
  child.stdio[3]?.on('data', (d: Buffer) => told.push(d));
  const code = await new Promise((done) => child.on('close', done));
  if (code !== 0) throw new Error(`wembrel ${args.join(' ')} ended with ${code}`);
  const [cpu, peak] = JSON.parse(Buffer.concat(told).toString()) as [number, number];
  return { cpu, wall: (performance.now() - begun) / 1000, peak, printed: Buffer.concat(out).toString() };
}
