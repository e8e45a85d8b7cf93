/** A finished result on the disk. */
export interface StoredResult {
  id: string;
  project: string;
  kind: string;
  sheet: string | null;
  bytes: number;
  /** ms at which it was last made or looked at. */
  used: number;
  /** It was made from what is decided now. */
  current: boolean;
  /** It was taken out of the project by hand; undo may bring it back. */
  removed: boolean;
}

/** So much of the bound is left when results had to go, so that not every new one clears others. */
const CLEARED_TO = 0.9;

/**
 * Which results go where all take more than the bound: those that were removed first, then those that were not used for longest. What is current stays, and of each
 * project the newest of each kind and sheet.
 * @param results the newest first @param bound bytes
 */
export function resultsToClear(results: readonly StoredResult[], bound: number): string[] {
  let sum = results.reduce((total, { bytes }) => total + bytes, 0);
  if (sum <= bound) return [];
  const seen = new Set<string>();
  const may = results.filter(({ project, kind, sheet, current, removed }) => {
    if (removed) return true;
    const key = JSON.stringify([project, kind, sheet]);
    const newest = !seen.has(key);
    seen.add(key);
    return !newest && !current;
  });
  may.sort((a, b) => Number(b.removed) - Number(a.removed) || a.used - b.used);
  const out: string[] = [];
  for (const { id, bytes } of may) {
    if (sum <= bound * CLEARED_TO) break;
    out.push(id);
    sum -= bytes;
  }
  return out;
}
