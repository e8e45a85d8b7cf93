import type { MergeDecisions } from '../../decisions/decisions.ts';
import { APART } from '../../decisions/rules.ts';
import { plannedName } from '../planned.ts';
import type { Proposal } from './propose.ts';

/**
 * Decisions with a proposal taken, whole or in part. Sheets of the proposal come with any part of it; slots that are left out keep
 * their routes, and the sheets that these lead to.
 * @param names slots that are taken; null: all @param reduce the meshes that it reduces are reduced
 */
export function takeProposal(
  d: MergeDecisions,
  p: Pick<Proposal, 'decisions' | 'routes'>,
  names: ReadonlySet<string> | null,
  reduce = true,
): MergeDecisions {
  const { scale, join, keepAll } = p.decisions;
  const repairs = reduce ? { ...d.repairs, reduce: p.decisions.repairs.reduce } : d.repairs;
  const common = { ...d, scale, join, keepAll, repairs };
  if (names === null) {
    const { sheets, routes, planned, cutRepeats, proposed } = p.decisions;
    return { ...common, sheets, routes, planned, cutRepeats, proposed };
  }
  const taken = p.routes.filter((route) => names.has(route.name));
  const left = new Set(p.routes.filter((route) => !names.has(route.name)).map((route) => route.name));
  const routes = [
    ...p.decisions.routes.filter(({ slot }) => !left.has(slot)),
    ...d.routes.filter(({ slot }) => left.has(slot)),
  ];
  const cuts = (p.decisions.proposed?.cuts ?? []).filter((cut) => names.has(cut));
  const planned = d.planned.map((s) => {
    const to = taken.find((proposedRoute) => proposedRoute.name === plannedName(s))?.to;
    return to === undefined ? s : { ...s, to };
  });
  const here = new Set(p.decisions.sheets.map((sheet) => sheet.id));
  const needed = new Set([
    ...routes.map((route) => route.to),
    ...d.rules.map((rule) => rule.to),
    ...planned.flatMap((s) => s.to ?? []),
  ]);
  const titles = new Set(p.decisions.sheets.map((sheet) => sheet.name.toLowerCase()));
  const kept = d.sheets.filter(
    (sheet) => needed.has(sheet.id) && !here.has(sheet.id) && !titles.has(sheet.name.toLowerCase()),
  );
  const sheets = [...p.decisions.sheets, ...kept];
  const ids = new Set([APART, ...sheets.map((sheet) => sheet.id)]);
  return {
    ...common,
    sheets,
    routes: routes.filter(({ to }) => ids.has(to)),
    planned: planned.map((s) => (s.to !== null && !ids.has(s.to) ? { ...s, to: null } : s)),
    cutRepeats: [...new Set([...d.cutRepeats, ...cuts])],
    proposed: {
      cuts,
      routes: taken.map((proposedRoute) => ({ slot: proposedRoute.name, to: proposedRoute.to })),
      sheets: p.decisions.proposed?.sheets ?? [],
    },
  };
}
