import type { Primitive } from '@gltf-transform/core';
import { trianglesByIsland, uvIslands } from '../mesh/islands.ts';
import { pack } from '../pack/pack.ts';
import { mapInBox, mapPoints, movedMap } from '../pack/placed-map.ts';
import { scaledBox, shapeArea } from '../pack/rasterise.ts';
import { roundsFor } from '../pack/rounds.ts';
import { floatAccessor } from '../scene/accessors.ts';
import { type Model, type Part, surfaceScale } from '../scene/model.ts';

export interface RepackOptions {
  /** UV set that is repacked. */
  set: number;
  /** All slots in one 0–1; else each slot has its own. */
  together: boolean;
  width: number;
  height: number;
  margin: number;
  rotate: 'none' | 'quarter' | 'free';
  /** `even`: the same px per metre for all islands; else as they are to each other. */
  even: boolean;
  snap: boolean;
  effort: number;
  seed: number;
  slots: readonly string[];
  cancelled?: () => boolean;
  progress?: (share: number) => void;
}

export interface RepackReport {
  islands: number;
  /** Islands that lie on others and stay there. */
  stacked: number;
  layouts: number;
  /** Mean share of each layout that islands cover, before (what lies outside 0–1 counts too) and after. */
  before: number;
  coverage: number;
  attempts: number;
}

interface UvIsland {
  part: Part;
  uv: Float32Array;
  /** Its vertices, and its triangles as numbers of its part. */
  vertices: Uint32Array;
  triangles: Uint32Array;
}

/**
 * Packs the UV islands of a model again, in its document, which is to be read again afterwards. Islands of the same shape at the same place
 * are a stack and stay one. Textures do not follow: this is for UVs before anything is baked on them.
 * @throws Error with a sentence when there is nothing to pack or it does not fit
 */
export function repackModel(model: Model, options: RepackOptions): RepackReport {
  const wanted = new Set(options.slots);
  const groups = new Map<number, UvIsland[]>();
  const seen = new Set<Primitive>();
  for (const part of model.parts) {
    if (seen.has(part.primitive) || (wanted.size > 0 && !wanted.has(model.slots[part.slot].name))) continue;
    seen.add(part.primitive);
    const uv = part.uvs[options.set];
    if (!uv || part.mode < 4 || part.indices.length === 0) continue;
    const key = options.together ? 0 : part.slot;
    groups.set(key, [...(groups.get(key) ?? []), ...islandsOf(part, uv)]);
  }
  if (groups.size === 0) throw new Error(`no part has a UV set ${options.set} that could be packed`);
  const report: RepackReport = { islands: 0, stacked: 0, layouts: groups.size, before: 0, coverage: 0, attempts: 0 };
  const changed = new Map<Part, Float32Array>();
  let at = 0;
  for (const islands of groups.values()) {
    packGroup(islands, options, changed, report, (share) => options.progress?.((at + share) / groups.size));
    at++;
  }
  for (const [part, uv] of changed) {
    part.primitive.setAttribute(`TEXCOORD_${options.set}`, floatAccessor(model.document, 'VEC2', uv));
    // They follow the UVs; whoever reads the file makes them again.
    if (options.set === 0) part.primitive.setAttribute('TANGENT', null);
  }
  report.before /= groups.size;
  report.coverage /= groups.size;
  return report;
}

function islandsOf(part: Part, uv: Float32Array): UvIsland[] {
  return trianglesByIsland(uvIslands(part.indices, part.positions, uv)).map((triangles) => {
    const vertices = new Set<number>();
    for (const triangle of triangles) for (let k = 0; k < 3; k++) vertices.add(part.indices[triangle * 3 + k]);
    return { part, uv, triangles, vertices: Uint32Array.from(vertices) };
  });
}

/** The same for islands whose triangles have the same UVs, to 1/65536. */
function stackKey(i: UvIsland): string {
  const q = (v: number) => Math.round(v * 65536);
  const keys = Array.from(i.triangles, (triangle) =>
    [0, 1, 2]
      .map((k) => {
        const v = i.part.indices[triangle * 3 + k];
        return `${q(i.uv[2 * v])},${q(i.uv[2 * v + 1])}`;
      })
      .sort()
      .join(' '),
  );
  return keys.sort().join(';');
}

function packGroup(
  islands: UvIsland[],
  options: RepackOptions,
  changed: Map<Part, Float32Array>,
  report: RepackReport,
  progress: (share: number) => void,
): void {
  const stacks = new Map<string, UvIsland[]>();
  for (const i of islands) {
    const key = stackKey(i);
    const list = stacks.get(key);
    if (list) list.push(i);
    else stacks.set(key, [i]);
  }
  report.islands += islands.length;
  report.stacked += islands.length - stacks.size;
  const shapes = [...stacks.values()].map((members) => {
    const [first] = members;
    const px = (v: number) => [first.uv[2 * v] * options.width, first.uv[2 * v + 1] * options.height];
    let [left, top] = [Infinity, Infinity];
    for (const v of first.vertices) {
      left = Math.min(left, px(v)[0]);
      top = Math.min(top, px(v)[1]);
    }
    const shape = new Float64Array(first.triangles.length * 6);
    first.triangles.forEach((triangle, i) => {
      for (let k = 0; k < 3; k++) {
        const [x, y] = px(first.part.indices[triangle * 3 + k]);
        shape.set([x - left, y - top], i * 6 + k * 2);
      }
    });
    const area = shapeArea(shape);
    const world = members.reduce((greatest, member) => Math.max(greatest, surfaceArea(member)), 0);
    return { members, shape, left, top, area, factor: options.even && area > 0 ? Math.sqrt(world / area) : 1 };
  });
  // At even density sizes are given in px per metre; they are brought near 1 for the packer.
  const mean = shapes.reduce((sum, shape) => sum + shape.factor, 0) / shapes.length || 1;
  const items = shapes.map((shape) => ({
    shape: shape.shape,
    factor: Math.max(shape.factor / mean, 1e-6),
    mayTurn: true,
  }));
  const { width, height, margin, rotate, snap, effort, seed, cancelled } = options;
  const packed = pack(items, {
    ...{ width, height, margin, rotate, snap, seed, cancelled, progress, maxScale: 1e4 },
    effort: roundsFor(effort, items.length),
  });
  if (packed.scale === 0)
    throw new Error(
      `${shapes.length} islands do not fit on ${width} × ${height} px with a margin of ${margin} px: take a larger size or a smaller margin`,
    );
  report.attempts += packed.attempts;
  shapes.forEach(({ members, left, top, area }, i) => {
    const size = packed.scale * items[i].factor;
    const placement = packed.placements[i];
    report.before += area / (width * height);
    report.coverage += (area * size ** 2) / (width * height);
    for (const member of members) {
      let uv = changed.get(member.part);
      if (!uv) {
        uv = member.uv.slice();
        changed.set(member.part, uv);
      }
      const points = new Float64Array(member.vertices.length * 2);
      member.vertices.forEach((v, k) => {
        points[2 * k] = member.uv[2 * v] * width - left;
        points[2 * k + 1] = member.uv[2 * v + 1] * height - top;
      });
      const map = mapInBox(scaledBox(items[i].shape, size), placement, size);
      const at = mapPoints(movedMap(map, placement.x, placement.y), points);
      member.vertices.forEach((v, k) => {
        (uv as Float32Array)[2 * v] = at[2 * k] / width;
        (uv as Float32Array)[2 * v + 1] = at[2 * k + 1] / height;
      });
    }
  });
}

function surfaceArea({ part, triangles }: UvIsland): number {
  const positions = part.positions;
  const k = surfaceScale(part);
  let sum = 0;
  for (const triangle of triangles) {
    const [a, b, c] = [0, 1, 2].map((i) => part.indices[triangle * 3 + i] * 3);
    const [ux, uy, uz] = [
      positions[b] - positions[a],
      positions[b + 1] - positions[a + 1],
      positions[b + 2] - positions[a + 2],
    ];
    const [vx, vy, vz] = [
      positions[c] - positions[a],
      positions[c + 1] - positions[a + 1],
      positions[c + 2] - positions[a + 2],
    ];
    sum += Math.sqrt((uy * vz - uz * vy) ** 2 + (uz * vx - ux * vz) ** 2 + (ux * vy - uy * vx) ** 2) / 2;
  }
  return sum * k * k;
}
