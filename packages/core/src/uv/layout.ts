import { pack } from '../pack/pack.ts';
import { scaledBox, type Turns } from '../pack/rasterise.ts';
import type { MergeDecisions } from '../plan/decisions.ts';
import { type Routing, spread } from '../plan/route.ts';
import type { Model } from '../scene/model.ts';
import { type ImageSizes, type Plot, plotsOfMaterial, SWATCH_SIDE } from './plots.ts';

/** A plot with its place: px = turned((layout − origin) · scale) + (x, y). */
export interface PlacedPlot extends Plot {
  sheet: number;
  /** Relative size: 1 = as many texels as the source. */
  factor: number;
  x: number;
  y: number;
  turns: Turns;
  /** px per texel of the source, factor included. */
  scale: number;
  /** Box of the scaled, not yet turned shape, whole px. */
  boxWidth: number;
  boxHeight: number;
}

export interface SheetLayout {
  name: string;
  size: number;
  /** Least gap between islands, px. */
  margin: number;
  /** Common scale: 1 = as sharp as the sources. */
  scale: number;
  plots: PlacedPlot[];
  attempts: number;
}

export interface Layout {
  sheets: SheetLayout[];
}

/** px of a point given in layout coordinates. */
export function placePoint(plot: PlacedShape, lx: number, ly: number): [number, number] {
  if (plot.kind === 'swatch') return [plot.x + SWATCH_SIDE / 2, plot.y + SWATCH_SIDE / 2];
  const x = (lx - plot.originX) * plot.scale;
  const y = (ly - plot.originY) * plot.scale;
  const w = plot.boxWidth;
  const h = plot.boxHeight;
  switch (plot.turns) {
    case 0:
      return [plot.x + x, plot.y + y];
    case 1:
      return [plot.x + h - y, plot.y + x];
    case 2:
      return [plot.x + w - x, plot.y + h - y];
    default:
      return [plot.x + y, plot.y + w - x];
  }
}

/** Size of the turned box of a plot, px. */
export function placedBox(plot: PlacedShape): [number, number] {
  if (plot.kind === 'swatch') return [SWATCH_SIDE, SWATCH_SIDE];
  return plot.turns % 2 === 0 ? [plot.boxWidth, plot.boxHeight] : [plot.boxHeight, plot.boxWidth];
}

export interface LayoutHooks {
  cancelled?: () => boolean;
  progress?: (share: number, doing: string) => void;
}

/** What the packing of a sheet depends on besides its plots. */
export type PackingDecisions = Pick<MergeDecisions, 'rotate' | 'scale' | 'effort' | 'seed'>;

/**
 * The plots of every sheet, not placed yet. Gives each material without a route its sheet (`RoutedMaterial.sheet`).
 * Ids run through all sheets.
 */
export function plotsBySheet(
  models: Model[],
  routing: Routing,
  sheets: MergeDecisions['sheets'],
  sizes: ImageSizes,
): Plot[][] {
  const byMaterial = routing.materials.map((m, i) => plotsOfMaterial(models, m, i, sizes));
  const areas = byMaterial.map((plots) => plots.reduce((n, p) => n + p.texelArea, 0));
  spread(
    routing.materials,
    areas,
    sheets.map((s) => s.size),
  );
  let nextId = 0;
  return sheets.map((_, s) =>
    routing.materials.flatMap((m, i) => (m.sheet === s ? byMaterial[i].map((p) => ({ ...p, id: nextId++ })) : [])),
  );
}

/** What packing reads of a plot. */
export type PackablePlot = Pick<
  Plot,
  'id' | 'material' | 'kind' | 'shape' | 'originX' | 'originY' | 'mayTurn' | 'texelArea' | 'worldArea'
>;

/**
 * Relative size of each plot. `relative`: as many texels as the source. `even`: the same px/m everywhere; at scale 1 the sharpest
 * island keeps its own resolution and no island loses any.
 */
export function scaleFactors(sheets: readonly (readonly PackablePlot[])[], scale: MergeDecisions['scale']): number[][] {
  const raw = sheets.map((plots) =>
    plots.map((p) =>
      scale === 'even' && p.kind === 'plot' ? Math.sqrt(p.worldArea / Math.max(p.texelArea, 1e-9)) : 1,
    ),
  );
  if (scale !== 'even') return raw;
  let least = Infinity;
  sheets.forEach((plots, s) => {
    plots.forEach((p, i) => {
      if (p.kind === 'plot' && raw[s][i] > 0) least = Math.min(least, raw[s][i]);
    });
  });
  return sheets.map((plots, s) => plots.map((p, i) => (p.kind === 'plot' && raw[s][i] > 0 ? raw[s][i] / least : 1)));
}

/** A placed plot without what only the bake needs. */
export type PlacedShape = PackablePlot & {
  sheet: number;
  x: number;
  y: number;
  turns: Turns;
  scale: number;
  boxWidth: number;
  boxHeight: number;
  factor: number;
};

/**
 * Packs one sheet. The same function runs in the server and in the browser, with the same result.
 * @throws Error with a sentence when the islands do not fit at any scale (too many for the margin)
 */
export function packSheet<P extends PackablePlot>(
  plots: P[],
  factors: number[],
  sheet: MergeDecisions['sheets'][number],
  index: number,
  d: PackingDecisions,
  hooks: LayoutHooks = {},
): { scale: number; attempts: number; plots: (P & PlacedShape)[] } {
  const { size, margin, name } = sheet;
  hooks.progress?.(0, `packing ${plots.length} islands`);
  const result = pack(
    plots.map((p, i) => ({
      shape: p.shape,
      factor: factors[i],
      mayTurn: p.mayTurn,
      fixedSide: p.kind === 'swatch' ? SWATCH_SIDE : undefined,
    })),
    {
      width: size,
      height: size,
      margin,
      rotate: d.rotate,
      maxScale: 1,
      effort: d.effort,
      seed: d.seed,
      cancelled: hooks.cancelled,
      progress: (share) => hooks.progress?.(share, `packing ${plots.length} islands`),
    },
  );
  if (plots.length > 0 && result.scale === 0 && !hooks.cancelled?.())
    throw new Error(
      `${plots.length} islands do not fit on the ${size} px sheet "${name}" with a margin of ${margin} px: take a larger sheet, more sheets or a smaller margin`,
    );
  return {
    scale: result.scale,
    attempts: result.attempts,
    plots:
      result.placements.length === 0
        ? []
        : plots.map((p, i) => placed(p, index, factors[i], result.scale, result.placements[i])),
  };
}

function placed<P extends PackablePlot>(
  p: P,
  sheet: number,
  factor: number,
  common: number,
  at: { x: number; y: number; turns: Turns },
): P & PlacedShape {
  const scale = p.kind === 'swatch' ? 1 : common * factor;
  const [boxWidth, boxHeight] = p.kind === 'swatch' ? [SWATCH_SIDE, SWATCH_SIDE] : scaledBox(p.shape, scale);
  return { ...p, sheet, ...at, factor, scale, boxWidth, boxHeight };
}

/**
 * Lays out all merged materials on their sheets.
 * @throws Error with a sentence when the islands do not fit at any scale
 */
export function layOut(
  models: Model[],
  routing: Routing,
  decisions: MergeDecisions,
  sizes: ImageSizes,
  hooks: LayoutHooks = {},
): Layout {
  const all = plotsBySheet(models, routing, decisions.sheets, sizes);
  const factors = scaleFactors(all, decisions.scale);
  const count = decisions.sheets.length;
  const sheets = decisions.sheets.map((sheet, s): SheetLayout => {
    const packed = packSheet(all[s], factors[s], sheet, s, decisions, {
      cancelled: hooks.cancelled,
      progress: (share, doing) => hooks.progress?.((s + share) / count, doing),
    });
    return { name: sheet.name, size: sheet.size, margin: sheet.margin, ...packed };
  });
  return { sheets };
}
