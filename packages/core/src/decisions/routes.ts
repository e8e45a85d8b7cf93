import { z } from 'zod';

/*
 * What is decided of slots by name stands in lists, not in objects under the names: a slot may be called `__proto__` or `constructor`.
 * Objects are read too, as earlier plan files have them.
 */

/** A slot by its exact name, and where it goes: the id of a sheet, or `apart`. */
export const Route = z.object({ slot: z.string(), to: z.string() });
export type Route = z.infer<typeof Route>;

/** Routes from an object: slot → sheet. */
export const routesFrom = (o: Record<string, string>): Route[] => Object.entries(o).map(([slot, to]) => ({ slot, to }));

export const RouteList: z.ZodType<Route[], Route[] | Record<string, string>> = z.union([
  z.array(Route),
  z.record(z.string(), z.string()).transform(routesFrom),
]);

const Weight = z.number().min(0.05).max(8);

/** How important a slot is, by its exact name: 2 is twice as sharp as the others where room is short. */
export const SlotWeight = z.object({ slot: z.string(), weight: Weight });
export type SlotWeight = z.infer<typeof SlotWeight>;

export const WeightList: z.ZodType<SlotWeight[], SlotWeight[] | Record<string, number>> = z.union([
  z.array(SlotWeight),
  z.record(z.string(), Weight).transform((o) => Object.entries(o).map(([slot, weight]) => ({ slot, weight }))),
]);

/** Where a slot is routed by name; undefined where nothing is said of it. */
export const routeTo = (routes: readonly Route[], slot: string): string | undefined =>
  routes.find((route) => route.slot === slot)?.to;

/** Routes with others on top; a slot that is routed already keeps its place in the list. */
export function mergeRoutes(routes: readonly Route[], others: readonly Route[]): Route[] {
  const to = new Map(routes.map((route) => [route.slot, route.to]));
  for (const other of others) to.set(other.slot, other.to);
  return Array.from(to, ([slot, sheet]) => ({ slot, to: sheet }));
}

/** Routes in which slots go to a sheet or are kept apart; null: nothing is said of them any more. */
export function routeSlots(routes: readonly Route[], slots: Iterable<string>, to: string | null): Route[] {
  const names = [...slots];
  if (to !== null)
    return mergeRoutes(
      routes,
      names.map((slot) => ({ slot, to })),
    );
  const gone = new Set(names);
  return routes.filter((route) => !gone.has(route.slot));
}

/** 1 where nothing is said of a slot. */
export const weightOf = (weights: readonly SlotWeight[], slot: string): number =>
  weights.find((weight) => weight.slot === slot)?.weight ?? 1;

/** Weights in which slots have that one. */
export function weighSlots(weights: readonly SlotWeight[], slots: Iterable<string>, weight: number): SlotWeight[] {
  const names = new Set(slots);
  const others = weights.filter((weight) => !names.has(weight.slot));
  return weight === 1 ? others : [...others, ...Array.from(names, (slot) => ({ slot, weight }))];
}

/** The first name that a list has twice, or null. */
export function namedTwice(list: readonly { slot: string }[]): string | null {
  const seen = new Set<string>();
  for (const { slot } of list) {
    if (seen.has(slot)) return slot;
    seen.add(slot);
  }
  return null;
}
