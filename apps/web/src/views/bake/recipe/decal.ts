import type { Lay } from '@wembrel/core/decisions/recipe/look';
import { pictureFrame } from '@wembrel/core/recipes/projection/places';
import type { Frame } from '../../../stage/rings.ts';

export type Decal = Extract<Lay, { by: 'side' }>;
type Vec = readonly number[];

const unit = (v: Vec): number[] => {
  const l = Math.hypot(...v) || 1;
  return v.map((c) => c / l);
};

/** Ways to the right and up of a decal, as who looks at it sees them. */
function axesOf({ direction, up, turn }: Decal): { right: readonly number[]; above: readonly number[] } {
  const { right, up: above } = pictureFrame(direction, up, turn);
  return { right, above };
}

/** The box that a decal covers, as lines. */
export function decalFrame(decal: Decal, colour: string): Frame {
  const { right, above } = axesOf(decal);
  const d = unit(decal.direction);
  const corner = (i: number, j: number, k: number) =>
    decal.at.map((v, c) => v + (i * right[c] * decal.width + j * above[c] * decal.height) / 2 + k * d[c] * decal.depth);
  const ends: number[] = [];
  const edge = (a: number[], b: number[]) => ends.push(...a, ...b);
  for (const k of [-1, 1]) {
    edge(corner(-1, -1, k), corner(1, -1, k));
    edge(corner(1, -1, k), corner(1, 1, k));
    edge(corner(1, 1, k), corner(-1, 1, k));
    edge(corner(-1, 1, k), corner(-1, -1, k));
  }
  for (const i of [-1, 1]) for (const j of [-1, 1]) edge(corner(i, j, -1), corner(i, j, 1));
  // Which way its upper edge lies.
  edge(corner(0, 1, 1), corner(0, 1.25, 1));
  return { ends, colour };
}

const tidy = (v: number, digits = 5): number => Number(v.toFixed(digits));
const tidyVector = (v: Vec) => v.map((c) => tidy(c)) as [number, number, number];

/** Laid at another place of the surface. */
export const movedDecal = (decal: Decal, point: Vec, normal: Vec): Decal => ({
  ...decal,
  at: tidyVector(point),
  direction: tidyVector(unit(normal)),
});

/** As large as a point is away from its middle, in its own proportions. */
export function scaledDecal(decal: Decal, point: Vec): Decal {
  const { right, above } = axesOf(decal);
  const off = point.map((v, k) => v - decal.at[k]);
  const along = (axis: Vec) => Math.abs(off.reduce((sum, v, k) => sum + v * axis[k], 0));
  const times = Math.max((2 * along(right)) / decal.width, (2 * along(above)) / decal.height, 0.02);
  return { ...decal, width: tidy(decal.width * times, 4), height: tidy(decal.height * times, 4) };
}

/** Turned so that its upper edge lies towards a point. */
export function turnedDecal(decal: Decal, point: Vec): Decal {
  const { right, above } = axesOf({ ...decal, turn: 0 });
  const off = point.map((v, k) => v - decal.at[k]);
  const along = (axis: Vec) => off.reduce((sum, v, k) => sum + v * axis[k], 0);
  const degrees = (Math.atan2(-along(right), along(above)) * 180) / Math.PI;
  return { ...decal, turn: Math.round(degrees) || 0 };
}
