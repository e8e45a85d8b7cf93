import { mkdirSync, readFileSync, renameSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { deserialize, serialize } from 'node:v8';
import type { buildFurniture } from '../src/furniture.ts';

type Build = (...args: never[]) => ReturnType<typeof buildFurniture> | Record<string, Uint8Array>;

/**
 * What a function of the demo makes, made once for all test files of a run: noise and PNG take seconds.
 * @param build a function at the top of a module, of a name that no other has; its answer must not be changed in place
 */
export function kept<F extends Build>(build: F, ...args: Parameters<F>): ReturnType<F> {
  const folder = join(process.env.WEMBREL_CACHE ?? join(tmpdir(), `wembrel-demo-${process.pid}`), 'demo');
  const file = join(folder, `${build.name}-${Buffer.from(JSON.stringify(args)).toString('hex')}`);
  try {
    return deserialize(readFileSync(file));
  } catch {
    const made = build(...args) as ReturnType<F>;
    mkdirSync(folder, { recursive: true });
    // Under its name only once it is whole: another process may look for it now.
    writeFileSync(`${file}.${process.pid}`, serialize(made));
    renameSync(`${file}.${process.pid}`, file);
    return made;
  }
}
