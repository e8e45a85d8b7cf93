import { createHash, randomBytes } from 'node:crypto';
import { mkdir, open, readdir, rename, rm } from 'node:fs/promises';
import { dirname, join, resolve } from 'node:path';
import { InputError } from '@wembrel/core/errors';

const PREFIX = '.wembrel-partial-';

/**
 * A folder that is filled aside and put in place at the end: whoever stops in the middle leaves nothing under a final name.
 */
export class Delivery {
  /** SHA-256 of each file, by its name. */
  private readonly files = new Map<string, string>();
  private constructor(
    readonly target: string,
    readonly staging: string,
  ) {}

  /** @throws InputError when the target cannot be made */
  static async begin(target: string): Promise<Delivery> {
    const full = resolve(target);
    try {
      await mkdir(full, { recursive: true });
    } catch {
      throw new InputError(target, 'the folder for the results cannot be made');
    }
    // What a killed run left behind.
    for (const name of await readdir(full))
      if (name.startsWith(PREFIX)) await rm(join(full, name), { recursive: true, force: true });
    const staging = join(full, PREFIX + randomBytes(6).toString('hex'));
    await mkdir(staging, { recursive: true });
    return new Delivery(full, staging);
  }

  /** Writes a file aside, synced to disk. `name` uses / and is relative to the target. */
  async write(name: string, bytes: Uint8Array): Promise<void> {
    const path = join(this.staging, name);
    await mkdir(dirname(path), { recursive: true });
    const handle = await open(path, 'w');
    try {
      await handle.writeFile(bytes);
      await handle.sync();
    } finally {
      await handle.close();
    }
    this.files.set(name, createHash('sha256').update(bytes).digest('hex'));
  }

  list(): string[] {
    return [...this.files.keys()].sort();
  }

  /** The files so far with their SHA-256, in the order of their names. */
  hashes(): { file: string; sha256: string }[] {
    return this.list().map((file) => ({ file, sha256: this.files.get(file) as string }));
  }

  /** Moves everything to its final name. @throws InputError when a source would be overwritten */
  async commit(sources: string[]): Promise<void> {
    const inputs = new Set(sources.map((source) => resolve(source)));
    for (const name of this.files.keys()) {
      const path = join(this.target, name);
      if (inputs.has(path))
        throw new InputError(path, 'would be overwritten, but it is a source; choose another folder');
    }
    for (const name of this.files.keys()) {
      const path = join(this.target, name);
      await mkdir(dirname(path), { recursive: true });
      await rename(join(this.staging, name), path);
    }
    await this.discard();
  }

  async discard(): Promise<void> {
    await rm(this.staging, { recursive: true, force: true });
  }
}
