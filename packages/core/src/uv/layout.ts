import { pack } from '../pack/pack.ts';
import { scaledBox, type Turns } from '../pack/rasterise.ts';
import type { MergeDecisions } from '../plan/decisions.ts';
import { type Routing, spread } from '../plan/route.ts';
import type { Model } from '../scene/model.ts';
import { type ImageSizes, type Plot, plotsOfMaterial, SWATCH_SIDE } from './plots.ts';

/** A plot with its place: px = turned((layout − origin) · scale) + (x, y). */
export interface PlacedPlot extends Plot {
  sheet: number;
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
  /** Common scale: 1 = as sharp as the sources. */
  scale: number;
  plots: PlacedPlot[];
  attempts: number;
}

export interface Layout {
  sheets: SheetLayout[];
}

/** px of a point given in layout coordinates. */
export function placePoint(plot: PlacedPlot, lx: number, ly: number): [number, number] {
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
export function placedBox(plot: PlacedPlot): [number, number] {
  if (plot.kind === 'swatch') return [SWATCH_SIDE, SWATCH_SIDE];
  return plot.turns % 2 === 0 ? [plot.boxWidth, plot.boxHeight] : [plot.boxHeight, plot.boxWidth];
}

export interface LayoutHooks {
  cancelled?: () => boolean;
  progress?: (share: number, doing: string) => void;
}

/**
 * Lays out all merged materials on their sheets.
 * @throws Error with a sentence when the islands do not fit at any scale (too many for the margin)
 */
export function layOut(
  models: Model[],
  routing: Routing,
  decisions: MergeDecisions,
  sizes: ImageSizes,
  hooks: LayoutHooks = {},
): Layout {
  const byMaterial = routing.materials.map((m, i) => plotsOfMaterial(models, m, i, sizes, decisions.scale));
  const areas = byMaterial.map((plots) => plots.reduce((n, p) => n + p.texelArea, 0));
  const sheetCount = Math.max(1, Math.min(decisions.sheets, routing.materials.length));
  spread(routing.materials, areas, sheetCount);
  if (decisions.scale === 'even') normaliseFactors(byMaterial.flat());
  let nextId = 0;
  const sheets = Array.from({ length: sheetCount }, (_, s): SheetLayout => {
    const plots: Plot[] = routing.materials.flatMap((m, i) =>
      m.sheet === s ? byMaterial[i].map((p) => ({ ...p, id: nextId++ })) : [],
    );
    hooks.progress?.(s / sheetCount, `packing ${plots.length} islands`);
    const result = pack(
      plots.map((p) => ({
        shape: p.shape,
        factor: p.factor,
        mayTurn: p.mayTurn,
        fixedSide: p.kind === 'swatch' ? SWATCH_SIDE : undefined,
      })),
      {
        width: decisions.size,
        height: decisions.size,
        margin: decisions.margin,
        rotate: decisions.rotate,
        maxScale: 1,
        effort: decisions.effort,
        seed: decisions.seed,
        cancelled: hooks.cancelled,
        progress: (share) => hooks.progress?.((s + share) / sheetCount, `packing ${plots.length} islands`),
      },
    );
    if (plots.length > 0 && result.scale === 0 && !hooks.cancelled?.())
      throw new Error(
        `${plots.length} islands do not fit on a ${decisions.size} px sheet with a margin of ${decisions.margin} px: take a larger sheet, more sheets or a smaller margin`,
      );
    const name = sheetCount === 1 ? decisions.sheetName : `${decisions.sheetName}_${s + 1}`;
    return {
      name,
      size: decisions.size,
      scale: result.scale,
      attempts: result.attempts,
      plots:
        result.placements.length === 0 ? [] : plots.map((p, i) => placed(p, s, result.scale, result.placements[i])),
    };
  });
  return { sheets };
}

function placed(p: Plot, sheet: number, scale: number, at: { x: number; y: number; turns: Turns }): PlacedPlot {
  const s = p.kind === 'swatch' ? 1 : scale * p.factor;
  const [boxWidth, boxHeight] = p.kind === 'swatch' ? [SWATCH_SIDE, SWATCH_SIDE] : scaledBox(p.shape, s);
  return { ...p, sheet, ...at, scale: s, boxWidth, boxHeight };
}

/** Even density: at scale 1 the sharpest island keeps its own resolution and no island loses any. */
function normaliseFactors(plots: { kind: string; factor: number }[]): void {
  let least = Infinity;
  for (const p of plots) if (p.kind === 'plot' && p.factor > 0) least = Math.min(least, p.factor);
  for (const p of plots) p.factor = p.kind === 'plot' && p.factor > 0 ? p.factor / least : 1;
}
