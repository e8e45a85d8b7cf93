import type { MergeDecisions } from '../decisions/decisions.ts';
import type { Read } from '../decisions/reads.ts';
import { SHEET_MAPS, type SheetMap, sheetSides } from '../decisions/sheets.ts';
import { capacities, spread } from '../plan/assign.ts';
import type { ImageSizes } from '../plan/layout-texture.ts';
import type { Routing } from '../plan/route.ts';
import type { Model } from '../scene/model.ts';
import { type LayoutHooks, packSheet } from './pack-sheet.ts';
import type { PackablePlot, PackedPlots, PlotPlace } from './packable.ts';
import type { Plot } from './plot.ts';
import { plotsOfMaterial } from './plots.ts';
import { type Sharpness, sharpnessOf } from './sharpness.ts';
import { hasWholeBays } from './whole-bays.ts';

/** A plot with its place. */
export type PlacedPlot = Plot & PlotPlace;

export interface SheetLayout {
  name: string;
  /** px. */
  width: number;
  height: number;
  /** Maps that are left out although materials have them. */
  without: SheetMap[];
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

/** Plots that are not placed yet, by sheet, and the routing in which every material has its sheet. */
export interface GatheredPlots {
  routing: Routing;
  plots: Plot[][];
}

/** The plots of every sheet, not placed yet; materials without a route are spread over the sheets. Ids run through all sheets. */
export function plotsBySheet(
  models: Model[],
  routing: Routing,
  sheets: MergeDecisions['sheets'],
  sizes: ImageSizes,
): GatheredPlots {
  const byMaterial = routing.materials.map((material, i) => plotsOfMaterial(models, material, i, sizes));
  const groups = routing.materials.map((material, i) => ({
    area: byMaterial[i].reduce((sum, p) => sum + p.texelArea, 0),
    sheet: material.sheet,
    allowed: material.allowed,
  }));
  const sheetOf = spread(groups, capacities(sheets));
  const materials = routing.materials.map((material, i) => ({ ...material, sheet: sheetOf[i] }));
  let nextId = 0;
  const plots = sheets.map((_, s) =>
    byMaterial.flatMap((own, i) => (sheetOf[i] === s ? own.map((p) => ({ ...p, id: nextId++ })) : [])),
  );
  return { routing: { ...routing, materials }, plots };
}

/** One texel for each of the source, where the common scale is 1. */
const AS_SOURCE: Sharpness = { factor: 1, most: 1 };

/**
 * Relative size of each plot. `relative`: as many texels as the source. `detail`: as many as its pictures really resolve. `even`: the
 * same px/m everywhere; at scale 1 the sharpest island keeps its own resolution and no island loses any. Weights come on top. Strips and
 * cells have sizes of their own, and are left out of `even`.
 */
export function scaleFactors(
  sheets: readonly (readonly PackablePlot[])[],
  scale: MergeDecisions['scale'],
  kinds: readonly MergeDecisions['sheets'][number][],
): Sharpness[][] {
  const plain = (plots: readonly PackablePlot[]) =>
    plots.map((plot) =>
      plot.exact ? AS_SOURCE : sharpnessOf(scale === 'even' ? 'relative' : scale, plot.weight, plot.useful),
    );
  if (scale !== 'even') return sheets.map(plain);
  const whole = (s: number) => hasWholeBays(kinds[s]);
  const raw = sheets.map((plots, s) =>
    (whole(s) ? [] : plots).map((packablePlot) =>
      packablePlot.kind !== 'swatch'
        ? Math.sqrt(packablePlot.worldArea / Math.max(packablePlot.texelArea, 1e-9)) * packablePlot.weight
        : 0,
    ),
  );
  const least = Math.min(...raw.flat().filter((f) => f > 0));
  return raw.map((list, s) =>
    whole(s)
      ? plain(sheets[s])
      : list.map((f) => {
          const factor = f > 0 ? f / least : 1;
          return { factor, most: factor };
        }),
  );
}

/**
 * Packs all sheets. At even density none becomes denser than the one with least room, so that all have the same px/m.
 * @throws Error with a sentence when the islands do not fit at any scale
 */
export function packSheets<P extends PackablePlot>(
  all: readonly P[][],
  read: Read<'packing'>,
  hooks: LayoutHooks = {},
): PackedPlots<P>[] {
  const factors = scaleFactors(all, read.scale, read.sheets);
  const count = read.sheets.length;
  const packOne = (s: number, limit?: number) =>
    packSheet(all[s] ?? [], {
      factors: factors[s] ?? [],
      sheet: read.sheets[s],
      index: s,
      decisions: read,
      hooks: {
        ...hooks,
        progress: (share, doing) => hooks.progress?.((s + share) / count, doing),
      },
      limit,
    });
  const packed = read.sheets.map((_, s) => packOne(s));
  if (read.scale !== 'even') return packed;
  const shaped = packed.map(
    (packedPlots, s) => !hasWholeBays(read.sheets[s]) && packedPlots.plots.some((x) => x.kind !== 'swatch'),
  );
  const least = Math.min(...packed.flatMap((packedPlots, s) => (shaped[s] ? [packedPlots.scale] : [])));
  return packed.map((packedPlots, s) =>
    shaped[s] && packedPlots.scale > least * (1 + 1e-9) ? packOne(s, least) : packedPlots,
  );
}

/**
 * Lays out all merged materials on their sheets.
 * @returns the layout, and the routing in which every material has its sheet
 * @throws Error with a sentence when the islands do not fit at any scale
 */
export function layOut(
  models: Model[],
  routing: Routing,
  decisions: MergeDecisions,
  sizes: ImageSizes,
  hooks: LayoutHooks = {},
): { routing: Routing; layout: Layout } {
  const { routing: spreadRouting, plots } = plotsBySheet(models, routing, decisions.sheets, sizes);
  const packed = packSheets(plots, decisions, hooks);
  const layout = {
    sheets: decisions.sheets.map((sheet, s): SheetLayout => {
      const [width, height] = sheetSides(sheet);
      const without = SHEET_MAPS.filter((m) => sheet.maps[m] === 'off');
      return { name: sheet.name, width, height, without, margin: sheet.margin, ...packed[s] };
    }),
  };
  return { routing: spreadRouting, layout };
}
