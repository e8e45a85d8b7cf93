import type { Frame } from '@wembrel/core/layout/place';
import { extentOf, type SheetBay } from './bay.ts';

export type Point = readonly [x: number, y: number];

/** Box around bays, px. */
export interface Box {
  left: number;
  top: number;
  right: number;
  bottom: number;
}

/** What a hand does to the bays that are selected, all alike. */
export type Change =
  | { kind: 'move'; dx: number; dy: number }
  /** About a point that stays. */
  | { kind: 'scale'; factor: number; about: Point }
  /** Clockwise, about the middle of all. */
  | { kind: 'turn'; degrees: number; about: Point };

/** Around what bays show. */
export function boxAround(bays: readonly Pick<SheetBay, 'box' | 'extent'>[]): Box {
  const around: Box = { left: Infinity, top: Infinity, right: -Infinity, bottom: -Infinity };
  for (const bay of bays) {
    const [x, y, w, h] = extentOf(bay);
    around.left = Math.min(around.left, x);
    around.top = Math.min(around.top, y);
    around.right = Math.max(around.right, x + w);
    around.bottom = Math.max(around.bottom, y + h);
  }
  return around;
}

/** Corners from the upper left on, clockwise. */
export const cornersOf = ({ left, top, right, bottom }: Box): Point[] => [
  [left, top],
  [right, top],
  [right, bottom],
  [left, bottom],
];

export const middleOf = ({ left, top, right, bottom }: Box): Point => [(left + right) / 2, (top + bottom) / 2];

/** Least size by dragging, as a share of what it was. */
const LEAST = 0.05;

/** A corner is dragged to a point: the opposite one stays, and the diagonal takes up as much of the way as it can. */
export function scaleTo(box: Box, corner: number, from: Point, to: Point): Change {
  const corners = cornersOf(box);
  const about = corners[(corner + 2) % 4];
  const [cx, cy] = [corners[corner][0] - about[0], corners[corner][1] - about[1]];
  const along = (to[0] - from[0]) * cx + (to[1] - from[1]) * cy;
  return { kind: 'scale', factor: Math.max(LEAST, 1 + along / (cx * cx + cy * cy)), about };
}

/** Directions that turns are caught by, degrees, and from how near. */
const STEP = 15;
const NEAR = 2.5;

/** What lay in one direction from the middle is dragged into another; near to a twelfth of half a turn it is caught there, unless it is free. */
export function turnTo(box: Box, from: Point, to: Point, free: boolean): Change {
  const about = middleOf(box);
  const angle = ([x, y]: Point) => (Math.atan2(y - about[1], x - about[0]) * 180) / Math.PI;
  const by = angle(to) - angle(from);
  const degrees = by > 180 ? by - 360 : by <= -180 ? by + 360 : by;
  const step = Math.round(degrees / STEP) * STEP;
  return { kind: 'turn', degrees: !free && Math.abs(degrees - step) < NEAR ? step : degrees, about };
}

/** The same as a map of px. */
export function frameOf(change: Change): Frame {
  if (change.kind === 'move') return [1, 0, 0, 1, change.dx, change.dy];
  const [x, y] = change.about;
  if (change.kind === 'scale')
    return [change.factor, 0, 0, change.factor, x - change.factor * x, y - change.factor * y];
  const r = (change.degrees * Math.PI) / 180;
  const [cos, sin] = [Math.cos(r), Math.sin(r)];
  return [cos, sin, -sin, cos, x - cos * x + sin * y, y - sin * x - cos * y];
}

/** In words, while it is dragged. */
export function changeText(change: Change): string {
  const signed = (v: number, digits: number) => `${v < 0 ? '−' : '+'}${Math.abs(v).toFixed(digits)}`;
  if (change.kind === 'move') return `${signed(change.dx, 1)}, ${signed(change.dy, 1)} px`;
  return change.kind === 'scale' ? `× ${change.factor.toFixed(3)}` : `${signed(change.degrees, 1)}°`;
}
