import { createHash, randomBytes } from 'node:crypto';
import { mkdir, readdir, readFile, rename, rm, stat, utimes, writeFile } from 'node:fs/promises';
import { join } from 'node:path';
import { deserialize, serialize } from 'node:v8';

/** Bytes that are kept unless another bound is given. */
const CACHE_BOUND = 2 * 2 ** 30;

/** Share of the bound down to which the cache is emptied once it is over it. */
const EMPTIED_TO = 0.8;

/** Bytes of the hash in front of each value: what was cut short is not taken. */
const CHECK = 16;

/**
 * Facts by what they are facts of, in a folder that many processes may share. Each value lies in a file of its own, written as a whole; what cannot be read or
 * written is found anew, and nothing is said. The least recently used go beyond the bound. What other code found is not taken: the key has the code's hash in it.
 */
export class FactsCache {
  private written = 0;
  private readonly touched = new Set<string>();

  private code: Promise<string> | null = null;

  /** @param code files of the program that finds the facts @param bound bytes */
  constructor(
    private readonly folder: string,
    private readonly codeFiles: readonly string[],
    private readonly bound = CACHE_BOUND,
  ) {}

  /** @param kind of fact @param key hash of what it is about @returns undefined where it is not known */
  async get<T>(kind: string, key: string): Promise<T | undefined> {
    const path = await this.pathOf(kind, key);
    const bytes = await readFile(path).catch(() => null);
    if (!bytes || bytes.length < CHECK) return undefined;
    const value = bytes.subarray(CHECK);
    if (!checkOf(value).equals(bytes.subarray(0, CHECK))) return undefined;
    // Once a run is enough to tell what was used from what was not.
    if (!this.touched.has(path)) {
      this.touched.add(path);
      const now = new Date();
      await utimes(path, now, now).catch(() => {});
    }
    try {
      return deserialize(value) as T;
    } catch {
      return undefined;
    }
  }

  async put(kind: string, key: string, value: unknown): Promise<void> {
    const bytes = serialize(value);
    const path = await this.pathOf(kind, key);
    const temp = `${path}.${randomBytes(6).toString('hex')}`;
    try {
      await mkdir(join(path, '..'), { recursive: true });
      await writeFile(temp, Buffer.concat([checkOf(bytes), bytes]));
      await rename(temp, path);
      this.written += bytes.length + CHECK;
    } catch {
      await rm(temp, { force: true }).catch(() => {});
    }
  }

  /** What is known, or what is found and then kept. */
  async of<T>(kind: string, key: string, find: () => Promise<T>): Promise<T> {
    const known = await this.get<T>(kind, key);
    if (known !== undefined) return known;
    const found = await find();
    await this.put(kind, key, found);
    return found;
  }

  /** Lets the least recently used go where there is more than the bound; does nothing where nothing was written. */
  async trim(): Promise<void> {
    if (this.written === 0) return;
    this.written = 0;
    const files = await this.list();
    let sum = files.reduce((total, { size }) => total + size, 0);
    if (sum <= this.bound) return;
    for (const { path, size } of files.sort((a, b) => a.used - b.used)) {
      if (sum <= this.bound * EMPTIED_TO) return;
      await rm(path, { force: true }).catch(() => {});
      sum -= size;
    }
  }

  /** Bytes that are kept now. */
  async size(): Promise<number> {
    return (await this.list()).reduce((total, { size }) => total + size, 0);
  }

  private async list(): Promise<{ path: string; size: number; used: number }[]> {
    const names = await readdir(this.folder, { recursive: true }).catch(() => []);
    const found = await Promise.all(
      names.map(async (name) => {
        const path = join(this.folder, name);
        const info = await stat(path).catch(() => null);
        return info?.isFile() ? { path, size: info.size, used: info.mtimeMs } : null;
      }),
    );
    return found.flatMap((one) => one ?? []);
  }

  private async pathOf(kind: string, key: string): Promise<string> {
    this.code ??= hashOfFiles(this.codeFiles);
    const name = createHash('blake2b512')
      .update(`${await this.code} ${kind} ${key}`)
      .digest('hex')
      .slice(0, 48);
    return join(this.folder, kind, name.slice(0, 2), name);
  }
}

async function hashOfFiles(paths: readonly string[]): Promise<string> {
  const hash = createHash('blake2b512');
  for (const path of paths) hash.update(await readFile(path));
  return hash.digest('hex');
}

const checkOf = (bytes: Uint8Array): Buffer => createHash('blake2b512').update(bytes).digest().subarray(0, CHECK);
