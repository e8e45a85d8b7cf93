/** Groups in the order of their first members. */
export function groupBy<T, K>(list: T[], key: (v: T) => K): Map<K, T[]> {
  const out = new Map<K, T[]>();
  for (const v of list) {
    const k = key(v);
    const g = out.get(k);
    if (g) g.push(v);
    else out.set(k, [v]);
  }
  return out;
}
