/** Entries in the order of their first, those of one reason together. */
export function byReason<T extends { reason?: string }>(list: readonly T[]): { reason: string; entries: T[] }[] {
  const groups = new Map<string, T[]>();
  for (const entry of list) {
    const group = groups.get(entry.reason ?? '');
    if (group) group.push(entry);
    else groups.set(entry.reason ?? '', [entry]);
  }
  return Array.from(groups, ([reason, entries]) => ({ reason, entries }));
}
