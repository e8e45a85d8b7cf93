import type { MergeDecisions } from '../../decisions/decisions.ts';
import { assign } from '../../plan/assign.ts';
import { DrawCallCounter } from '../../plan/draw-calls.ts';
import type { PlanSlot } from '../plan-slot.ts';
import { assignable, type PictureSizes } from '../predict.ts';

/** Cuts may add this share of a scene's triangles, or so many, whichever is more. */
const MOST_SHARE = 0.1;
const MOST_TRIANGLES = 5_000;

/**
 * Slots by name that stay apart only because their texture repeats, and that save draw calls when they are cut at the repeats and go on a
 * sheet with others of their model. Those that save most for their triangles come first, as long as they keep within bounds.
 */
export function worthCutting(slots: readonly PlanSlot[], decisions: MergeDecisions, sizes: PictureSizes): string[] {
  const traits = slots.map((slot) => assignable(slot, decisions, sizes));
  const now = assign(traits, decisions);
  const byName = new Map<string, number[]>();
  slots.forEach((slot, i) => {
    if (now[i].code !== 'repeats') return;
    const list = byName.get(slot.name);
    if (list) list.push(i);
    else byName.set(slot.name, [i]);
  });
  const able = [...byName].filter(([, list]) => list.every((i) => slots[i].uncut === null && slots[i].cut));
  if (able.length === 0) return [];
  const counter = new DrawCallCounter(slots, 'scene');
  const calls = (names: ReadonlySet<string>) => {
    const then = assign(traits, { ...decisions, cutRepeats: [...decisions.cutRepeats, ...names] });
    // On one sheet, as far as sheets go: what can be joined then can be joined in the best case.
    return counter.count(then.map((assignment) => (assignment.code ? -1 : 0)));
  };
  const triangles = (name: string) =>
    (byName.get(name) as number[]).reduce((sum, i) => sum + (slots[i].cut?.triangles ?? 0), 0);
  const chosen = new Set(able.map(([name]) => name));
  let least = calls(chosen);
  // Taken out one by one, dearest first, where that costs no draw call.
  for (const [name] of [...able].sort((a, b) => triangles(b[0]) - triangles(a[0]) || (a[0] < b[0] ? -1 : 1))) {
    chosen.delete(name);
    const without = calls(chosen);
    if (without > least) chosen.add(name);
    else least = without;
  }
  const scene = slots.reduce((sum, slot) => sum + slot.parts.reduce((k, part) => k + part.triangles, 0), 0);
  let room = Math.max(MOST_TRIANGLES, MOST_SHARE * scene);
  return [...chosen]
    .sort((a, b) => triangles(a) - triangles(b) || (a < b ? -1 : 1))
    .filter((name) => {
      room -= triangles(name);
      return room >= 0;
    });
}
