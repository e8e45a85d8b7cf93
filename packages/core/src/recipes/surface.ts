import type { BakeTriangles } from '../bake/triangles.ts';
import { crossOf } from '../math/triangle.ts';
import type { GroupIds } from '../rays/maps/group-ids.ts';
import type { LowTarget } from '../rays/target/low-target.ts';

/** What conditions know of a part by name, and where it lies. */
interface SurfacePart {
  /** Path of its file. */
  model: string;
  name: string;
  slot: string;
  /** Low x y z and high x y z, m. */
  box: readonly number[];
}

/** What a recipe is laid on: triangles with their places on a sheet. Arrays are shared memory and run by corner, three corners a triangle. */
export interface RecipeSurface extends Pick<BakeTriangles, 'place' | 'count'> {
  /** px */
  width: number;
  height: number;
  /** Object space (the model's scene), m. */
  positions: Float32Array;
  /** Unit normals, and frames of the baked normal map: x y z w. */
  normals: Float32Array;
  tangents: Float32Array;
  /** By triangle: number of its island, and of its part. */
  island: Uint32Array;
  part: Uint16Array;
  parts: readonly SurfacePart[];
  /** Face group of each triangle, −1 where there is none. */
  group: Int32Array | null;
  groups: readonly string[];
  /** Low and high x y z of each model, by path. */
  boxes: Readonly<Record<string, readonly number[]>>;
  /** A cell, whose pictures and noise go on at its opposite edge: width and height, m. */
  wraps: readonly [number, number] | null;
}

/** The stretch of a surface that one triangle covers. */
interface Measures {
  /** m², px² */
  world: number;
  sheet: number;
}

const SQUARE = { world: 0, sheet: 0 };

/** Area of a triangle on the surface and on the sheet. */
export function measuresOf(surface: RecipeSurface, t: number, out: Measures = { ...SQUARE }): Measures {
  const { place: q } = surface;
  const n = [0, 0, 0];
  const o = t * 6;
  out.world = crossOf(surface.positions, t * 3, t * 3 + 1, t * 3 + 2, n) / 2;
  out.sheet = Math.abs((q[o + 2] - q[o]) * (q[o + 5] - q[o + 1]) - (q[o + 4] - q[o]) * (q[o + 3] - q[o + 1])) / 2;
  return out;
}

/** m that a px of each triangle covers along an axis; 0 where a triangle has no area. */
export function metresPerPx(surface: RecipeSurface): Float32Array {
  const out = new Float32Array(new SharedArrayBuffer(surface.count * 4));
  const areas = { ...SQUARE };
  for (let t = 0; t < surface.count; t++) {
    measuresOf(surface, t, areas);
    out[t] = areas.sheet > 0 ? Math.sqrt(areas.world / areas.sheet) : 0;
  }
  return out;
}

/** Mean of that over the whole surface, weighed by area. */
export function meanMetresPerPx(surface: RecipeSurface): number {
  let [world, sheet] = [0, 0];
  const areas = { ...SQUARE };
  for (let t = 0; t < surface.count; t++) {
    measuresOf(surface, t, areas);
    world += areas.world;
    sheet += areas.sheet;
  }
  return sheet > 0 ? Math.sqrt(world / sheet) : 0;
}

/** A low-poly as a recipe is laid on it. @param size width and height of the sheet, px */
export function surfaceOfTarget(
  target: LowTarget,
  size: readonly [number, number],
  groups: GroupIds | null = null,
): RecipeSurface {
  const { mesh, count } = target;
  const positions = new Float32Array(new SharedArrayBuffer(count * 36));
  for (let c = 0; c < count * 3; c++)
    for (let k = 0; k < 3; k++) positions[c * 3 + k] = mesh.positions[mesh.indices[c] * 3 + k];
  const part = new Uint16Array(new SharedArrayBuffer(count * 2));
  part.set(mesh.sourceOf);
  const boxes: Record<string, number[]> = {};
  const parts = mesh.sources.map((source): SurfacePart => {
    const box = emptyBox();
    growBox(box, positions, source.from * 9, source.to * 9);
    boxes[source.path] = joinedBox(boxes[source.path] ?? emptyBox(), box);
    return { model: source.path, name: source.object, slot: source.slot, box };
  });
  const group = groups ? new Int32Array(new SharedArrayBuffer(count * 4)).fill(-1) : null;
  if (group && groups)
    for (const source of mesh.sources) {
      const table = groups.ofFile.get(source.path)?.[source.part];
      if (table) group.set(table.subarray(0, source.to - source.from), source.from);
    }
  return {
    width: size[0],
    height: size[1],
    count,
    place: target.place,
    positions,
    normals: target.normals,
    tangents: target.tangents,
    island: target.island,
    part,
    parts,
    group,
    groups: groups?.names ?? [],
    boxes,
    wraps: null,
  };
}

/** A cell of a sheet by itself: a plane of `metres` that faces +Z, upright, its lower left corner in the origin. */
export function surfaceOfCell(
  name: string,
  px: readonly [number, number],
  metres: readonly [number, number],
): RecipeSurface {
  const [w, h] = metres;
  const floats = (values: readonly number[]) => {
    const out = new Float32Array(new SharedArrayBuffer(values.length * 4));
    out.set(values);
    return out;
  };
  const place = new Float64Array(new SharedArrayBuffer(96));
  const [right, bottom] = px;
  place.set([0, 0, 0, bottom, right, bottom, 0, 0, right, bottom, right, 0]);
  const six = (values: readonly number[]) => Array.from({ length: 6 }, () => values).flat();
  const box = [0, 0, 0, w, h, 0];
  return {
    width: px[0],
    height: px[1],
    count: 2,
    place,
    positions: floats([0, h, 0, 0, 0, 0, w, 0, 0, 0, h, 0, w, 0, 0, w, h, 0]),
    normals: floats(six([0, 0, 1])),
    tangents: floats(six([1, 0, 0, 1])),
    island: new Uint32Array(new SharedArrayBuffer(8)),
    part: new Uint16Array(new SharedArrayBuffer(4)),
    parts: [{ model: name, name, slot: name, box }],
    group: null,
    groups: [],
    boxes: { [name]: box },
    wraps: [w, h],
  };
}

const emptyBox = (): number[] => [Infinity, Infinity, Infinity, -Infinity, -Infinity, -Infinity];

function growBox(box: number[], p: Float32Array, from: number, to: number): void {
  for (let i = from; i < to; i += 3)
    for (let k = 0; k < 3; k++) {
      if (p[i + k] < box[k]) box[k] = p[i + k];
      if (p[i + k] > box[k + 3]) box[k + 3] = p[i + k];
    }
}

const joinedBox = (a: readonly number[], b: readonly number[]): number[] =>
  a.map((v, k) => (k < 3 ? Math.min(v, b[k]) : Math.max(v, b[k])));
