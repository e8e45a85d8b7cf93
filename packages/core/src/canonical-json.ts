/** JSON with the keys of every object in order: equal values give equal texts, whatever way they came about. */
export function canonicalJson(value: unknown): string {
  return JSON.stringify(value, (_, v) =>
    typeof v === 'object' && v !== null && !Array.isArray(v)
      ? Object.fromEntries(Object.entries(v).sort(([a], [b]) => (a < b ? -1 : 1)))
      : v,
  );
}
