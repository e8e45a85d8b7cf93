import { insideOutline, outlineBox, type Point } from '../math/outline.ts';
import type { FaceSet } from './faces.ts';

/** Triangles of a part as a camera shows them. */
export interface ProjectedPart {
  /** Of each vertex x and y in px, y down, and its depth, 0 near … 1 far; NaN for what lies behind the camera. */
  points: Float32Array;
  /** Three vertices a triangle. */
  indices: Uint32Array;
  /** Face of each triangle. */
  faces: Uint32Array;
  /** Triangles that turn away are neither drawn nor in the way: those that run anticlockwise in the picture (y down) show their front, 1, or clockwise, −1; 0: both sides are drawn. */
  front: -1 | 0 | 1;
}

export interface OutlineChoice {
  /** Around what is wanted, px; the end meets the beginning. */
  outline: readonly Point[];
  /** `touched`: faces that reach into it; `inside`: faces that lie in it with all corners. */
  take: 'touched' | 'inside';
  /** Also what lies behind something else, or turns away. */
  through: boolean;
}

/**
 * Faces within an outline that is drawn over a picture. Without `through`, those are taken of which a pixel is seen; faces smaller than a
 * pixel are seen where nothing lies before their middle.
 * @param count faces in all
 */
export function facesInOutline(parts: readonly ProjectedPart[], count: number, choice: OutlineChoice): FaceSet {
  const out = new Uint8Array(count);
  if (choice.outline.length < 3) return out;
  const seen = choice.through ? null : seenWithin(parts, count, choice.outline);
  const box = outlineBox(choice.outline);
  for (const part of parts)
    for (let t = 0; t < part.faces.length; t++) {
      const face = part.faces[t];
      if (out[face]) continue;
      const corners = cornersOf(part, t);
      if (!corners || apart(corners, box)) continue;
      const within = choice.take === 'inside' ? inside(corners, choice.outline) : touches(corners, choice.outline);
      if (within && (!seen || seen(part, t, corners))) out[face] = 1;
    }
  return out;
}

type Corners = readonly [Point, Point, Point];

function cornersOf({ points, indices }: ProjectedPart, t: number): Corners | null {
  const at = (k: number): Point => [points[indices[t * 3 + k] * 3], points[indices[t * 3 + k] * 3 + 1]];
  const corners = [at(0), at(1), at(2)] as const;
  return corners.some(([x]) => Number.isNaN(x)) ? null : corners;
}

/** Whether a triangle lies wholly to one side of a box. */
const apart = (corners: Corners, box: readonly number[]): boolean =>
  [0, 1].some(
    (k) => corners.every((corner) => corner[k] < box[k]) || corners.every((corner) => corner[k] > box[k + 2]),
  );

const inside = (corners: Corners, outline: readonly Point[]): boolean =>
  corners.every(([x, y]) => insideOutline(outline, x, y));

/** Whether a triangle and an outline have a point in common. */
function touches(corners: Corners, outline: readonly Point[]): boolean {
  if (corners.some(([x, y]) => insideOutline(outline, x, y))) return true;
  if (outline.some(([x, y]) => insideOutline(corners, x, y))) return true;
  return corners.some((a, k) =>
    outline.some((point, i) => cross(a, corners[(k + 1) % 3], point, outline[(i + 1) % outline.length])),
  );
}

const side = (a: Point, b: Point, point: Point): number =>
  (b[0] - a[0]) * (point[1] - a[1]) - (b[1] - a[1]) * (point[0] - a[0]);

/** Whether two lines cross between their ends. */
const cross = (a: Point, b: Point, point: Point, d: Point): boolean =>
  side(a, b, point) > 0 !== side(a, b, d) > 0 && side(point, d, a) > 0 !== side(point, d, b) > 0;

type Seen = (part: ProjectedPart, triangle: number, corners: Corners) => boolean;

/** What is nearest at each pixel around an outline. */
function seenWithin(parts: readonly ProjectedPart[], count: number, outline: readonly Point[]): Seen {
  const box = outlineBox(outline);
  const [left, top] = [Math.floor(box[0]), Math.floor(box[1])];
  const width = Math.max(1, Math.ceil(box[2]) - left);
  const height = Math.max(1, Math.ceil(box[3]) - top);
  const depths = new Float32Array(width * height).fill(Infinity);
  const owners = new Int32Array(width * height).fill(-1);
  for (const part of parts)
    for (let t = 0; t < part.faces.length; t++) draw(part, t, { left, top, width, height, depths, owners });
  const pixels = new Uint8Array(count);
  owners.forEach((face, i) => {
    if (face >= 0 && insideOutline(outline, left + (i % width) + 0.5, top + Math.floor(i / width) + 0.5))
      pixels[face] = 1;
  });
  return (part, t, corners) => {
    if (pixels[part.faces[t]]) return true;
    if (turnedAway(part, corners)) return false;
    // Too small for a pixel of its own, or its pixels lie outside: nothing may lie before its middle.
    const [x, y] = [0, 1].map((k) => Math.floor((corners[0][k] + corners[1][k] + corners[2][k]) / 3 - [left, top][k]));
    if (!tiny(corners) || x < 0 || y < 0 || x >= width || y >= height) return false;
    const depth = [0, 1, 2].map((k) => part.points[part.indices[t * 3 + k] * 3 + 2]);
    const spread = Math.max(...depth) - Math.min(...depth);
    return Math.min(...depth) <= depths[y * width + x] + spread + SAME_DEPTH;
  };
}

/** Depths that count as one, of 0 … 1. */
const SAME_DEPTH = 1e-5;

/** Less than a pixel wide and high. */
const tiny = (corners: Corners): boolean =>
  [0, 1].every((k) => {
    const at = corners.map((corner) => corner[k]);
    return Math.max(...at) - Math.min(...at) < 1.5;
  });

function turnedAway({ front }: ProjectedPart, [a, b, c]: Corners): boolean {
  // With y down, what runs anticlockwise has a negative area.
  return front !== 0 && side(a, b, c) * front > 0;
}

interface DepthPicture {
  left: number;
  top: number;
  width: number;
  height: number;
  depths: Float32Array;
  owners: Int32Array;
}

/** Draws a triangle into a picture of depths: pixels whose middles it covers. Depth is linear in the picture. */
function draw(part: ProjectedPart, t: number, to: DepthPicture): void {
  const corners = cornersOf(part, t);
  if (!corners || turnedAway(part, corners)) return;
  const [a, b, c] = corners.map(([x, y]): Point => [x - to.left, y - to.top]);
  const area = side(a, b, c);
  if (area === 0) return;
  const [za, zb, zc] = [0, 1, 2].map((k) => part.points[part.indices[t * 3 + k] * 3 + 2]);
  const x0 = Math.max(0, Math.floor(Math.min(a[0], b[0], c[0])));
  const x1 = Math.min(to.width - 1, Math.ceil(Math.max(a[0], b[0], c[0])));
  const y0 = Math.max(0, Math.floor(Math.min(a[1], b[1], c[1])));
  const y1 = Math.min(to.height - 1, Math.ceil(Math.max(a[1], b[1], c[1])));
  for (let y = y0; y <= y1; y++)
    for (let x = x0; x <= x1; x++) {
      const point: Point = [x + 0.5, y + 0.5];
      const [u, v, w] = [side(b, c, point) / area, side(c, a, point) / area, side(a, b, point) / area];
      if (u < 0 || v < 0 || w < 0) continue;
      const depth = u * za + v * zb + w * zc;
      const at = y * to.width + x;
      if (depth >= to.depths[at]) continue;
      to.depths[at] = depth;
      to.owners[at] = part.faces[t];
    }
}
