import { nearestFeature } from '@wembrel/kernels/nearest';
import { VIEWS, viewFrame } from '../compare/views.ts';
import { boxOf, largestSide } from '../rays/target/mesh-box.ts';
import type { LightMesh } from './light-mesh.ts';

/** Height of the screen, px, and vertical angle of view for which errors in px are meant; reference, "Stand-ins". */
export const SCREEN_HEIGHT = 1080;
const HALF_ANGLE = Math.PI / 6;

/** px that a metre has on that screen at a distance, m. */
export const pxPerMetre = (distance: number): number => SCREEN_HEIGHT / (2 * Math.tan(HALF_ANGLE) * distance);

/** Distance from which a length is so many px, m. */
export const distanceFor = (metres: number, px: number): number => (metres * pxPerMetre(1)) / px;

/** The distance from which a thing of a size fills the height of the screen, m. */
export const framingDistance = (size: number): number => distanceFor(size, SCREEN_HEIGHT);

/** Triangles of any kind. */
type Drawn = Pick<LightMesh, 'positions' | 'indices'>;

/** How far two outlines lie apart, m: shares of the outline's px that are nearer than that. */
export interface OutlineError {
  median: number;
  /** 99 % lie nearer. */
  most: number;
  greatest: number;
  /** What one px of the pictures is, m: nothing finer was seen. */
  px: number;
}

/** What a mesh covers from each of the twelve views, to be held against others. */
export interface Outlines {
  side: number;
  /** m a px. */
  px: number;
  middle: readonly number[];
  covered: Uint8Array[];
}

/** @param side of the pictures, px @param like others with which these are to be compared: they are framed alike */
export function outlinesOf(mesh: Drawn, side: number, like?: Outlines): Outlines {
  const box = boxOf([mesh]);
  const diagonal = Math.hypot(box[3] - box[0], box[4] - box[1], box[5] - box[2]) || largestSide(box) || 1;
  const px = like?.px ?? (diagonal * 1.05) / side;
  const middle = like?.middle ?? [0, 1, 2].map((k) => (box[k] + box[k + 3]) / 2);
  return { side, px, middle, covered: VIEWS.map(({ eye }) => covered(mesh, eye, { side, px, middle })) };
}

/** Which px of a view a mesh covers: those whose middle lies in a triangle. */
function covered(
  { positions, indices }: Drawn,
  eye: [number, number, number],
  frame: Omit<Outlines, 'covered'>,
): Uint8Array {
  const { side, px, middle } = frame;
  const { right, up } = viewFrame(eye);
  const out = new Uint8Array(side * side);
  const count = positions.length / 3;
  const xs = new Float64Array(count);
  const ys = new Float64Array(count);
  for (let v = 0; v < count; v++) {
    const [x, y, z] = [0, 1, 2].map((k) => positions[v * 3 + k] - middle[k]);
    xs[v] = (x * right[0] + y * right[1] + z * right[2]) / px + side / 2;
    ys[v] = side / 2 - (x * up[0] + y * up[1] + z * up[2]) / px;
  }
  for (let i = 0; i < indices.length; i += 3)
    fill(out, side, [
      xs[indices[i]],
      ys[indices[i]],
      xs[indices[i + 1]],
      ys[indices[i + 1]],
      xs[indices[i + 2]],
      ys[indices[i + 2]],
    ]);
  return out;
}

/** Fills a triangle, row by row. */
function fill(out: Uint8Array, side: number, p: readonly number[]): void {
  const top = Math.max(0, Math.ceil(Math.min(p[1], p[3], p[5]) - 0.5));
  const bottom = Math.min(side - 1, Math.floor(Math.max(p[1], p[3], p[5]) - 0.5));
  for (let y = top; y <= bottom; y++) {
    const at = y + 0.5;
    let [left, right] = [Infinity, -Infinity];
    for (let k = 0; k < 6; k += 2) {
      const [ax, ay, bx, by] = [p[k], p[k + 1], p[(k + 2) % 6], p[(k + 3) % 6]];
      if (ay > at === by > at) continue;
      const x = ax + ((bx - ax) * (at - ay)) / (by - ay);
      left = Math.min(left, x);
      right = Math.max(right, x);
    }
    const from = Math.max(0, Math.ceil(left - 0.5));
    const to = Math.min(side - 1, Math.floor(right - 0.5));
    if (from <= to) out.fill(1, y * side + from, y * side + to + 1);
  }
}

/** How far the outlines of two meshes lie apart, from all twelve views, either way. Both are framed alike. */
export function outlineError(a: Outlines, b: Outlines): OutlineError {
  const distances: number[] = [];
  a.covered.forEach((one, i) => {
    const [edgeA, edgeB] = [one, b.covered[i]].map((picture) => edgeOf(picture, a.side));
    for (const d of [...apart(edgeA, edgeB, a.side), ...apart(edgeB, edgeA, a.side)]) distances.push(d);
  });
  distances.sort((x, y) => x - y);
  const at = (share: number) =>
    (distances[Math.min(distances.length - 1, Math.floor(share * distances.length))] ?? 0) * a.px;
  return { median: at(0.5), most: at(0.99), greatest: at(1), px: a.px };
}

/** px that are covered beside px that are not, or at the border of the picture. */
export function edgeOf(picture: Uint8Array, side: number): Uint8Array {
  const out = new Uint8Array(picture.length);
  for (let y = 0; y < side; y++)
    for (let x = 0; x < side; x++) {
      const i = y * side + x;
      const inner = x > 0 && y > 0 && x < side - 1 && y < side - 1;
      if (picture[i] && !(inner && picture[i - 1] && picture[i + 1] && picture[i - side] && picture[i + side]))
        out[i] = 1;
    }
  return out;
}

/** Rings of px around a place that are searched one by one before the whole picture is. */
const NEAR = 6;

/** From every px of one outline to the nearest of the other, px; the side where there is no other. */
function apart(from: Uint8Array, to: Uint8Array, side: number): number[] {
  let nearest: Int32Array | null = null;
  const out: number[] = [];
  for (let i = 0; i < from.length; i++) {
    if (!from[i]) continue;
    const close = nearby(to, side, i);
    if (close !== null) {
      out.push(close);
      continue;
    }
    nearest ??= nearestFeature(to, side, side);
    const near = nearest[i];
    if (near < 0) out.push(side);
    else out.push(Math.hypot((near % side) - (i % side), Math.floor(near / side) - Math.floor(i / side)));
  }
  return out;
}

/** The distance to the nearest marked px within some rings, px; null where they hold none. */
function nearby(mask: Uint8Array, side: number, i: number): number | null {
  if (mask[i]) return 0;
  const [x, y] = [i % side, Math.floor(i / side)];
  let best = Infinity;
  // What lies in a corner of a ring may be farther than what lies in the middle of the next ones.
  for (let ring = 1; ring <= NEAR && ring < best; ring++)
    for (let dy = -ring; dy <= ring; dy++) {
      const row = y + dy;
      if (row < 0 || row >= side) continue;
      const step = Math.abs(dy) === ring ? 1 : 2 * ring;
      for (let dx = -ring; dx <= ring; dx += step) {
        const column = x + dx;
        if (column >= 0 && column < side && mask[row * side + column]) best = Math.min(best, Math.hypot(dx, dy));
      }
    }
  return best <= NEAR ? best : null;
}
