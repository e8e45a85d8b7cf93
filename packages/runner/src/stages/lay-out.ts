import { type TargetPart, targetParts } from '@wembrel/core/bake/target';
import type { MergeDecisions } from '@wembrel/core/decisions/decisions';
import { Cancelled, InputError } from '@wembrel/core/errors';
import { type GatheredPlots, type Layout, layOut as layOutPlots, plotsBySheet } from '@wembrel/core/layout/layout';
import type { LayoutHooks } from '@wembrel/core/layout/pack-sheet';
import { tangentsReady } from '@wembrel/core/mesh/tangents';
import type { StageContext } from './context.ts';
import type { Dressing } from './dressing.ts';
import type { Routed } from './route.ts';

/** Islands in their places. */
export interface LaidOut extends Routed {
  layout: Layout;
  /** New UVs of every part that is on a sheet. */
  targets: TargetPart[];
  /** The same by `${model}:${part}`. */
  byPart: ReadonlyMap<string, TargetPart>;
}

const sizesOf =
  ({ images }: Routed) =>
  (image: string) =>
    images.size(image);

/** The islands of every sheet, not packed. */
export function gatherPlots(routed: Routed, decisions: MergeDecisions): GatheredPlots {
  return plotsBySheet(routed.models, routed.routing, decisions.sheets, sizesOf(routed));
}

/** Packs the islands of every sheet. @throws Error with a sentence where islands do not fit */
export function packRouted(routed: Routed, decisions: MergeDecisions, { scope, report }: StageContext) {
  const hooks: LayoutHooks = {
    cancelled: () => scope.cancelled,
    progress: (share, doing) => report('layout', share, doing),
  };
  return layOutPlots(routed.models, routed.routing, decisions, sizesOf(routed), hooks);
}

/**
 * The fourth stage: islands are packed, and every part on a sheet gets its new UVs.
 * @throws InputError when islands do not fit @throws Cancelled
 */
export async function layOut(
  routed: Routed,
  decisions: MergeDecisions,
  context: StageContext,
  dressing: Dressing | null = null,
): Promise<LaidOut> {
  const { routing, layout } = sentenced(routed, () => packRouted(routed, decisions, context));
  await tangentsReady;
  context.scope.checkpoint();
  const targets = targetParts(
    routed.models,
    routing,
    layout,
    sizesOf(routed),
    (name) => dressing?.isFor(name) ?? false,
  );
  const byPart = new Map(targets.map((target) => [`${target.model}:${target.part}`, target]));
  return { ...routed, routing, layout, targets, byPart };
}

/** What packing says is said of the first model. */
function sentenced<T>({ models }: Routed, work: () => T): T {
  try {
    return work();
  } catch (error) {
    if (error instanceof InputError || error instanceof Cancelled) throw error;
    throw new InputError(models[0].path, error instanceof Error ? error.message : String(error));
  }
}
