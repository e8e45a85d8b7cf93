import { type PackResult, type Placement, pack } from '../pack/pack.ts';
import { scaledBox, type Turns } from '../pack/rasterise.ts';
import { capacities, spread } from '../plan/assign.ts';
import type { MergeDecisions } from '../plan/decisions.ts';
import type { Routing } from '../plan/route.ts';
import { type Sharpness, scaleLimit, sharpnessOf, sizeAt } from '../plan/sharpness.ts';
import { mipAlign, type PinnedBay, SHEET_MAPS, type SheetDecision, type SheetMap, sheetSides } from '../plan/sheets.ts';
import { hasWholeBays, layCells, layStrips, type WholeTexture } from '../plan/whole-bays.ts';
import type { Model } from '../scene/model.ts';
import { heldPlots } from './pins.ts';
import { type ImageSizes, type Plot, plotsOfMaterial, rectangle, SWATCH_SIDE } from './plots.ts';
import { rigidGroups } from './rigid.ts';

/** A plot with its place: px = turned((layout − origin) · scale) + (x, y). */
export interface PlacedPlot extends Plot {
  sheet: number;
  /** Relative size: 1 = as many texels as the source. */
  factor: number;
  x: number;
  y: number;
  turns: Turns;
  /** Where it is turned by no quarter: cosine and sine. */
  direction?: readonly [number, number];
  /** Where a hand has mirrored it: its width, texels. It is mirrored before it is turned. */
  flip?: number;
  /** px per texel of the source, factor included. */
  scale: number;
  /** Box of the scaled, not yet turned shape, whole px. */
  boxWidth: number;
  boxHeight: number;
}

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

export interface LayoutHooks {
  cancelled?: () => boolean;
  progress?: (share: number, doing: string) => void;
  /** Told of every better layout of a sheet while it is packed. */
  better?: (sheet: number, packed: PackedPlots<PackablePlot>) => void;
}

/** What the packing of a sheet depends on besides its plots. */
export type PackingDecisions = Pick<MergeDecisions, 'rotate' | 'scale' | 'snap' | 'effort' | 'seed'>;

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
  const groups = routing.materials.map((m, i) => ({
    area: byMaterial[i].reduce((n, p) => n + p.texelArea, 0),
    sheet: m.sheet,
    allowed: m.allowed,
  }));
  spread(groups, capacities(sheets));
  groups.forEach((g, i) => {
    routing.materials[i].sheet = g.sheet;
  });
  let nextId = 0;
  return sheets.map((_, s) =>
    routing.materials.flatMap((m, i) => (m.sheet === s ? byMaterial[i].map((p) => ({ ...p, id: nextId++ })) : [])),
  );
}

/** What packing reads of a plot. */
export type PackablePlot = Pick<
  Plot,
  | 'id'
  | 'material'
  | 'kind'
  | 'keys'
  | 'shape'
  | 'originX'
  | 'originY'
  | 'mayTurn'
  | 'texelArea'
  | 'worldArea'
  | 'weight'
  | 'useful'
>;

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
    plots.map((p) => sharpnessOf(scale === 'even' ? 'relative' : scale, p.weight, p.useful));
  if (scale !== 'even') return sheets.map(plain);
  const whole = (s: number) => hasWholeBays(kinds[s]);
  const raw = sheets.map((plots, s) =>
    (whole(s) ? [] : plots).map((p) =>
      p.kind !== 'swatch' ? Math.sqrt(p.worldArea / Math.max(p.texelArea, 1e-9)) * p.weight : 0,
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

/** A placed plot without what only the bake needs. */
export type PlacedShape = PackablePlot & {
  sheet: number;
  x: number;
  y: number;
  turns: Turns;
  direction?: readonly [number, number];
  /** See `PlacedPlot`. */
  flip?: number;
  scale: number;
  boxWidth: number;
  boxHeight: number;
  factor: number;
};

/** Side of a swatch on a sheet, px. */
export const swatchSide = (sheet: MergeDecisions['sheets'][number]): number =>
  sheet.kind === 'palette' ? sheet.swatch : SWATCH_SIDE;

export interface PackedPlots<P> {
  /** Common scale. */
  scale: number;
  attempts: number;
  /** Effort with which it is found again. */
  rounds: number;
  plots: (P & PlacedShape)[];
}

/**
 * Packs all sheets. At even density none becomes denser than the one with least room, so that all have the same px/m.
 * @throws Error with a sentence when the islands do not fit at any scale
 */
export function packSheets<P extends PackablePlot>(
  all: readonly P[][],
  d: PackingDecisions & Pick<MergeDecisions, 'sheets'>,
  hooks: LayoutHooks = {},
): PackedPlots<P>[] {
  const factors = scaleFactors(all, d.scale, d.sheets);
  const count = d.sheets.length;
  const packOne = (s: number, limit?: number) =>
    packSheet(
      all[s] ?? [],
      factors[s] ?? [],
      d.sheets[s],
      s,
      d,
      {
        cancelled: hooks.cancelled,
        progress: (share, doing) => hooks.progress?.((s + share) / count, doing),
        better: hooks.better,
      },
      limit,
    );
  const packed = d.sheets.map((_, s) => packOne(s));
  if (d.scale !== 'even') return packed;
  const shaped = packed.map((p, s) => !hasWholeBays(d.sheets[s]) && p.plots.some((x) => x.kind !== 'swatch'));
  const least = Math.min(...packed.flatMap((p, s) => (shaped[s] ? [p.scale] : [])));
  return packed.map((p, s) => (shaped[s] && p.scale > least * (1 + 1e-9) ? packOne(s, least) : p));
}

/**
 * Packs one sheet. The same function runs in the server and in the browser, with the same result.
 * @param limit greatest common scale
 * @throws Error with a sentence when the islands do not fit at any scale (too many for the margin)
 */
export function packSheet<P extends PackablePlot>(
  all: P[],
  factors: Sharpness[],
  sheet: MergeDecisions['sheets'][number],
  index: number,
  d: PackingDecisions,
  hooks: LayoutHooks = {},
  limit = Number.POSITIVE_INFINITY,
): PackedPlots<P> {
  if (sheet.kind === 'trim' || sheet.kind === 'tile') return placeWhole(all, factors, sheet, index, limit);
  const { margin, name } = sheet;
  const [width, height] = sheetSides(sheet);
  const flips = flippedPlots(all, sheet);
  const plots = all.map((p, i): P => {
    const flip = flips.get(i);
    return flip === undefined ? p : { ...p, shape: mirrored(p.shape, flip) };
  });
  const fixedSide = swatchSide(sheet);
  const { pins, lost } = heldPlots(plots, sheet, fixedSide);
  const rigid = rigidGroups(plots, sheet, new Set(pins.keys()));
  const ledBy = new Map(rigid.map((g) => [g.members[0], g]));
  const following = new Set(rigid.flatMap((g) => g.members.slice(1)));
  const free = plots.flatMap((_, i) => (pins.has(i) || following.has(i) ? [] : [i]));
  const held = heldScale(pins, factors, plots);
  /** Places of all free plots, those of rigid groups from the place of their group. */
  const places = (r: PackResult) => {
    const out = new Map<number, { place: Placement; scale: number }>();
    free.forEach((i, k) => {
      const [place, scale] = [r.placements[k], sizeAt(factors[i], r.scale)];
      const group = ledBy.get(i);
      if (!group) out.set(i, { place, scale });
      else
        group.places(place, scale).forEach((p, m) => {
          out.set(group.members[m], p);
        });
    });
    return out;
  };
  const laid = (r: PackResult): PackedPlots<P> => ({
    scale: held === null ? r.scale : free.length === 0 ? held : Math.min(held, r.scale),
    attempts: r.attempts,
    rounds: r.rounds,
    plots: free.length === 0 || r.placements.length > 0 ? placeAll(places(r)) : [],
  });
  const placeAll = (at: ReadonlyMap<number, { place: Placement; scale: number }>) =>
    all.map((p, i) => {
      const pin = pins.get(i);
      const own = at.get(i);
      const scale = pin?.scale ?? own?.scale ?? 1;
      const flip = flips.get(i);
      const place = placed(p, index, factors[i], scale, fixedSide, (pin ?? own?.place) as Placement);
      return flip === undefined ? place : { ...place, flip };
    });
  hooks.progress?.(0, `packing ${plots.length} islands`);
  const result = pack(
    free.map((i) => ({
      shape: ledBy.get(i)?.shape ?? plots[i].shape,
      ...factors[i],
      mayTurn: ledBy.get(i)?.mayTurn ?? plots[i].mayTurn,
      fixedSide: plots[i].kind === 'swatch' ? fixedSide : undefined,
      align: plots[i].kind === 'cell' ? mipAlign(margin) : undefined,
    })),
    {
      width,
      height,
      margin,
      reserves: [...sheet.reserves, ...lost],
      fixed: [...pins].map(([i, pin]) => ({
        ...pin,
        shape: plots[i].shape,
        side: plots[i].kind === 'swatch' ? fixedSide : undefined,
      })),
      rotate: d.rotate,
      // What is new is no sharper than what was there.
      maxScale: Math.min(limit, held ?? limit, scaleLimit(factors.filter((_, i) => plots[i].kind !== 'swatch'))),
      effort: d.effort,
      seed: d.seed,
      snap: d.snap,
      cancelled: hooks.cancelled,
      better: hooks.better && ((r) => hooks.better?.(index, laid(r))),
      progress: (share) => hooks.progress?.(share, `packing ${plots.length} islands`),
    },
  );
  if (plots.length > 0 && result.scale === 0 && !hooks.cancelled?.())
    throw new Error(
      `${plots.length} islands do not fit on the ${width} × ${height} px sheet "${name}" with a margin of ${margin} px: take a larger sheet, more sheets, a smaller margin or smaller reserves`,
    );
  return laid(result);
}

/** Plots that a hand has mirrored, by position: their widths, texels. */
function flippedPlots(plots: readonly PackablePlot[], sheet: Pick<SheetDecision, 'flipped'>): Map<number, number> {
  const keys = new Set(sheet.flipped);
  const out = new Map<number, number>();
  if (keys.size === 0) return out;
  plots.forEach((p, i) => {
    if (p.kind !== 'plot' || !p.keys.some((k) => keys.has(k))) return;
    let width = 0;
    for (let k = 0; k < p.shape.length; k += 2) width = Math.max(width, p.shape[k]);
    out.set(i, width);
  });
  return out;
}

/** A shape from right to left. */
function mirrored(shape: Float64Array, width: number): Float64Array {
  return shape.map((v, k) => (k % 2 === 0 ? width - v : v));
}

/** The least common scale at which what stays was laid out, or null when nothing with a shape does. */
function heldScale(
  pins: ReadonlyMap<number, PinnedBay>,
  factors: readonly Sharpness[],
  plots: readonly PackablePlot[],
): number | null {
  let least = Number.POSITIVE_INFINITY;
  for (const [i, pin] of pins)
    if (plots[i].kind !== 'swatch' && factors[i].factor > 0) least = Math.min(least, pin.scale / factors[i].factor);
  return Number.isFinite(least) ? least : null;
}

/** Strips and cells: their places follow from sizes alone. */
function placeWhole<P extends PackablePlot>(
  plots: P[],
  factors: Sharpness[],
  sheet: MergeDecisions['sheets'][number],
  index: number,
  limit: number,
): PackedPlots<P> {
  const { pins, lost } = heldPlots(plots, sheet, 1);
  const free = plots.flatMap((_, i) => (pins.has(i) ? [] : [i]));
  // What stays is as good as a reserve to what is new.
  const room = { ...sheet, reserves: [...sheet.reserves, ...[...pins.values(), ...lost].map(asReserve)] };
  const all = plots.map((p, i): WholeTexture => ({ width: p.shape[2], height: p.shape[5], ...factors[i] }));
  const list = free.map((i) => all[i]);
  const [width] = sheetSides(sheet);
  const base = (p: P, i: number) => ({ ...p, sheet: index, turns: 0 as Turns, factor: factors[i].factor });
  if (sheet.kind === 'trim') {
    const found = list.length > 0 ? layStrips(list, room, limit) : { common: 1, strips: [] };
    if (!found) throw new Error(doNotFit(plots.length, 'strips', sheet));
    const strips = new Map(free.map((i, k) => [i, found.strips[k]]));
    const heldScales = [...pins].map(([i, pin]) => pin.scale / factors[i].factor);
    return {
      scale: Math.min(found.common, ...heldScales),
      attempts: 1,
      rounds: 0,
      plots: plots.map((p, i) => {
        const { y, height, scale } = (pins.get(i) ?? strips.get(i)) as { y: number; height: number; scale: number };
        const shape = rectangle(width / scale, all[i].height);
        return { ...base(p, i), shape, x: 0, y, scale, boxWidth: width, boxHeight: height };
      }),
    };
  }
  const cells = layCells(list, room);
  if (!cells) throw new Error(doNotFit(plots.length, `cells of ${sheet.cell} px`, sheet));
  const at = new Map(free.map((i, k) => [i, cells[k]]));
  const places = plots.map((_, i) => (pins.get(i) ?? at.get(i)) as { x: number; y: number; scale: number });
  return {
    scale: Math.min(1, ...places.map((c) => c.scale)),
    attempts: 1,
    rounds: 0,
    plots: plots.map((p, i) => {
      const { x, y, scale } = places[i];
      const [boxWidth, boxHeight] = [all[i].width * scale, all[i].height * scale];
      return { ...base(p, i), x, y, scale, boxWidth, boxHeight };
    }),
  };
}

const asReserve = ({ x, y, width, height }: PinnedBay) => ({ id: 'pin', x, y, width, height, note: '' });

function doNotFit(count: number, what: string, sheet: MergeDecisions['sheets'][number]): string {
  const [width, height] = sheetSides(sheet);
  return `${count} ${what} do not fit on the ${width} × ${height} px sheet "${sheet.name}" with a margin of ${sheet.margin} px: take a larger sheet, more sheets, smaller cells, a smaller margin or smaller reserves`;
}

function placed<P extends PackablePlot>(
  p: P,
  sheet: number,
  sharpness: Sharpness,
  size: number,
  fixedSide: number,
  at: Placement,
): P & PlacedShape {
  const scale = p.kind === 'swatch' ? 1 : size;
  const [boxWidth, boxHeight] = p.kind === 'swatch' ? [fixedSide, fixedSide] : scaledBox(p.shape, scale);
  const { x, y, turns, direction } = at;
  const turned = direction ? { turns, direction } : { turns };
  return { ...p, sheet, x, y, ...turned, factor: sharpness.factor, scale, boxWidth, boxHeight };
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
  const packed = packSheets(all, decisions, hooks);
  return {
    sheets: decisions.sheets.map((sheet, s): SheetLayout => {
      const [width, height] = sheetSides(sheet);
      const without = SHEET_MAPS.filter((m) => sheet.maps[m] === 'off');
      return { name: sheet.name, width, height, without, margin: sheet.margin, ...packed[s] };
    }),
  };
}
