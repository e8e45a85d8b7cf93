import { type PinnedBay, pinnedBays, SHARPEST, type SheetDecision } from '@wembrel/core/decisions/sheets';
import { placedBox } from '@wembrel/core/layout/place';
import { QUARTERS } from '@wembrel/core/pack/directions';
import type { PackedSheet } from '../../contract/plots.ts';
import type { MergeDecisions } from '../../contract/project.ts';
import { type Box, boxAround, type Change, middleOf, type Point } from '../../stage/drag.ts';

export type HandPlot = PackedSheet['plots'][number];

/** Where a hand wants a bay: the middle of its box as turned, px; degrees clockwise; px per texel of its source. */
export interface HandPlace {
  x: number;
  y: number;
  turned: number;
  scale: number;
}

export const placeOf = (p: HandPlot): HandPlace => ({
  x: p.box[0] + p.box[2] / 2,
  y: p.box[1] + p.box[3] / 2,
  turned: p.turned,
  scale: p.scale,
});

/** Degrees in -180 < d <= 180. */
export function wrapDegrees(d: number): number {
  const r = ((d % 360) + 360) % 360;
  return r > 180 ? r - 360 : r;
}

/** A sheet that bays are kept on. */
interface HandSheet {
  width: number;
  height: number;
}

/**
 * The pin that holds a bay at a place, kept on the sheet.
 * @param mirror axis over which it comes to lie mirrored, see `mirrored`
 */
export function pinFor(p: HandPlot, at: HandPlace, sheet: HandSheet, mirror?: 'x' | 'y'): PinnedBay {
  const turned = wrapDegrees(at.turned);
  const quarter = turned % 90 === 0;
  const turns = (quarter ? (turned / 90 + 4) % 4 : 0) as PinnedBay['turns'];
  const direction = quarter ? undefined : cosSin(turned);
  const [boxWidth, boxHeight] = boxAt(p, at.scale);
  const [width, height] = placedBox({ boxWidth, boxHeight, turns, direction });
  // A box that is turned by no quarter may reach over the sides: what it shows may not.
  const shown = shownAt(p, at, mirror);
  return {
    key: p.key,
    x: at.x - width / 2 + backBy(shown.left, shown.right, sheet.width),
    y: at.y - height / 2 + backBy(shown.top, shown.bottom, sheet.height),
    width,
    height,
    turns,
    ...(direction ? { direction } : {}),
    scale: at.scale,
  };
}

/** By how much what reaches from low to high has to move so that it lies between 0 and a side, or begins at 0. */
const backBy = (low: number, high: number, side: number): number =>
  low < 0 || high - low > side ? -low : Math.min(0, side - high);

/** Box of a bay before it is turned: whole px around its shape. */
const boxAt = (p: HandPlot, scale: number): [number, number] =>
  p.natural ? (p.natural.map((v) => Math.max(1, Math.ceil(v * scale - 1e-6))) as [number, number]) : p.size;

/** The box around what a bay shows at another place. */
function shownAt(p: HandPlot, at: HandPlace, mirror?: 'x' | 'y'): Box {
  const [from, to] = [shapeMiddle(p, placeOf(p)), shapeMiddle(p, at)];
  const factor = p.natural ? at.scale / p.scale : 1;
  const degrees = mirror ? 0 : at.turned - p.turned;
  const [c, s] = cosSin(degrees);
  const out: Box = { left: Infinity, top: Infinity, right: -Infinity, bottom: -Infinity };
  const [left, top, w, h] = p.extent;
  const corners = [left, top, left + w, top, left + w, top + h, left, top + h];
  // Turned by quarters the box is that of the corners; else the border has to be asked.
  const border = degrees % 90 === 0 ? null : p.path.match(/-?[\d.]+/g)?.map(Number);
  const points = border ?? corners;
  for (let i = 0; i < points.length; i += 2) {
    const dx = factor * (points[i] - from[0]) * (mirror === 'x' ? -1 : 1);
    const dy = factor * (points[i + 1] - from[1]) * (mirror === 'y' ? -1 : 1);
    const [x, y] = [to[0] + c * dx - s * dy, to[1] + s * dx + c * dy];
    out.left = Math.min(out.left, x);
    out.right = Math.max(out.right, x);
    out.top = Math.min(out.top, y);
    out.bottom = Math.max(out.bottom, y);
  }
  return out;
}

/** The middle of what a bay takes at a place: its shape lies at the upper left of its box of whole px. */
export function shapeMiddle(p: HandPlot, at: HandPlace): Point {
  if (!p.natural) return [at.x, at.y];
  const box = boxAt(p, at.scale);
  const [dx, dy] = [0, 1].map((k) => ((p.natural as [number, number])[k] * at.scale - box[k]) / 2);
  const [c, s] = cosSin(at.turned);
  return [at.x + c * dx - s * dy, at.y + s * dx + c * dy];
}

/** The same place with the middle of what a bay takes at a point: boxes of whole px would move it by parts of one. */
function withMiddle(p: HandPlot, at: HandPlace, [x, y]: Point): HandPlace {
  const [mx, my] = shapeMiddle(p, at);
  return { ...at, x: at.x + x - mx, y: at.y + y - my };
}

/** Cosine and sine, exact for quarters. */
function cosSin(degrees: number): [number, number] {
  const quarters = (((degrees / 90) % 4) + 4) % 4;
  if (Number.isInteger(quarters)) return [...QUARTERS[quarters]];
  const radians = (degrees * Math.PI) / 180;
  return [Math.cos(radians), Math.sin(radians)];
}

/** Sets pins of a sheet, by key; those of other bays stay. */
export function withPins(decisions: MergeDecisions, sheet: string, pins: readonly PinnedBay[]): MergeDecisions {
  return changed(decisions, sheet, (sheet) => ({ pinned: { ...sheet.pinned, ...pinnedBays(pins) } }));
}

/** Lets bays go, so that packing may place them again. */
export function withoutPins(decisions: MergeDecisions, sheet: string, keys: ReadonlySet<string>): MergeDecisions {
  return changed(decisions, sheet, (sheet) => ({
    pinned: Object.fromEntries(Object.entries(sheet.pinned).filter(([key]) => !keys.has(key))),
  }));
}

/** Keeps bays at their places to each other, wherever packing puts them; each belongs to one such group. */
export function keptTogether(
  decisions: MergeDecisions,
  sheet: string,
  plots: readonly HandPlot[],
  on: HandSheet,
): MergeDecisions {
  const pins = plots.map((plot) => pinFor(plot, placeOf(plot), on));
  const free = apart(
    withoutPins(decisions, sheet, new Set(pins.map((pin) => pin.key))),
    sheet,
    new Set(pins.map((pin) => pin.key)),
  );
  return changed(free, sheet, (sheet) => ({ rigid: [...sheet.rigid, pins] }));
}

/** Takes bays out of the groups that keep them together; a group of one is none. */
export function apart(decisions: MergeDecisions, sheet: string, keys: ReadonlySet<string>): MergeDecisions {
  const rigid = (list: SheetDecision['rigid']) =>
    list.map((g) => g.filter((p) => !keys.has(p.key))).filter((g) => g.length > 1);
  return changed(decisions, sheet, (sheet) => ({ rigid: rigid(sheet.rigid) }));
}

/** Mirrors bays that are not mirrored, and the other way round. */
export function withFlips(decisions: MergeDecisions, sheet: string, plots: readonly HandPlot[]): MergeDecisions {
  const off = new Set(plots.flatMap((plot) => plot.flipped));
  const on = plots.flatMap((plot) => (plot.flipped.length === 0 ? [plot.key] : []));
  const change = (list: string[]) => [...list.filter((k) => !off.has(k)), ...on];
  return changed(decisions, sheet, (sheet) => ({ flipped: change(sheet.flipped) }));
}

/** A sheet that packing lays out otherwise from now on: what was found by continued search is forgotten. */
function changed(
  decisions: MergeDecisions,
  sheet: string,
  part: (s: SheetDecision) => Partial<SheetDecision>,
): MergeDecisions {
  return {
    ...decisions,
    sheets: decisions.sheets.map((s) => (s.id === sheet ? { ...s, search: null, ...part(s) } : s)),
  };
}

/** All moved alike. */
export const moved = (plots: readonly HandPlot[], dx: number, dy: number): HandPlace[] =>
  plots.map((plot) => ({ ...placeOf(plot), x: placeOf(plot).x + dx, y: placeOf(plot).y + dy }));

/** Turned as one about the middle of all; each bay that must not turn stays. */
export function turned(plots: readonly HandPlot[], degrees: number): HandPlace[] {
  const [mx, my] = middleOf(boxAround(plots));
  const [c, s] = cosSin(degrees);
  return plots.map((plot) => {
    const at = placeOf(plot);
    if (!plot.mayTurn || plot.natural === null) return at;
    const [dx, dy] = [at.x - mx, at.y - my];
    return { ...at, x: mx + c * dx - s * dy, y: my + s * dx + c * dy, turned: at.turned + degrees };
  });
}

/** Whether a bay can be mirrored over an upright (x) or a level (y) axis: a swatch shows nothing, and over a level axis is half a turn more. */
export const canFlip = (p: HandPlot, axis: 'x' | 'y'): boolean => p.natural !== null && (axis === 'x' || p.mayTurn);

/** Mirrored as one about the middle of all, from left to right (x) or from top to bottom (y); what they show is mirrored by `withFlips`. */
export function mirrored(plots: readonly HandPlot[], axis: 'x' | 'y'): HandPlace[] {
  const box = boxAround(plots);
  return plots.map((plot) => {
    const at = placeOf(plot);
    const [x, y] = shapeMiddle(plot, at);
    if (axis === 'x') return withMiddle(plot, { ...at, turned: -at.turned }, [box.left + box.right - x, y]);
    return withMiddle(plot, { ...at, turned: 180 - at.turned }, [x, box.top + box.bottom - y]);
  });
}

/**
 * Larger or smaller as one about a point, the middle of all if none is given, until one has the greatest scale that it may have; swatches keep
 * their size.
 */
export function scaled(plots: readonly HandPlot[], wanted: number, about?: Point): HandPlace[] {
  const [mx, my] = about ?? middleOf(boxAround(plots));
  const factor = Math.min(wanted, ...plots.map((plot) => (plot.natural ? SHARPEST / plot.scale : wanted)));
  return plots.map((plot) => {
    const at = placeOf(plot);
    const [x, y] = shapeMiddle(plot, at);
    const to: Point = [mx + (x - mx) * factor, my + (y - my) * factor];
    return withMiddle(plot, { ...at, scale: plot.natural ? at.scale * factor : at.scale }, to);
  });
}

/**
 * Where a drag is caught: edges of the box around all come to lie in line with those of other bays, a margin beside them, or half a margin
 * from the border; the nearest within reach, along each axis by itself.
 */
export function caught(
  plots: readonly HandPlot[],
  others: readonly HandPlot[],
  [dx, dy]: readonly [number, number],
  reach: number,
  sheet: { width: number; height: number; margin: number },
): [number, number] {
  const box = boxAround(plots);
  const along = (low: number, high: number, by: number, at: 0 | 1, side: number): number => {
    const half = sheet.margin / 2;
    let best = by;
    let least = reach;
    const offer = (edge: number, line: number) => {
      const off = Math.abs(edge + by - line);
      if (off >= least) return;
      least = off;
      best = line - edge;
    };
    offer(low, half);
    offer(high, side - half);
    for (const other of others) {
      const [from, to] = [other.extent[at], other.extent[at] + other.extent[at + 2]];
      offer(low, from);
      offer(high, to);
      offer(low, to + sheet.margin);
      offer(high, from - sheet.margin);
    }
    return best;
  };
  return [along(box.left, box.right, dx, 0, sheet.width), along(box.top, box.bottom, dy, 1, sheet.height)];
}

export type Edge = 'left' | 'right' | 'top' | 'bottom' | 'middle' | 'centre';

/** Along one edge of the box around all; `middle` and `centre` on its level and its upright axis. */
export function aligned(plots: readonly HandPlot[], edge: Edge): HandPlace[] {
  const box = boxAround(plots);
  return plots.map((plot) => {
    const at = placeOf(plot);
    const [x, y, w, h] = plot.extent;
    switch (edge) {
      case 'left':
        return { ...at, x: at.x + box.left - x };
      case 'right':
        return { ...at, x: at.x + box.right - (x + w) };
      case 'top':
        return { ...at, y: at.y + box.top - y };
      case 'bottom':
        return { ...at, y: at.y + box.bottom - (y + h) };
      case 'middle':
        return { ...at, y: at.y + (box.top + box.bottom) / 2 - (y + h / 2) };
      default:
        return { ...at, x: at.x + (box.left + box.right) / 2 - (x + w / 2) };
    }
  });
}

/** With equal gaps from the first to the last along an axis. */
export function distributed(plots: readonly HandPlot[], axis: 'x' | 'y'): HandPlace[] {
  const [at, size] = axis === 'x' ? [0, 2] : [1, 3];
  const order = plots.map((_, i) => i).sort((i, j) => plots[i].extent[at] - plots[j].extent[at] || i - j);
  const first = plots[order[0]].extent;
  const last = plots[order[order.length - 1]].extent;
  const room = last[at] + last[size] - first[at];
  const gap = (room - plots.reduce((sum, plot) => sum + plot.extent[size], 0)) / Math.max(1, plots.length - 1);
  const out = plots.map(placeOf);
  let from = first[at];
  for (const i of order) {
    out[i][axis] += from - plots[i].extent[at];
    from += plots[i].extent[size] + gap;
  }
  return out;
}

/** Upper left of what each shows on the next multiple of some px. */
export const snapped = (plots: readonly HandPlot[], grid: number): HandPlace[] =>
  plots.map((plot) => {
    const at = placeOf(plot);
    const off = (v: number) => Math.round(v / grid) * grid - v;
    return { ...at, x: at.x + off(plot.extent[0]), y: at.y + off(plot.extent[1]) };
  });

/** Where bays are after they were dragged. */
export function changedPlaces(plots: readonly HandPlot[], change: Change): HandPlace[] {
  if (change.kind === 'move') return moved(plots, change.dx, change.dy);
  return change.kind === 'turn' ? turned(plots, change.degrees) : scaled(plots, change.factor, change.about);
}
