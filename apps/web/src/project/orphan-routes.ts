import type { Route } from '@wembrel/core/decisions/routes';
import type { SourceChanges } from '../contract/project.ts';

/** Slots with a route that were there before sources were read again, and are not any more. */
export function orphanRoutes(changes: SourceChanges | null, routes: readonly Route[]): string[] {
  const gone = new Set(changes?.goneSlots ?? []);
  return routes.flatMap(({ slot }) => (gone.has(slot) ? [slot] : []));
}
