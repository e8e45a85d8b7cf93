import type { PinnedBay, SheetDecision } from '../decisions/sheets.ts';
import type { Placement } from '../pack/items.ts';
import { mapAfter, mapInBox, mapPoints, movedMap, type PlacedMap, turnedBy } from '../pack/placed-map.ts';
import { scaledBox } from '../pack/rasterise.ts';
import type { PackablePlot } from './packable.ts';

/** The map of a shape that lies at a placement. */
function mapOf(shape: Float64Array, scale: number, placement: Placement): PlacedMap {
  return movedMap(mapInBox(scaledBox(shape, scale), placement, scale), placement.x, placement.y);
}

/** The placement that does to a shape what a map says. */
function placementOf(shape: Float64Array, map: PlacedMap): Placement {
  const turned = turnedBy(map.c, map.s);
  const inBox = mapInBox(scaledBox(shape, map.scale), turned, map.scale);
  return { x: map.x0 - inBox.x0, y: map.y0 - inBox.y0, ...turned };
}

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
  const asLaid = members.map((member, i) => mapOf(plots[member].shape, pins[i].scale, pins[i]));
  const toUnit: PlacedMap = { c: 1, s: 0, scale: unit, x0: 0, y0: 0 };
  const points = members.map((member, i) => mapPoints(toUnit, mapPoints(asLaid[i], plots[member].shape)));
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
  const inside = movedMap(toUnit, -left, -top);
  return {
    members,
    shape,
    mayTurn: members.every((member) => plots[member].mayTurn),
    places: (place, scale) => {
      const whole = mapOf(shape, scale, place);
      return members.map((member, i) => {
        const map = mapAfter(mapAfter(asLaid[i], inside), whole);
        return { place: placementOf(plots[member].shape, map), scale: map.scale };
      });
    },
  };
}
