import { type PinnedBay, pinnedList, type SheetDecision } from '../decisions/sheets.ts';
import { turnedBox } from '../pack/placed-map.ts';
import { scaledBox } from '../pack/rasterise.ts';
import type { PackablePlot } from './packable.ts';

/**
 * Names by which a plot is known again on a sheet that was handed over: every slot that it may be called after, with every island that it
 * shows. An island is known by its shape and place on its source's texture, so that other sources and later ones change nothing.
 */
export function plotKeys(slots: readonly string[], kind: string, shown: readonly { key: string }[]): string[] {
  const islands = shown.length === 0 ? [''] : shown.map((s) => s.key);
  return [...new Set(slots)].sort().flatMap((slot) => islands.map((i) => `${slot} ${kind} ${i}`.trim()));
}

/** Plots that stay where they were handed over, by position, and pins that no plot claims any more. */
export interface Held {
  pins: Map<number, PinnedBay>;
  lost: PinnedBay[];
}

/** Px by which a box may differ and still be the same. */
const SAME = 1;

/**
 * Finds the pin of each plot. A plot that no longer fits its pin (a stack has gained islands beyond it) is laid again, and the room of the pin
 * stays taken: models that were handed over read what is there.
 */
export function heldPlots(
  plots: readonly PackablePlot[],
  sheet: Pick<SheetDecision, 'pinned'>,
  swatchSide: number,
): Held {
  const pinned = pinnedList(sheet.pinned);
  const byKey = new Map(pinned.map((p) => [p.key, p]));
  const pins = new Map<number, PinnedBay>();
  const claimed = new Set<PinnedBay>();
  if (byKey.size > 0)
    plots.forEach((plot, i) => {
      const key = plot.keys.find((k) => byKey.has(k));
      const pin = key === undefined ? undefined : byKey.get(key);
      if (!pin || claimed.has(pin)) return;
      const box = plot.kind === 'swatch' ? ([swatchSide, swatchSide] as const) : scaledBox(plot.shape, pin.scale);
      const [bw, bh] = turnedBox(box, pin);
      // A strip is as wide as its sheet, whatever its texture is.
      const fits = Math.abs(bh - pin.height) <= SAME && (plot.kind === 'strip' || Math.abs(bw - pin.width) <= SAME);
      if (!fits) return;
      claimed.add(pin);
      pins.set(i, pin);
    });
  return { pins, lost: pinned.filter((p) => !claimed.has(p)) };
}
