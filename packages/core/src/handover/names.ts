/** File names that cannot collide: unsafe characters become _, and a name that is taken gets a number. */
export class Names {
  private readonly taken = new Set<string>();

  /** @param ext with its dot */
  claim(name: string, ext: string): string {
    const base =
      name
        .normalize('NFC')
        .replace(/[^\p{L}\p{N}._-]+/gu, '_')
        .replace(/^[._]+|[._]+$/g, '')
        .slice(0, 80) || 'unnamed';
    for (let n = 1; ; n++) {
      const file = n === 1 ? `${base}${ext}` : `${base}_${n}${ext}`;
      // Compared without case, since some file systems do.
      const key = file.toLowerCase();
      if (this.taken.has(key)) continue;
      this.taken.add(key);
      return file;
    }
  }
}

/** The last part of a path without its ending. */
export function stem(path: string): string {
  const name = path.split(/[\\/]/).pop() ?? path;
  return name.replace(/\.[^.]*$/, '') || name;
}
