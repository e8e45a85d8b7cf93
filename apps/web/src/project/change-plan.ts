import { mergeRoutes, routeSlots, routeTo } from '@wembrel/core/decisions/routes';
import { APART, addRule, describeRule, type RouteRule, type RuleCondition } from '@wembrel/core/decisions/rules';
import { fitReserve, type SheetDecision, sheetSides } from '@wembrel/core/decisions/sheets';
import { shippedSheets } from '@wembrel/core/handover/grow';
import { plannedName } from '@wembrel/core/predict/planned';
import type { MergeDecisions } from '../contract/project.ts';

/** Sends slots and planned surfaces to a sheet, keeps them apart, or (null) leaves them to be spread. */
export function withRoutes(decisions: MergeDecisions, names: readonly string[], to: string | null): MergeDecisions {
  const planned = new Set(decisions.planned.map(plannedName));
  const slots = names.filter((name) => !planned.has(name));
  return {
    ...decisions,
    routes: routeSlots(decisions.routes, slots, to),
    planned: decisions.planned.map((planned) => (names.includes(plannedName(planned)) ? { ...planned, to } : planned)),
  };
}

/** @param titles what the slots are called */
export function routeLabel(decisions: MergeDecisions, titles: readonly string[], to: string | null): string {
  const what = titles.length === 1 ? titles[0] : `${titles.length} slots`;
  if (to === null) return `Leave ${what} to be spread`;
  if (to === APART) return `Keep ${what} apart`;
  return `Route ${what} to ${sheetTitle(decisions, to)}`;
}

/** Name of a sheet by its id. */
export const sheetTitle = (decisions: Pick<MergeDecisions, 'sheets'>, id: string): string =>
  id === APART ? 'kept apart' : (decisions.sheets.find((sheet) => sheet.id === id)?.name ?? id);

export function withSheet(decisions: MergeDecisions, id: string, part: Partial<SheetDecision>): MergeDecisions {
  return {
    ...decisions,
    sheets: decisions.sheets.map((sheet) => {
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
export function nextSheetId(decisions: Pick<MergeDecisions, 'sheets'>): string {
  const ids = new Set(decisions.sheets.map((sheet) => sheet.id));
  let id = 1;
  while (ids.has(String(id))) id++;
  return String(id);
}

/** With the bays of a sheet held as a manifest says; slots that lay there stay there. @throws Error with a sentence */
export function withHeldBays(decisions: MergeDecisions, id: string, manifest: unknown): MergeDecisions {
  const name = decisions.sheets.find((sheet) => sheet.id === id)?.name;
  const { sheets, routes } = shippedSheets(manifest, decisions.sheets);
  const shipped = sheets.find((sheet) => sheet.name === name);
  if (!shipped || shipped.id !== id) throw new Error(`the last final has no sheet called "${name}"`);
  const own = routes.filter(({ slot, to }) => to === id && routeTo(decisions.routes, slot) === undefined);
  return {
    ...decisions,
    sheets: decisions.sheets.map((sheet) => (sheet.id === id ? { ...shipped, reserves: sheet.reserves } : sheet)),
    routes: mergeRoutes(decisions.routes, own),
  };
}

/** One more sheet like the last one, under a name and an id that are free. */
export function withNewSheet(decisions: MergeDecisions): MergeDecisions {
  const last = decisions.sheets[decisions.sheets.length - 1];
  const names = new Set(decisions.sheets.map((sheet) => sheet.name.toLowerCase()));
  const base = last.name.replace(/_\d+$/, '').slice(0, 56);
  let n = 2;
  while (names.has(`${base}_${n}`.toLowerCase())) n++;
  const made = {
    ...last,
    id: nextSheetId(decisions),
    name: `${base}_${n}`,
    reserves: [],
    pinned: {},
    rigid: [],
    flipped: [],
  };
  return { ...decisions, sheets: [...decisions.sheets, made] };
}

/** Without a sheet; what was routed to it is spread over the others, rules that led there are gone. */
export function withoutSheet(decisions: MergeDecisions, id: string): MergeDecisions {
  return {
    ...decisions,
    sheets: decisions.sheets.filter((sheet) => sheet.id !== id),
    routes: decisions.routes.filter(({ to }) => to !== id),
    rules: decisions.rules.filter((rule) => rule.to !== id),
    planned: decisions.planned.map((planned) => (planned.to === id ? { ...planned, to: null } : planned)),
  };
}

/** With one more rule, asked after the others. */
export function withRule(decisions: MergeDecisions, when: RuleCondition, to: string): MergeDecisions {
  return { ...decisions, rules: addRule(decisions.rules, when, to) };
}

/** A rule in words. */
export function ruleTitle(
  decisions: MergeDecisions,
  routeRule: Pick<RouteRule, 'when' | 'to'>,
  pictureName: (key: string) => string,
): string {
  const to = routeRule.to === APART ? 'is kept apart' : `goes to ${sheetTitle(decisions, routeRule.to)}`;
  return `Every slot ${describeRule(routeRule.when, pictureName)} ${to}`;
}
