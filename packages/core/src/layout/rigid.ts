import type { PinnedBay, SheetDecision } from '../decisions/sheets.ts';
import type { Placement } from '../pack/items.ts';
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
function moveOf(shape: Float64Array, scale: number, placement: Placement): Move {
  const [w, h] = scaledBox(shape, scale);
  if (placement.direction) {
    const [c, s] = placement.direction;
    const [pw, ph] = placedBox({ boxWidth: w, boxHeight: h, turns: 0, direction: placement.direction });
    return {
      c,
      s,
      scale,
      tx: placement.x + pw / 2 - (c * w - s * h) / 2,
      ty: placement.y + ph / 2 - (s * w + c * h) / 2,
    };
  }
  const [c, s] = QUARTERS[placement.turns];
  return {
    c,
    s,
    scale,
    tx: placement.x + (placement.turns === 1 ? h : placement.turns === 2 ? w : 0),
    ty: placement.y + (placement.turns === 2 ? h : placement.turns === 3 ? w : 0),
  };
}

/** The placement that does to a shape what a move says. */
function placementOf(shape: Float64Array, move: Move): Placement {
  const [w, h] = scaledBox(shape, move.scale);
  const quarter = QUARTERS.findIndex(([c, s]) => Math.abs(c - move.c) < 1e-9 && Math.abs(s - move.s) < 1e-9);
  if (quarter < 0) {
    const direction = [move.c, move.s] as const;
    const [pw, ph] = placedBox({ boxWidth: w, boxHeight: h, turns: 0, direction });
    return {
      x: move.tx - pw / 2 + (move.c * w - move.s * h) / 2,
      y: move.ty - ph / 2 + (move.s * w + move.c * h) / 2,
      turns: 0,
      direction,
    };
  }
  const turns = quarter as Turns;
  return {
    x: move.tx - (turns === 1 ? h : turns === 2 ? w : 0),
    y: move.ty - (turns === 2 ? h : turns === 3 ? w : 0),
    turns,
  };
}

/** The second after the first. */
const after = (move: Move, b: Move): Move => ({
  c: b.c * move.c - b.s * move.s,
  s: b.s * move.c + b.c * move.s,
  scale: move.scale * b.scale,
  tx: b.scale * (b.c * move.tx - b.s * move.ty) + b.tx,
  ty: b.scale * (b.s * move.tx + b.c * move.ty) + b.ty,
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
      const i = plots.findIndex((plot, k) => !taken.has(k) && plot.kind === 'plot' && plot.keys.includes(pin.key));
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
  const asLaid = members.map((member, i) => moveOf(plots[member].shape, pins[i].scale, pins[i]));
  const points = members.map((member, i) => {
    const { shape } = plots[member];
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
  const shape = new Float64Array(points.reduce((sum, point) => sum + point.length, 0));
  let at = 0;
  for (const list of points) for (let k = 0; k < list.length; k++) shape[at++] = list[k] - (k % 2 === 0 ? left : top);
  // From px as they were laid to the group's own texels.
  const inside: Move = { c: 1, s: 0, scale: unit, tx: -left, ty: -top };
  return {
    members,
    shape,
    mayTurn: members.every((member) => plots[member].mayTurn),
    places: (place, scale) => {
      const whole = moveOf(shape, scale, place);
      return members.map((member, i) => {
        const move = after(after(asLaid[i], inside), whole);
        return { place: placementOf(plots[member].shape, move), scale: move.scale };
      });
    },
  };
}
