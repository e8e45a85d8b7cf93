import { readdir, stat } from 'node:fs/promises';
import { join } from 'node:path';

/** Bytes of all files below a folder; 0 where there is none. */
export async function folderBytes(folder: string): Promise<number> {
  const entries = await readdir(folder, { recursive: true, withFileTypes: true }).catch(() => []);
  const sizes = await Promise.all(
    entries
      .filter((entry) => entry.isFile())
      .map((entry) =>
        stat(join(entry.parentPath, entry.name)).then(
          ({ size }) => size,
          // It went meanwhile.
          () => 0,
        ),
      ),
  );
  return sizes.reduce((sum, size) => sum + size, 0);
}
