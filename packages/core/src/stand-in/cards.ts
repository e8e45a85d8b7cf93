import type { Document } from '@gltf-transform/core';
import { convexHull } from '../pack/directions.ts';
import { boxOf, largestSide } from '../rays/target/mesh-box.ts';
import { floatAccessor, indexAccessor } from '../scene/accessors.ts';
import type { LightMesh } from './light-mesh.ts';

/** Corners of a card at the most, beside which it covers nothing. */
const CORNERS = 8;
/** Share of the surface that all cards together count as when they are packed: they are seen from afar. */
const SHARE = 0.1;
/** How far front and back of a card lie apart, as a share of the largest side: so little that nobody sees it, so much that they are two surfaces. */
const APART = 1e-4;

type Axis = 0 | 1 | 2;

/** One side of a card: a flat polygon that faces one way. */
export interface CardSide {
  /** x y z of its corners, counter-clockwise as seen from its front, m. */
  corners: number[];
  /** How far the source reaches before and behind it, m. */
  reach: number;
}

/**
 * Flat outlines of a mesh through its middle: one, across its shortest side, or two upright ones that cross. Each is a convex polygon of at most eight corners
 * that holds all of what it shows, and has a front and a back.
 */
export function cardSides(mesh: LightMesh, cards: 1 | 2): CardSide[] {
  const box = boxOf([mesh]);
  const sides = [0, 1, 2].map((k) => box[k + 3] - box[k]);
  const shortest = sides.indexOf(Math.min(...sides)) as Axis;
  const across: Axis[] = cards === 1 ? [shortest] : [2, 0];
  const apart = APART * largestSide(box);
  return across.flatMap((axis) => {
    const [u, v] = ([0, 1, 2] as Axis[]).filter((k) => k !== axis);
    const points: [number, number][] = [];
    for (let i = 0; i < mesh.positions.length; i += 3) points.push([mesh.positions[i + u], mesh.positions[i + v]]);
    const outline = withFewerCorners(convexOutline(points), CORNERS);
    const middle = (box[axis] + box[axis + 3]) / 2;
    // The two other axes turn counter-clockwise about this one, or clockwise about the second.
    const front = axis === 1 ? [...outline].reverse() : outline;
    const at = (list: readonly (readonly [number, number])[], height: number) =>
      list.flatMap(([a, b]) => {
        const p = [0, 0, 0];
        p[u] = a;
        p[v] = b;
        p[axis] = height;
        return p;
      });
    const reach = sides[axis] / 2 + 2 * apart;
    return [
      { corners: at(front, middle + apart), reach },
      { corners: at([...front].reverse(), middle - apart), reach },
    ];
  });
}

/** The convex hull of points, counter-clockwise. */
export const convexOutline = (points: readonly (readonly [number, number])[]): [number, number][] =>
  convexHull(Float64Array.from(points.flat())).map((at) => [...points[at / 2]]);

const turn = (a: readonly [number, number], b: readonly [number, number], c: readonly [number, number]): number =>
  (b[0] - a[0]) * (c[1] - a[1]) - (b[1] - a[1]) * (c[0] - a[0]);

/** A convex polygon with fewer corners that holds the one before: sides are left out one by one, whose neighbours meet with the least area added. */
export function withFewerCorners(outline: readonly [number, number][], most: number): [number, number][] {
  let now = [...outline];
  while (now.length > Math.max(4, most)) {
    let best: { at: number; corner: [number, number]; area: number } | null = null;
    for (let i = 0; i < now.length; i++) {
      const [a, b, c, d] = [0, 1, 2, 3].map((k) => now[(i + k) % now.length]);
      const corner = meeting(a, b, d, c);
      if (!corner) continue;
      const area = turn(b, corner, c);
      if (area >= 0 && (best === null || area < best.area)) best = { at: i, corner, area };
    }
    if (!best) return now;
    const { at, corner } = best;
    const [b, c] = [(at + 1) % now.length, (at + 2) % now.length];
    now = now.flatMap((p, i) => (i === b ? [corner] : i === c ? [] : [p]));
  }
  return now;
}

/** Where the line from a through b meets that from c through d, beyond b and d. */
function meeting(
  a: readonly [number, number],
  b: readonly [number, number],
  c: readonly [number, number],
  d: readonly [number, number],
): [number, number] | null {
  const [ux, uy, vx, vy] = [b[0] - a[0], b[1] - a[1], d[0] - c[0], d[1] - c[1]];
  const det = ux * vy - uy * vx;
  if (Math.abs(det) < 1e-12 * (Math.hypot(ux, uy) * Math.hypot(vx, vy) || 1)) return null;
  const s = ((c[0] - a[0]) * vy - (c[1] - a[1]) * vx) / det;
  const t = ((c[0] - a[0]) * uy - (c[1] - a[1]) * ux) / det;
  return s >= 1 && t >= 1 ? [a[0] + s * ux, a[1] + s * uy] : null;
}

/** How much smaller cards count when they are packed beside a surface, so that they take a tenth of it at the most; 1 where they are small. @param surface m² */
export function cardScale(sides: readonly CardSide[], surface: number): number {
  const area = sides.reduce((sum, side) => sum + polygonArea(side.corners), 0);
  return Math.min(1, Math.sqrt((SHARE * surface) / Math.max(area, 1e-30)));
}

function polygonArea(corners: readonly number[]): number {
  const n = [0, 0, 0];
  for (let i = 3; i + 5 < corners.length; i += 3)
    for (let k = 0; k < 3; k++) {
      const [y, z] = [(k + 1) % 3, (k + 2) % 3];
      n[k] +=
        (corners[i + y] - corners[y]) * (corners[i + 3 + z] - corners[z]) -
        (corners[i + z] - corners[z]) * (corners[i + 3 + y] - corners[y]);
    }
  return Math.hypot(...n) / 2;
}

/** Puts cards into a document as a node of their own, shrunk by a scale about the origin. */
export function addCards(document: Document, name: string, sides: readonly CardSide[], scale: number): void {
  const [buffer] = document.getRoot().listBuffers();
  const positions = sides.flatMap((side) => side.corners.map((v) => v * scale));
  const indices: number[] = [];
  let first = 0;
  for (const { corners } of sides) {
    for (let i = 1; i + 1 < corners.length / 3; i++) indices.push(first, first + i, first + i + 1);
    first += corners.length / 3;
  }
  const primitive = document
    .createPrimitive()
    .setAttribute('POSITION', floatAccessor(document, 'VEC3', Float32Array.from(positions)).setBuffer(buffer))
    .setIndices(indexAccessor(document, Uint32Array.from(indices), first).setBuffer(buffer))
    .setMaterial(document.getRoot().listMaterials()[0]);
  const node = document.createNode(name).setMesh(document.createMesh(name).addPrimitive(primitive));
  document.getRoot().getDefaultScene()?.addChild(node);
}

/** Gives the cards of a document their size again. */
export function enlargeCards(document: Document, name: string, scale: number): void {
  const mesh = document
    .getRoot()
    .listMeshes()
    .find((one) => one.getName() === name);
  const position = mesh?.listPrimitives()[0].getAttribute('POSITION');
  const values = position?.getArray();
  if (position && values) position.setArray(Float32Array.from(values as Float32Array, (v) => v / scale));
}
