import type { PlannedSurface } from '@wembrel/core/decisions/planned-surface';
import { routeSlots, routeTo } from '@wembrel/core/decisions/routes';
import { APART } from '@wembrel/core/decisions/rules';
import type { MergeDecisions } from '../contract/project.ts';

/** The slot that takes a planned surface's place goes where that was sent, unless it was sent somewhere itself. */
export function routesOfLinked(
  { routes, sheets }: MergeDecisions,
  { linked, to }: PlannedSurface,
): MergeDecisions['routes'] {
  const there = to === APART || sheets.some((sheet) => sheet.id === to);
  if (linked === null || to === null || !there || routeTo(routes, linked) !== undefined) return routes;
  return routeSlots(routes, [linked], to);
}
