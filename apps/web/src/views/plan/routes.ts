import { APART, evenSheets, type MergeDecisions, type SheetDecision } from '@wembrel/core/plan/decisions';

/** Sends slots to a sheet, keeps them apart, or (null) leaves them to be spread. */
export function withRoutes(d: MergeDecisions, names: string[], to: string | null): MergeDecisions {
  const routes = { ...d.routes };
  for (const n of names) {
    if (to === null) delete routes[n];
    else routes[n] = to;
  }
  return { ...d, routes };
}

export function routeLabel(d: MergeDecisions, names: string[], to: string | null): string {
  const what = names.length === 1 ? names[0] : `${names.length} slots`;
  if (to === null) return `Leave ${what} to be spread`;
  if (to === APART) return `Keep ${what} apart`;
  return `Route ${what} to ${d.sheets.find((s) => s.id === to)?.name ?? to}`;
}

export function withSheet(d: MergeDecisions, id: string, part: Partial<SheetDecision>): MergeDecisions {
  return { ...d, sheets: d.sheets.map((s) => (s.id === id ? { ...s, ...part } : s)) };
}

/** One more sheet like the last one, under a name and an id that are free. */
export function withNewSheet(d: MergeDecisions): MergeDecisions {
  const last = d.sheets[d.sheets.length - 1] ?? evenSheets(1, 'sheet', 2048, 12)[0];
  const ids = new Set(d.sheets.map((s) => s.id));
  const names = new Set(d.sheets.map((s) => s.name.toLowerCase()));
  let id = 1;
  while (ids.has(String(id))) id++;
  const base = last.name.replace(/_\d+$/, '').slice(0, 56);
  let n = 2;
  while (names.has(`${base}_${n}`.toLowerCase())) n++;
  return { ...d, sheets: [...d.sheets, { ...last, id: String(id), name: `${base}_${n}` }] };
}

/** Without a sheet; what was routed to it is spread over the others. */
export function withoutSheet(d: MergeDecisions, id: string): MergeDecisions {
  return {
    ...d,
    sheets: d.sheets.filter((s) => s.id !== id),
    routes: Object.fromEntries(Object.entries(d.routes).filter(([, to]) => to !== id)),
  };
}
