import { mergeRoutes, routeSlots, routeTo } from '@wembrel/core/decisions/routes';
import { APART, describeRule, type RouteRule, type RuleCondition } from '@wembrel/core/decisions/rules';
import { fitReserve, type SheetDecision, sheetSides } from '@wembrel/core/decisions/sheets';
import { shippedSheets } from '@wembrel/core/handover/grow';
import { plannedName } from '@wembrel/core/predict/planned';
import type { MergeDecisions } from '../contract/project.ts';

/** Sends slots and planned surfaces to a sheet, keeps them apart, or (null) leaves them to be spread. */
export function withRoutes(d: MergeDecisions, names: readonly string[], to: string | null): MergeDecisions {
  const planned = new Set(d.planned.map(plannedName));
  const slots = names.filter((name) => !planned.has(name));
  return {
    ...d,
    routes: routeSlots(d.routes, slots, to),
    planned: d.planned.map((p) => (names.includes(plannedName(p)) ? { ...p, to } : p)),
  };
}

/** @param titles what the slots are called */
export function routeLabel(d: MergeDecisions, titles: readonly string[], to: string | null): string {
  const what = titles.length === 1 ? titles[0] : `${titles.length} slots`;
  if (to === null) return `Leave ${what} to be spread`;
  if (to === APART) return `Keep ${what} apart`;
  return `Route ${what} to ${sheetTitle(d, to)}`;
}

/** Name of a sheet by its id. */
export const sheetTitle = (d: Pick<MergeDecisions, 'sheets'>, id: string): string =>
  id === APART ? 'kept apart' : (d.sheets.find((sheet) => sheet.id === id)?.name ?? id);

export function withSheet(d: MergeDecisions, id: string, part: Partial<SheetDecision>): MergeDecisions {
  return {
    ...d,
    sheets: d.sheets.map((sheet) => {
      if (sheet.id !== id) return sheet;
      // A layout that was looked for was one of the sheet as it was; a name and the sizes of maps change nothing of it.
      const relaid = Object.keys(part).some((k) => k !== 'name' && k !== 'maps');
      const next = { ...sheet, ...(relaid ? { search: null } : {}), ...part };
      // Places are those of one size and kind of sheet.
      if (['size', 'height', 'kind', 'cell', 'swatch'].some((k) => k in part)) next.pinned = {};
      const [w, h] = sheetSides(next);
      return { ...next, reserves: next.reserves.map((reserve) => fitReserve(reserve, w, h)) };
    }),
  };
}

/** The least number that no sheet has as its id. */
export function nextSheetId(d: Pick<MergeDecisions, 'sheets'>): string {
  const ids = new Set(d.sheets.map((sheet) => sheet.id));
  let id = 1;
  while (ids.has(String(id))) id++;
  return String(id);
}

/** With the bays of a sheet held as a manifest says; slots that lay there stay there. @throws Error with a sentence */
export function withHeldBays(d: MergeDecisions, id: string, manifest: unknown): MergeDecisions {
  const name = d.sheets.find((sheet) => sheet.id === id)?.name;
  const { sheets, routes } = shippedSheets(manifest, d.sheets);
  const shipped = sheets.find((sheet) => sheet.name === name);
  if (!shipped || shipped.id !== id) throw new Error(`the last final has no sheet called "${name}"`);
  const own = routes.filter(({ slot, to }) => to === id && routeTo(d.routes, slot) === undefined);
  return {
    ...d,
    sheets: d.sheets.map((sheet) => (sheet.id === id ? { ...shipped, reserves: sheet.reserves } : sheet)),
    routes: mergeRoutes(d.routes, own),
  };
}

/** One more sheet like the last one, under a name and an id that are free. */
export function withNewSheet(d: MergeDecisions): MergeDecisions {
  const last = d.sheets[d.sheets.length - 1];
  const names = new Set(d.sheets.map((sheet) => sheet.name.toLowerCase()));
  const base = last.name.replace(/_\d+$/, '').slice(0, 56);
  let n = 2;
  while (names.has(`${base}_${n}`.toLowerCase())) n++;
  const made = { ...last, id: nextSheetId(d), name: `${base}_${n}`, reserves: [], pinned: {}, rigid: [], flipped: [] };
  return { ...d, sheets: [...d.sheets, made] };
}

/** Without a sheet; what was routed to it is spread over the others, rules that led there are gone. */
export function withoutSheet(d: MergeDecisions, id: string): MergeDecisions {
  return {
    ...d,
    sheets: d.sheets.filter((sheet) => sheet.id !== id),
    routes: d.routes.filter(({ to }) => to !== id),
    rules: d.rules.filter((rule) => rule.to !== id),
    planned: d.planned.map((p) => (p.to === id ? { ...p, to: null } : p)),
  };
}

/** With one more rule, asked after the others. */
export function withRule(d: MergeDecisions, when: RuleCondition, to: string): MergeDecisions {
  let n = 1;
  while (d.rules.some((rule) => rule.id === String(n))) n++;
  return { ...d, rules: [...d.rules, { id: String(n), when, to }] };
}

/** A rule in words. */
export function ruleTitle(
  d: MergeDecisions,
  r: Pick<RouteRule, 'when' | 'to'>,
  pictureName: (key: string) => string,
): string {
  const to = r.to === APART ? 'is kept apart' : `goes to ${sheetTitle(d, r.to)}`;
  return `Every slot ${describeRule(r.when, pictureName)} ${to}`;
}
