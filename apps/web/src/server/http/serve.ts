import { existsSync, statSync } from 'node:fs';
import { createServer } from 'node:http';
import { dirname, join, resolve } from 'node:path';
import { fileURLToPath, pathToFileURL } from 'node:url';
import { parseArgs } from 'node:util';

/** The small server around the application: loopback, isolation headers on everything, long uploads. */

const root = dirname(dirname(fileURLToPath(import.meta.url)));
process.env.WEMBREL_ROOT ??= root;
process.env.ASTRO_NODE_AUTOSTART = 'disabled';
process.env.NODE_ENV ??= 'production';

const [verb, ...args] = process.argv.slice(2);
/** The options; a wrong one is said in one line. */
function options() {
  try {
    return parseArgs({
      args,
      options: {
        port: { type: 'string' },
        host: { type: 'string' },
        data: { type: 'string' },
        watch: { type: 'string', multiple: true },
      },
    }).values;
  } catch (error) {
    process.stderr.write(
      `wembrel: ${(error as Error).message.split('. ')[0]}\nUsage: wembrel ${verb ?? 'start'} [--port N] [--host NAME] [--data DIR] [--watch DIR]…\n`,
    );
    process.exit(2);
  }
}
const values = options();
if (values.data) process.env.WEMBREL_DATA = values.data;
for (const folder of values.watch ?? [])
  if (!statSync(folder, { throwIfNoEntry: false })?.isDirectory()) {
    process.stderr.write(`wembrel: --watch ${folder}: there is no such folder\n`);
    process.exit(2);
  }
if (values.watch) process.env.WEMBREL_WATCH = values.watch.map((file) => resolve(file)).join('\n');
const entry = join(root, 'apps/web/dist/server/entry.mjs');
if (!existsSync(entry)) {
  process.stderr.write('wembrel: the web application is not built; run ./wembrel start\n');
  process.exit(1);
}
const { handler } = (await import(pathToFileURL(entry).href)) as {
  handler: (req: unknown, res: unknown, next?: (error?: unknown) => void) => void;
};

/** Makes the demo's project and sees to it that it is baked. @returns the path of its view that has most to show */
async function demoPath(base: string): Promise<string> {
  const post = (path: string, body: unknown) =>
    fetch(base + path, {
      method: 'POST',
      headers: { 'content-type': 'application/json' },
      body: JSON.stringify(body),
    });
  const made = await post('/api/demo', {});
  if (!made.ok) return '/';
  const { id } = (await made.json()) as { id: string };
  const { jobs } = (await (await fetch(`${base}/api/projects/${id}`)).json()) as {
    jobs: { kind: string; state: string }[];
  };
  const finals = jobs.filter(({ kind }) => kind === 'final');
  if (finals.some(({ state }) => state === 'done')) return `/p/${id}/compare`;
  if (finals.length === 0) await post(`/api/projects/${id}/jobs`, { kind: 'final' });
  return `/p/${id}/survey`;
}

const server = createServer((req, res) => {
  res.setHeader('Cross-Origin-Opener-Policy', 'same-origin');
  res.setHeader('Cross-Origin-Embedder-Policy', 'require-corp');
  res.setHeader('Cross-Origin-Resource-Policy', 'same-origin');
  handler(req, res);
});
server.requestTimeout = 0;
// A connection that is closed after the usual five seconds of silence may break the request that is just being sent on it.
server.keepAliveTimeout = 600_000;
server.on('error', (error: NodeJS.ErrnoException) => {
  process.stderr.write(
    error.code === 'EADDRINUSE'
      ? `wembrel: port ${values.port ?? 4680} is taken; choose another with --port N\n`
      : `wembrel: ${error.message}\n`,
  );
  process.exit(1);
});
server.listen(Number(values.port ?? 4680), values.host ?? '127.0.0.1', async () => {
  const address = server.address();
  const port = typeof address === 'object' && address ? address.port : 0;
  const base = `http://127.0.0.1:${port}`;
  let path = '/';
  if (verb === 'demo') path = await demoPath(base);
  process.stdout.write(`Wembrel is ready: ${base}${path}\n`);
});
for (const signal of ['SIGINT', 'SIGTERM'] as const)
  process.on(signal, () => {
    server.closeAllConnections();
    process.exit(0);
  });
