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
  decisions: MergeDecisions,
  proposal: Pick<Proposal, 'decisions' | 'routes'>,
  names: ReadonlySet<string> | null,
  reduce = true,
): MergeDecisions {
  const { scale, join, keepAll } = proposal.decisions;
  const repairs = reduce ? { ...decisions.repairs, reduce: proposal.decisions.repairs.reduce } : decisions.repairs;
  const common = { ...decisions, scale, join, keepAll, repairs };
  if (names === null) {
    const { sheets, routes, planned, cutRepeats, proposed, leftOut } = proposal.decisions;
    return { ...common, sheets, routes, planned, cutRepeats, proposed, leftOut };
  }
  const taken = proposal.routes.filter((route) => names.has(route.name));
  const left = new Set(proposal.routes.filter((route) => !names.has(route.name)).map((route) => route.name));
  const routes = [
    ...proposal.decisions.routes.filter(({ slot }) => !left.has(slot)),
    ...decisions.routes.filter(({ slot }) => left.has(slot)),
  ];
  const cuts = (proposal.decisions.proposed?.cuts ?? []).filter((cut) => names.has(cut));
  const planned = decisions.planned.map((planned) => {
    const to = taken.find((proposedRoute) => proposedRoute.name === plannedName(planned))?.to;
    return to === undefined ? planned : { ...planned, to };
  });
  const here = new Set(proposal.decisions.sheets.map((sheet) => sheet.id));
  const needed = new Set([
    ...routes.map((route) => route.to),
    ...decisions.rules.map((rule) => rule.to),
    ...planned.flatMap((planned) => planned.to ?? []),
  ]);
  const titles = new Set(proposal.decisions.sheets.map((sheet) => sheet.name.toLowerCase()));
  const kept = decisions.sheets.filter(
    (sheet) => needed.has(sheet.id) && !here.has(sheet.id) && !titles.has(sheet.name.toLowerCase()),
  );
  const sheets = [...proposal.decisions.sheets, ...kept];
  const ids = new Set([APART, ...sheets.map((sheet) => sheet.id)]);
  return {
    ...common,
    sheets,
    routes: routes.filter(({ to }) => ids.has(to)),
    leftOut: proposal.decisions.leftOut.filter(({ slot }) => !left.has(slot)),
    planned: planned.map((planned) =>
      planned.to !== null && !ids.has(planned.to) ? { ...planned, to: null } : planned,
    ),
    cutRepeats: [...new Set([...decisions.cutRepeats, ...cuts])],
    proposed: {
      cuts,
      routes: taken.map((proposedRoute) => ({ slot: proposedRoute.name, to: proposedRoute.to })),
      sheets: proposal.decisions.proposed?.sheets ?? [],
    },
  };
}
