import type { PinnedBay, SheetDecision } from '../decisions/sheets.ts';
import type { Placement } from '../pack/pack.ts';
import { scaledBox, type Turns } from '../pack/rasterise.ts';
import type { PackablePlot } from './packable.ts';
import { placedBox } from './place.ts';

/** A turn, a scale and a move: (x, y) → scale · R(c, s) · (x, y) + (tx, ty). */
interface Move {
  c: number;
  s: number;
  scale: number;
  tx: number;
  ty: number;
}

const QUARTERS = [
  [1, 0],
  [0, 1],
  [-1, 0],
  [0, -1],
] as const;

/** What a placement does to points of a shape. */
function moveOf(shape: Float64Array, scale: number, p: Placement): Move {
  const [w, h] = scaledBox(shape, scale);
  if (p.direction) {
    const [c, s] = p.direction;
    const [pw, ph] = placedBox({ boxWidth: w, boxHeight: h, turns: 0, direction: p.direction });
    return { c, s, scale, tx: p.x + pw / 2 - (c * w - s * h) / 2, ty: p.y + ph / 2 - (s * w + c * h) / 2 };
  }
  const [c, s] = QUARTERS[p.turns];
  return {
    c,
    s,
    scale,
    tx: p.x + (p.turns === 1 ? h : p.turns === 2 ? w : 0),
    ty: p.y + (p.turns === 2 ? h : p.turns === 3 ? w : 0),
  };
}

/** The placement that does to a shape what a move says. */
function placementOf(shape: Float64Array, m: Move): Placement {
  const [w, h] = scaledBox(shape, m.scale);
  const quarter = QUARTERS.findIndex(([c, s]) => Math.abs(c - m.c) < 1e-9 && Math.abs(s - m.s) < 1e-9);
  if (quarter < 0) {
    const direction = [m.c, m.s] as const;
    const [pw, ph] = placedBox({ boxWidth: w, boxHeight: h, turns: 0, direction });
    return {
      x: m.tx - pw / 2 + (m.c * w - m.s * h) / 2,
      y: m.ty - ph / 2 + (m.s * w + m.c * h) / 2,
      turns: 0,
      direction,
    };
  }
  const turns = quarter as Turns;
  return {
    x: m.tx - (turns === 1 ? h : turns === 2 ? w : 0),
    y: m.ty - (turns === 2 ? h : turns === 3 ? w : 0),
    turns,
  };
}

/** The second after the first. */
const after = (a: Move, b: Move): Move => ({
  c: b.c * a.c - b.s * a.s,
  s: b.s * a.c + b.c * a.s,
  scale: a.scale * b.scale,
  tx: b.scale * (b.c * a.tx - b.s * a.ty) + b.tx,
  ty: b.scale * (b.s * a.tx + b.c * a.ty) + b.ty,
});

/** Plots that keep their places to each other: for the packer one shape. */
export interface RigidGroup {
  /** Positions among the plots; the first sets the scale. */
  members: number[];
  /** Triangles of all, in texels of the first one's source. */
  shape: Float64Array;
  mayTurn: boolean;
  /** What each member's place is, for a place of the whole at a scale (px per texel of the first one's source). */
  places(at: Placement, scale: number): { place: Placement; scale: number }[];
}

/**
 * Rigid groups of a sheet that have two members at least among the plots.
 * @param held plots that stay where they are, and so belong to no group
 */
export function rigidGroups(
  plots: readonly PackablePlot[],
  sheet: Pick<SheetDecision, 'rigid'>,
  held: ReadonlySet<number>,
): RigidGroup[] {
  const taken = new Set(held);
  return sheet.rigid.flatMap((pins): RigidGroup[] => {
    const members: number[] = [];
    const found: PinnedBay[] = [];
    for (const pin of pins) {
      const i = plots.findIndex((p, k) => !taken.has(k) && p.kind === 'plot' && p.keys.includes(pin.key));
      if (i < 0) continue;
      taken.add(i);
      members.push(i);
      found.push(pin);
    }
    return members.length < 2 ? [] : [groupOf(plots, members, found)];
  });
}

function groupOf(plots: readonly PackablePlot[], members: number[], pins: readonly PinnedBay[]): RigidGroup {
  const unit = 1 / pins[0].scale;
  const asLaid = members.map((m, i) => moveOf(plots[m].shape, pins[i].scale, pins[i]));
  const points = members.map((m, i) => {
    const { shape } = plots[m];
    const { c, s, scale, tx, ty } = asLaid[i];
    const out = new Float64Array(shape.length);
    for (let k = 0; k < shape.length; k += 2) {
      out[k] = (scale * (c * shape[k] - s * shape[k + 1]) + tx) * unit;
      out[k + 1] = (scale * (s * shape[k] + c * shape[k + 1]) + ty) * unit;
    }
    return out;
  });
  let [left, top] = [Infinity, Infinity];
  for (const list of points)
    for (let k = 0; k < list.length; k += 2) {
      left = Math.min(left, list[k]);
      top = Math.min(top, list[k + 1]);
    }
  const shape = new Float64Array(points.reduce((n, p) => n + p.length, 0));
  let at = 0;
  for (const list of points) for (let k = 0; k < list.length; k++) shape[at++] = list[k] - (k % 2 === 0 ? left : top);
  // From px as they were laid to the group's own texels.
  const inside: Move = { c: 1, s: 0, scale: unit, tx: -left, ty: -top };
  return {
    members,
    shape,
    mayTurn: members.every((m) => plots[m].mayTurn),
    places: (place, scale) => {
      const whole = moveOf(shape, scale, place);
      return members.map((m, i) => {
        const move = after(after(asLaid[i], inside), whole);
        return { place: placementOf(plots[m].shape, move), scale: move.scale };
      });
    },
  };
}
