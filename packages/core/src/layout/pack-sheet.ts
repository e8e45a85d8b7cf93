import type { Read } from '../decisions/reads.ts';
import { mipAlign, type PinnedBay, type SheetDecision, SWATCH_SIDE, sheetSides } from '../decisions/sheets.ts';
import { covered } from '../pack/covered.ts';
import { isCrowded } from '../pack/crowded.ts';
import type { PackItem, PackOptions, PackResult, Placement } from '../pack/items.ts';
import { LATTICE } from '../pack/lattice.ts';
import { pack } from '../pack/pack.ts';
import { scaledBox, type Turns } from '../pack/rasterise.ts';
import { roundsFor } from '../pack/rounds.ts';
import { packInRows } from '../pack/rows.ts';
import type { PackablePlot, PackedPlots, PlacedShape } from './packable.ts';
import { heldPlots } from './pins.ts';
import { rectangle } from './plots.ts';
import { rigidGroups } from './rigid.ts';
import { type Sharpness, scaleLimit, sizeAt } from './sharpness.ts';
import { cellPadding, hasWholeBays, layCells, layStrips, type WholeTexture } from './whole-bays.ts';

/** What the packing of a sheet depends on besides the sheet itself and its plots. */
export type PackingDecisions = Omit<Read<'packing'>, 'sheets'>;

export interface LayoutHooks {
  cancelled?: () => boolean;
  progress?: (share: number, doing: string) => void;
  /** Called at once with islands in rows, before any is packed; not where some are held or room is reserved. */
  inRows?: (sheet: number, packed: PackedPlots<PackablePlot>) => void;
  /** Called with every better layout of a sheet while it is packed. */
  better?: (sheet: number, packed: PackedPlots<PackablePlot>) => void;
}

/** Side of a swatch on a sheet, px. */
const swatchSide = (sheet: SheetDecision): number => (sheet.kind === 'palette' ? sheet.swatch : SWATCH_SIDE);

/** What the packer is asked for one sheet, and how its answer is read. */
export interface SheetPacking<P> {
  items: PackItem[];
  options: PackOptions;
  laid: (packResult: PackResult) => PackedPlots<P>;
}

/**
 * What the packer is asked for a sheet whose bays are islands. How it was looked for goes before the plan's effort and seed.
 * @param limit greatest common scale @throws Error on a sheet of whole textures, which needs no packer
 */
export function packingOf<P extends PackablePlot>(
  all: P[],
  factors: Sharpness[],
  sheet: SheetDecision,
  index: number,
  decisions: PackingDecisions,
  limit = Number.POSITIVE_INFINITY,
): SheetPacking<P> {
  if (hasWholeBays(sheet)) throw new Error(`the sheet "${sheet.name}" holds whole textures`);
  const [width, height] = sheetSides(sheet);
  const flips = flippedPlots(all, sheet);
  const plots = all.map((p, i): P => {
    const flip = flips.get(i);
    return flip === undefined ? p : { ...p, shape: mirrored(p.shape, flip) };
  });
  const fixedSide = swatchSide(sheet);
  const { pins, lost } = heldPlots(plots, sheet, fixedSide);
  const rigid = rigidGroups(plots, sheet, new Set(pins.keys()));
  const ledBy = new Map(rigid.map((rigidGroup) => [rigidGroup.members[0], rigidGroup]));
  const following = new Set(rigid.flatMap((rigidGroup) => rigidGroup.members.slice(1)));
  const free = plots.flatMap((_, i) => (pins.has(i) || following.has(i) ? [] : [i]));
  const held = heldScale(pins, factors, plots);
  /** Places of all free plots, those of rigid groups from the place of their group. */
  const places = (result: PackResult) => {
    const out = new Map<number, { place: Placement; scale: number }>();
    free.forEach((i, k) => {
      const [place, scale] = [result.placements[k], sizeAt(factors[i], result.scale)];
      const group = ledBy.get(i);
      if (!group) out.set(i, { place, scale });
      else
        group.places(place, scale).forEach((p, m) => {
          out.set(group.members[m], p);
        });
    });
    return out;
  };
  const placeAll = (at: ReadonlyMap<number, { place: Placement; scale: number }>) =>
    all.map((p, i) => {
      const pin = pins.get(i);
      const own = at.get(i);
      const scale = pin?.scale ?? own?.scale ?? 1;
      const flip = flips.get(i);
      const place = placed(p, index, factors[i], scale, fixedSide, (pin ?? own?.place) as Placement);
      return flip === undefined ? place : { ...place, flip };
    });
  const exact = all.some((plot) => plot.exact);
  const { rounds, seed } = sheet.search ?? { rounds: roundsFor(decisions.effort, free.length), seed: decisions.seed };
  return {
    items: free.map((i) => ({
      shape: ledBy.get(i)?.shape ?? plots[i].shape,
      ...factors[i],
      mayTurn: ledBy.get(i)?.mayTurn ?? plots[i].mayTurn,
      fixedSide: plots[i].kind === 'swatch' ? fixedSide : undefined,
      align: plots[i].kind === 'cell' ? mipAlign(sheet.margin) : undefined,
      lattice: ledBy.has(i) || flips.has(i) ? undefined : latticeOf(plots[i]),
    })),
    options: {
      width,
      height,
      margin: sheet.margin,
      reserves: [...sheet.reserves, ...lost],
      fixed: [...pins].map(([i, pin]) => ({
        ...pin,
        shape: plots[i].shape,
        side: plots[i].kind === 'swatch' ? fixedSide : undefined,
      })),
      rotate: exact && decisions.rotate === 'free' ? 'quarter' : decisions.rotate,
      // What is new is no sharper than what was there.
      maxScale: Math.min(limit, held ?? limit, scaleLimit(factors.filter((_, i) => plots[i].kind !== 'swatch'))),
      effort: rounds,
      seed,
      snap: decisions.snap || exact,
    },
    laid: (result) => ({
      scale: held === null ? result.scale : free.length === 0 ? held : Math.min(held, result.scale),
      attempts: result.attempts,
      rounds: result.rounds,
      plots: free.length === 0 || result.placements.length > 0 ? placeAll(places(result)) : [],
    }),
  };
}

/** Where a plot's upper left lies within the blocks of its source; undefined for what is no copy of texels. */
function latticeOf({ kind, originX, originY }: PackablePlot): [number, number] | undefined {
  const within = (v: number) => ((v % LATTICE) + LATTICE) % LATTICE;
  return kind === 'plot' ? [within(originX), within(originY)] : undefined;
}

export interface SheetToPack {
  factors: Sharpness[];
  sheet: SheetDecision;
  index: number;
  decisions: PackingDecisions;
  hooks?: LayoutHooks;
  limit?: number;
}

/** Whether the islands of a sheet certainly have no room at the greatest scale; false where only packing can tell, and for sheets of whole textures. */
export function isSheetCrowded<P extends PackablePlot>(
  plots: P[],
  factors: Sharpness[],
  { sheet, index, decisions }: { sheet: SheetDecision; index: number; decisions: PackingDecisions },
): boolean {
  if (hasWholeBays(sheet)) return false;
  const { items, options } = packingOf(plots, factors, sheet, index, decisions, scaleLimit(factors));
  return isCrowded(
    items,
    items.map(({ shape }) => covered(shape)),
    options,
  );
}

/**
 * Packs one sheet. The same function runs in the server and in the browser, with the same result.
 * @param limit greatest common scale
 * @throws Error with a sentence when the islands do not fit at any scale (too many for the margin)
 */
export function packSheet<P extends PackablePlot>(
  all: P[],
  { factors, sheet, index, decisions, hooks = {}, limit = Number.POSITIVE_INFINITY }: SheetToPack,
): PackedPlots<P> {
  if (hasWholeBays(sheet)) return placeWhole(all, factors, sheet, index, limit);
  const { items, options, laid } = packingOf(all, factors, sheet, index, decisions, limit);
  const doing = `packing ${all.length} islands`;
  hooks.progress?.(0, doing);
  const inRows = hooks.inRows && packInRows(items, options);
  if (inRows) hooks.inRows?.(index, laid(inRows));
  const result = pack(items, {
    ...options,
    cancelled: hooks.cancelled,
    better: hooks.better && ((result) => hooks.better?.(index, laid(result))),
    progress: (share) => hooks.progress?.(share, doing),
  });
  if (all.length > 0 && result.scale === 0 && !hooks.cancelled?.())
    throw new Error(doNotFit(all.length, 'islands', sheet, 'a smaller margin or smaller reserves'));
  return laid(result);
}

/** Plots that a hand has mirrored, by position: their widths, texels. */
function flippedPlots(plots: readonly PackablePlot[], sheet: Pick<SheetDecision, 'flipped'>): Map<number, number> {
  const keys = new Set(sheet.flipped);
  const out = new Map<number, number>();
  if (keys.size === 0) return out;
  plots.forEach((plot, i) => {
    if (plot.kind !== 'plot' || !plot.keys.some((k) => keys.has(k))) return;
    let width = 0;
    for (let k = 0; k < plot.shape.length; k += 2) width = Math.max(width, plot.shape[k]);
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
  sheet: SheetDecision,
  index: number,
  limit: number,
): PackedPlots<P> {
  const { pins, lost } = heldPlots(plots, sheet, 1);
  const free = plots.flatMap((_, i) => (pins.has(i) ? [] : [i]));
  // What stays is as good as a reserve to what is new.
  const room = { ...sheet, reserves: [...sheet.reserves, ...[...pins.values(), ...lost].map(asReserve)] };
  const all = plots.map((plot, i): WholeTexture => ({ width: plot.shape[2], height: plot.shape[5], ...factors[i] }));
  const list = free.map((i) => all[i]);
  const [width] = sheetSides(sheet);
  const base = (p: P, i: number) => ({ ...p, sheet: index, turns: 0 as Turns, factor: factors[i].factor });
  if (sheet.kind === 'trim') {
    const found = list.length > 0 ? layStrips(list, room, limit) : { common: 1, strips: [] };
    if (!found) throw new Error(doNotFit(plots.length, 'strips', sheet, SMALLER));
    const strips = new Map(free.map((i, k) => [i, found.strips[k]]));
    const heldScales = [...pins].map(([i, pin]) => pin.scale / factors[i].factor);
    return {
      scale: Math.min(found.common, ...heldScales),
      attempts: 1,
      rounds: 0,
      plots: plots.map((plot, i) => {
        const { y, height, scale } = (pins.get(i) ?? strips.get(i)) as { y: number; height: number; scale: number };
        const shape = rectangle(width / scale, all[i].height);
        return { ...base(plot, i), shape, x: 0, y, scale, boxWidth: width, boxHeight: height };
      }),
    };
  }
  const cells = layCells(list, room);
  if (!cells)
    throw new Error(doNotFit(plots.length, `cells of ${sheet.cell} px + 2 × ${cellPadding(sheet)} px`, sheet, SMALLER));
  const at = new Map(free.map((i, k) => [i, cells[k]]));
  const places = plots.map((_, i) => (pins.get(i) ?? at.get(i)) as { x: number; y: number; scale: number });
  return {
    scale: Math.min(1, ...places.map((place) => place.scale)),
    attempts: 1,
    rounds: 0,
    plots: plots.map((plot, i) => {
      const { x, y, scale } = places[i];
      const [boxWidth, boxHeight] = [all[i].width * scale, all[i].height * scale];
      return { ...base(plot, i), x, y, scale, boxWidth, boxHeight };
    }),
  };
}

const asReserve = ({ x, y, width, height }: PinnedBay) => ({ id: 'pin', x, y, width, height, note: '' });

const SMALLER = 'smaller cells, a smaller margin or smaller reserves';

/** @param or what else would help, besides larger and more sheets */
function doNotFit(count: number, what: string, sheet: SheetDecision, or: string): string {
  const [width, height] = sheetSides(sheet);
  return `${count} ${what} do not fit on the ${width} × ${height} px sheet "${sheet.name}" with a margin of ${sheet.margin} px: take a larger sheet, more sheets, ${or}`;
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
