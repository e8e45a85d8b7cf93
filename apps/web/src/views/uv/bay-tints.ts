import type { PackedSheet } from '../../contract/plots.ts';
import { divergingRamp, sequentialRamp } from '../../ui/ramps.ts';

/** What bays are coloured by. */
export const BAY_TINTS = { slot: 'slot', density: 'density', stretch: 'stretch' } as const;
export type BayTint = keyof typeof BAY_TINTS;

export interface BayScale {
  colour: (id: number) => string;
  /** Ends of the scale in words, and whether it goes both ways from the middle. */
  ends: [low: string, high: string];
  twoEnded: boolean;
}

/** Steps of a scale: as many colours are drawn on models. */
const STEPS = 12;
const GREY = 'oklch(0.62 0 0)';

/** The middle of all densities of a sheet, px/m. */
export function middleDensity(sheet: PackedSheet): number {
  const all = sheet.plots.flatMap((plot) => (plot.density === null ? [] : [plot.density])).sort((a, b) => a - b);
  return all.length === 0 ? 0 : all[all.length >> 1];
}

/** Colours of the bays of a sheet; null by slot, which needs no scale. */
export function bayScale(tint: BayTint, sheet: PackedSheet): BayScale | null {
  if (tint === 'slot') return null;
  const step = (share: number) => Math.round(Math.min(1, Math.max(0, share)) * STEPS) / STEPS;
  if (tint === 'stretch') {
    const values = new Map(sheet.plots.map((plot) => [plot.id, plot.stretch]));
    return {
      colour: (id) => {
        const v = values.get(id) ?? null;
        return v === null ? GREY : sequentialRamp(step(v - 1));
      },
      ends: ['texels square', '2 × as long and more'],
      twoEnded: false,
    };
  }
  const middle = middleDensity(sheet);
  const values = new Map(sheet.plots.map((plot) => [plot.id, plot.density]));
  return {
    colour: (id) => {
      const v = values.get(id);
      return v ? divergingRamp(2 * step(0.5 + Math.log2(v / middle) / 4) - 1) : GREY;
    },
    ends: [`¼ of ${middle.toPrecision(3)} px/m`, '4 ×'],
    twoEnded: true,
  };
}
