import { createReadStream, type FSWatcher, watch } from 'node:fs';
import { readdir, stat } from 'node:fs/promises';
import { basename, join, relative, resolve, sep } from 'node:path';
import { isReadable } from '@wembrel/runner/read/endings';
import { logicalPath } from '@wembrel/runner/read/unpack';
import { storeBlob } from '../store/blobs.ts';
import { log } from '../store/log.ts';
import { Problem } from '../store/problem.ts';
import { followers, followFolder, requireProject } from '../store/projects.ts';
import { changeProject } from '../store/steps.ts';
import { ensureSurvey } from './jobs.ts';

/**
 * Folders that projects can follow. Only those that were named when the server was started (`--watch DIR`); the browser knows their
 * names, never their paths.
 */

/** How long a folder has to be still before it is read, ms: exporters write for a while. */
const STILL = 400;

interface Watched {
  path: string;
  watcher: FSWatcher;
  timer: NodeJS.Timeout | null;
}

const holder = globalThis as { wembrelWatch?: Map<string, Watched> };

function folders(): Map<string, Watched> {
  holder.wembrelWatch ??= start((process.env.WEMBREL_WATCH ?? '').split('\n').filter(Boolean));
  return holder.wembrelWatch;
}

function start(paths: string[]): Map<string, Watched> {
  const out = new Map<string, Watched>();
  for (const given of paths) {
    const path = resolve(given);
    let name = basename(path);
    for (let n = 2; out.has(name); n++) name = `${basename(path)} ${n}`;
    const watched: Watched = {
      path,
      timer: null,
      watcher: watch(path, { recursive: true }, () => later(name)),
    };
    watched.watcher.on('error', (error) => log.error(error, `the folder ${name} cannot be watched any more`));
    out.set(name, watched);
  }
  return out;
}

export function watchNames(): string[] {
  return [...folders().keys()];
}

function later(name: string): void {
  const watched = folders().get(name);
  if (!watched) return;
  if (watched.timer) clearTimeout(watched.timer);
  watched.timer = setTimeout(() => {
    watched.timer = null;
    void (async () => {
      for (const project of await followers(name)) await readAgain(project, name);
    })().catch((error) => log.error(error, `the folder ${name} could not be read`));
  }, STILL);
}

/** Has a project follow a folder, and reads it at once; null lets go of it and leaves the sources as they are. @throws Problem */
export async function follow(project: string | undefined, name: string | null): Promise<void> {
  const { id } = await requireProject(project);
  if (name !== null && !folders().has(name)) throw new Problem(404, 'no folder of that name is watched');
  await followFolder(id, name);
  if (name !== null) await readAgain(id, name);
}

/** What lies in a folder now takes the place of what the project had of it, as one step. */
async function readAgain(project: string, name: string): Promise<void> {
  const watched = folders().get(name);
  if (!watched) return;
  const found = new Map<string, { hash: string; bytes: number }>();
  const entries = await readdir(watched.path, { recursive: true, withFileTypes: true });
  for (const entry of entries) {
    if (!entry.isFile() || !isReadable(entry.name)) continue;
    const path = join(entry.parentPath, entry.name);
    const logical = logicalPath(`${name}/${relative(watched.path, path).split(sep).join('/')}`);
    const info = await stat(path).catch(() => null);
    if (logical === null || !info || info.size === 0) continue;
    found.set(logical, await storeBlob(createReadStream(path)));
  }
  await changeProject(project, null, `The folder ${name} changed`, (state) => {
    for (const path of Object.keys(state.sources))
      if (path.startsWith(`${name}/`) && !found.has(path)) delete state.sources[path];
    for (const [path, blob] of found) state.sources[path] = blob;
    return state;
  });
  await ensureSurvey(project);
}
