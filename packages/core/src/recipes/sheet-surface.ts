import type { TargetPart } from '../bake/target.ts';
import type { SheetLayout } from '../layout/layout.ts';
import {
  determinant3,
  IDENTITY,
  linearPart,
  normalMatrix,
  transformDirections,
  transformPoints,
} from '../math/mat4.ts';
import type { GroupIds } from '../rays/maps/group-ids.ts';
import { sceneObjects } from '../rays/target/scene-objects.ts';
import type { Model, Part } from '../scene/model.ts';
import type { RecipeSurface } from './surface.ts';

export interface SheetSurfaceInput {
  models: readonly Model[];
  /** Models that are laid on, by their position. */
  dressed: ReadonlySet<number>;
  sheet: SheetLayout;
  /** By `${model}:${part}`. */
  targets: ReadonlyMap<string, TargetPart>;
  /** Of the maps, px. */
  size: readonly [number, number];
  groups: GroupIds | null;
}

/** What of a sheet a recipe can be laid on. */
export interface SheetSurface {
  surface: RecipeSurface;
  /** Slots that are one place of one colour there, so that nothing can be laid on them. */
  swatches: string[];
}

/** A part where it stands first, in the scene: its corners' points, normals and frames by vertex of its target. */
interface Placed {
  part: Part;
  target: TargetPart;
  number: number;
  points: Float32Array;
  normals: Float32Array;
  tangents: Float32Array | null;
  mirrored: boolean;
}

/**
 * The islands of some models on a sheet as a surface. Of islands that lie over each other the first is taken. Strips, cells and swatches show no surface of a
 * model, and are left out.
 */
export function surfaceOfSheet({ models, dressed, sheet, targets, size, groups }: SheetSurfaceInput): SheetSurface {
  const plots = sheet.plots.map((plot) => ({
    plot,
    triangles: Array.from(plot.shapeTriangle, (triangle, i) => ({
      island: plot.islands[plot.shapeIsland[i]],
      triangle,
    })).filter(({ island }) => plot.kind === 'plot' && dressed.has(island.model)),
  }));
  const count = plots.reduce((sum, { triangles }) => sum + triangles.length, 0);
  const floats = (n: number) => new Float32Array(new SharedArrayBuffer(n * 4));
  const surface: RecipeSurface = {
    width: size[0],
    height: size[1],
    count,
    place: new Float64Array(new SharedArrayBuffer(count * 48)),
    positions: floats(count * 9),
    normals: floats(count * 9),
    tangents: floats(count * 12),
    island: new Uint32Array(new SharedArrayBuffer(count * 4)),
    part: new Uint16Array(new SharedArrayBuffer(count * 2)),
    parts: [],
    group: groups ? new Int32Array(new SharedArrayBuffer(count * 4)).fill(-1) : null,
    groups: groups?.names ?? [],
    boxes: {},
    wraps: null,
  };
  const parts = new Map<string, Placed>();
  let t = 0;
  for (const { plot, triangles } of plots)
    for (const { island, triangle } of triangles) {
      const key = `${island.model}:${island.part}`;
      const placed = parts.get(key) ?? placedPart(models[island.model], island.part, targets.get(key), parts.size);
      if (!placed) continue;
      parts.set(key, placed);
      surface.island[t] = plot.id + 1;
      surface.part[t] = placed.number;
      if (surface.group)
        surface.group[t] = groups?.ofFile.get(models[island.model].path)?.[island.part]?.[triangle] ?? -1;
      putTriangle(surface, t++, placed, triangle);
    }
  const named = describedParts(models, [...parts.keys()], surface);
  const swatches = new Set(
    sheet.plots.flatMap((plot) =>
      plot.kind === 'swatch'
        ? plot.islands.flatMap(({ model, part }) =>
            dressed.has(model) ? [models[model].slots[models[model].parts[part].slot].name] : [],
          )
        : [],
    ),
  );
  return { surface: { ...surface, count: t, ...named }, swatches: [...swatches] };
}

function placedPart(model: Model, id: number, target: TargetPart | undefined, number: number): Placed | null {
  const part = model.parts[id];
  if (!target) return null;
  const world = part.instances[0]?.world ?? IDENTITY;
  const points = new Float32Array(target.sourceVertex.length * 3);
  target.sourceVertex.forEach((v, i) => {
    points.set(part.positions.subarray(v * 3, v * 3 + 3), i * 3);
  });
  return {
    part,
    target,
    number,
    points: transformPoints(points, world),
    normals: transformDirections(target.normals, normalMatrix(world)),
    tangents: target.tangents && transformDirections(target.tangents, linearPart(world), 4),
    mirrored: determinant3(world) < 0,
  };
}

/** Frames of what has none, so that nothing is laid with normals there. */
const NO_FRAME = [1, 0, 0, 1];

function putTriangle(
  surface: RecipeSurface,
  t: number,
  { target, points, normals, tangents, mirrored }: Placed,
  triangle: number,
): void {
  for (let c = 0; c < 3; c++) {
    const v = target.indices[triangle * 3 + c];
    const o = t * 3 + c;
    surface.place[o * 2] = target.uv[v * 2] * surface.width;
    surface.place[o * 2 + 1] = target.uv[v * 2 + 1] * surface.height;
    surface.positions.set(points.subarray(v * 3, v * 3 + 3), o * 3);
    surface.normals.set(normals.subarray(v * 3, v * 3 + 3), o * 3);
    surface.tangents.set(tangents ? tangents.subarray(v * 4, v * 4 + 4) : NO_FRAME, o * 4);
    if (tangents && target.tangents) surface.tangents[o * 4 + 3] = (mirrored ? -1 : 1) * target.tangents[v * 4 + 3];
  }
}

/** Names and boxes of parts, in the order of their numbers. */
function describedParts(
  models: readonly Model[],
  keys: readonly string[],
  { positions, part }: RecipeSurface,
): Pick<RecipeSurface, 'parts' | 'boxes'> {
  const boxes = keys.map(() => [Infinity, Infinity, Infinity, -Infinity, -Infinity, -Infinity]);
  part.forEach((p, t) => {
    if (!boxes[p]) return;
    for (let i = t * 9; i < t * 9 + 9; i++) {
      const k = i % 3;
      boxes[p][k] = Math.min(boxes[p][k], positions[i]);
      boxes[p][k + 3] = Math.max(boxes[p][k + 3], positions[i]);
    }
  });
  const names = models.map((model) => {
    const objects = sceneObjects([model]);
    return (id: number) => objects.find((object) => object.parts.includes(id))?.name ?? model.parts[id].name;
  });
  const parts = keys.map((key, i) => {
    const [m, id] = key.split(':').map(Number);
    const model = models[m];
    return { model: model.path, name: names[m](id), slot: model.slots[model.parts[id].slot].name, box: boxes[i] };
  });
  const whole: Record<string, number[]> = {};
  for (const { model, box } of parts)
    whole[model] = whole[model] ? whole[model].map((v, k) => (k < 3 ? Math.min(v, box[k]) : Math.max(v, box[k]))) : box;
  return { parts, boxes: whole };
}
