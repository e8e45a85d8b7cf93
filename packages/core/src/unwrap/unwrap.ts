import type { Accessor, Document, Primitive } from '@gltf-transform/core';
import { partOfSurface, type Surface, sideEnds, surfaceArea, surfaceOf } from '../mesh/surface.ts';
import { pack } from '../pack/pack.ts';
import { mapInBox, mapPoints, movedMap } from '../pack/placed-map.ts';
import { scaledBox, shapeArea } from '../pack/rasterise.ts';
import { floatAccessor, indexAccessor, pickRows } from '../scene/accessors.ts';
import { type Model, type Part, surfaceScale } from '../scene/model.ts';
import { chartsOf } from './charts.ts';
import { type Flat, stretchOf } from './flatten.ts';
import { lathedCharts } from './lathed.ts';
import { type Axis, boxCharts, cylindricalCharts, planarCharts } from './projections.ts';
import { stripCharts } from './quads.ts';

/** How a surface is laid flat. */
export interface FlattenOptions {
  method: 'charts' | 'strips' | 'box' | 'planar' | 'cylindrical';
  axis: Axis;
  /** Limits of a chart, see `ChartOptions`. */
  stretch: number;
  spread: number;
  cutAngle: number;
  /** Surface of all that shares a 0–1, m² in the surface's own measure; see `ChartOptions`. */
  whole?: number;
  cancelled?: () => boolean;
}

/** How charts are packed into 0–1. */
export interface LayChartsOptions {
  /** Side of the sheet for which the margin counts, px; least gap, px. */
  size: number;
  margin: number;
  effort: number;
  seed: number;
  cancelled?: () => boolean;
}

export interface UnwrapOptions extends FlattenOptions, LayChartsOptions {
  /** UV set that is written. */
  set: number;
  /** All slots in one 0–1, as baked light wants it; else each slot has its own. */
  together: boolean;
  /** Slots that are unwrapped, by name; all when empty. */
  slots: readonly string[];
  progress?: (share: number) => void;
}

/** What unwrapping made of a model. */
export interface UnwrapReport {
  parts: number;
  triangles: number;
  charts: number;
  /** L2 stretch over all charts. */
  stretch: number;
  /** Density, 95 % to 5 %. */
  spread: number;
  /** Length of all chart borders, m. */
  border: number;
  coverage: number;
  /** px per metre at the sheet's size. */
  density: number;
}

/** A surface with its charts. */
export interface Charted {
  surface: Surface;
  flats: Flat[];
  /** Local to scene. */
  scale: number;
}

interface Unwrapped extends Charted {
  part: Part;
}

/** Why a part cannot be unwrapped, or null. */
function unwrapObstacle(part: Part): string | null {
  if (part.mode < 4) return `"${part.name}" draws points or lines`;
  if (part.primitive.listTargets().length > 0) return `"${part.name}" has morph targets`;
  return null;
}

/**
 * Unwraps the parts of a model into charts and packs them, in the model's document, which is to be read again afterwards. Charts are cut where
 * they must be: vertices on their borders are split. Tangents of set 0 are left out, since they belong to other UVs.
 * @throws Error with a sentence when a part cannot be unwrapped or nothing is to be
 */
export function unwrapModel(model: Model, options: UnwrapOptions): UnwrapReport {
  const wanted = new Set(options.slots);
  const seen = new Set<Primitive>();
  const parts = model.parts.filter((part) => {
    if (seen.has(part.primitive) || (wanted.size > 0 && !wanted.has(model.slots[part.slot].name))) return false;
    seen.add(part.primitive);
    return part.indices.length > 0;
  });
  if (parts.length === 0) throw new Error('there is nothing to unwrap');
  const surfaces = parts.map((part) => {
    const obstacle = unwrapObstacle(part);
    if (obstacle) throw new Error(`${obstacle}; it cannot be unwrapped`);
    return { part, surface: surfaceOf(part.positions, part.indices), scale: surfaceScale(part) };
  });
  const keyOf = (part: Part) => (options.together ? 0 : part.slot);
  const areas = new Map<number, number>();
  for (const { part, surface, scale } of surfaces)
    areas.set(keyOf(part), (areas.get(keyOf(part)) ?? 0) + surfaceArea(surface) * scale ** 2);
  const groups = new Map<number, Unwrapped[]>();
  const work = surfaces.map(({ part, surface, scale }, i): Unwrapped => {
    const whole = (areas.get(keyOf(part)) as number) / scale ** 2;
    const progress = (share: number) => options.progress?.((0.8 * (i + share)) / parts.length);
    return { part, surface, scale, flats: flattenSurface(surface, { ...options, whole }, progress) };
  });
  for (const unwrapped of work)
    groups.set(keyOf(unwrapped.part), [...(groups.get(keyOf(unwrapped.part)) ?? []), unwrapped]);
  let covered = 0;
  let density = Infinity;
  for (const group of groups.values()) {
    const laid = layCharts(group, options);
    covered += laid.coverage / groups.size;
    density = Math.min(density, laid.density);
    for (const [unwrapped, uvs] of laid.uvs) write(model.document, unwrapped, uvs, options.set);
  }
  return { ...measured(work), coverage: covered, density };
}

/** Lays a surface flat, in charts. */
export function flattenSurface(surface: Surface, options: FlattenOptions, progress?: (share: number) => void): Flat[] {
  switch (options.method) {
    case 'box':
      return boxCharts(surface);
    case 'planar':
      return planarCharts(surface, options.axis);
    case 'cylindrical':
      return cylindricalCharts(surface, options.axis);
    case 'strips': {
      const { flats, rest } = stripCharts(surface);
      return rest.length === 0 ? flats : [...flats, ...chartsOfSome(surface, rest, options)];
    }
    default: {
      const { flats, rest } = lathedCharts(surface, options);
      return rest.length === 0 ? flats : [...flats, ...chartsOfSome(surface, rest, options, progress)];
    }
  }
}

/** Charts of some faces of a surface, as if there were no others. */
function chartsOfSome(
  surface: Surface,
  triangles: Uint32Array,
  options: FlattenOptions,
  progress?: (share: number) => void,
): Flat[] {
  const { stretch, spread, cutAngle, whole, cancelled } = options;
  const limits = { stretch, spread, cutAngle, whole, cancelled, progress };
  return chartsOf(partOfSurface(surface, triangles), limits).map(({ flat }) => ({
    ...flat,
    triangles: flat.triangles.map((i) => triangles[i]),
  }));
}

/**
 * Packs charts of several surfaces into one 0–1.
 * @returns (u, v) of each place of each chart, V down; share covered; px per metre
 * @throws Error with a sentence when they do not fit
 */
export function layCharts<W extends Charted>(group: readonly W[], o: LayChartsOptions) {
  const all = group.flatMap((w) => w.flats.map((flat) => ({ w, flat })));
  const area = group.reduce((sum, w) => sum + surfaceArea(w.surface) * w.scale ** 2, 0);
  // Shapes in about as many px as they will have.
  const start = Math.sqrt((0.7 * o.size ** 2) / Math.max(area, 1e-12));
  const boxes = all.map(({ w, flat }) => {
    const k = start * w.scale;
    let [left, bottom] = [Infinity, -Infinity];
    for (let i = 0; i < flat.uv.length; i += 2) {
      left = Math.min(left, flat.uv[i]);
      bottom = Math.max(bottom, flat.uv[i + 1]);
    }
    // Seen from outside, V upwards: px run down.
    const px = Float64Array.from(flat.uv, (v, i) => (i % 2 === 0 ? v - left : bottom - v) * k);
    const shape = new Float64Array(flat.local.length * 2);
    flat.local.forEach((v, i) => {
      shape[2 * i] = px[2 * v];
      shape[2 * i + 1] = px[2 * v + 1];
    });
    return { px, shape };
  });
  const items = boxes.map(({ shape }) => ({ shape, factor: 1, mayTurn: true }));
  const { size, margin, effort, seed, cancelled } = o;
  const options = {
    width: size,
    height: size,
    margin,
    rotate: 'free' as const,
    maxScale: 1e4,
    effort,
    seed,
    cancelled,
  };
  const packed = pack(items, options);
  if (packed.scale === 0)
    throw new Error(
      `${all.length} charts do not fit on ${size} px with a margin of ${margin} px: take a larger size or a smaller margin`,
    );
  const uvs = new Map<W, Float64Array[]>(group.map((w) => [w, []]));
  let filled = 0;
  all.forEach(({ w }, i) => {
    const placement = packed.placements[i];
    const { px, shape } = boxes[i];
    // Points are turned about the box of the shape, which they have in common.
    const map = movedMap(mapInBox(scaledBox(shape, packed.scale), placement, packed.scale), placement.x, placement.y);
    (uvs.get(w) as Float64Array[]).push(mapPoints(map, px).map((v) => v / size));
    filled += shapeArea(shape) * packed.scale ** 2;
  });
  return { uvs, coverage: filled / size ** 2, density: start * packed.scale };
}

function write(document: Document, unwrapped: Unwrapped, uvs: Float64Array[], set: number): void {
  const primitive = unwrapped.part.primitive;
  const rows: number[] = [];
  const values: number[] = [];
  const indices = new Uint32Array(unwrapped.part.indices.length);
  unwrapped.flats.forEach((flat, c) => {
    const known = new Map<number, number>();
    flat.triangles.forEach((triangle, i) => {
      for (let k = 0; k < 3; k++) {
        const v = unwrapped.part.indices[triangle * 3 + k];
        // On the seam of a chart that goes around, one vertex lies at two places.
        const place = flat.local[i * 3 + k];
        const key = v * flat.places.length + place;
        let at = known.get(key);
        if (at === undefined) {
          at = rows.push(v) - 1;
          known.set(key, at);
          values.push(uvs[c][2 * place], uvs[c][2 * place + 1]);
        }
        indices[triangle * 3 + k] = at;
      }
    });
  });
  const list = Uint32Array.from(rows);
  for (const semantic of primitive.listSemantics())
    primitive.setAttribute(semantic, pickRows(document, primitive.getAttribute(semantic) as Accessor, list));
  // Sets below must be there as well.
  for (let s = 0; s < set; s++)
    if (!primitive.getAttribute(`TEXCOORD_${s}`))
      primitive.setAttribute(`TEXCOORD_${s}`, floatAccessor(document, 'VEC2', new Float32Array(list.length * 2)));
  primitive.setAttribute(`TEXCOORD_${set}`, floatAccessor(document, 'VEC2', Float32Array.from(values)));
  if (set === 0) primitive.setAttribute('TANGENT', null);
  primitive.setIndices(indexAccessor(document, indices, list.length));
  primitive.setMode(4);
}

function measured(work: Unwrapped[]): Omit<UnwrapReport, 'coverage' | 'density'> {
  const triangles = work.reduce((sum, unwrapped) => sum + unwrapped.part.indices.length / 3, 0);
  return { parts: work.length, triangles, ...chartFigures(work) };
}

/** How charts came out: how many, stretch and spread over all, length of their borders in m. */
export function chartFigures(work: readonly Charted[]): Pick<UnwrapReport, 'charts' | 'stretch' | 'spread' | 'border'> {
  let [sum, area, border, charts] = [0, 0, 0, 0];
  const densities: [number, number][] = [];
  for (const { surface, flats, scale } of work) {
    charts += flats.length;
    for (const flat of flats) {
      const stretch = stretchOf(surface, flat);
      sum += stretch.l2 ** 2 * stretch.area;
      area += stretch.area;
      densities.push([stretch.low, stretch.area], [stretch.high, stretch.area]);
      const inside = new Set(flat.triangles);
      for (const triangle of flat.triangles)
        for (let k = 0; k < 3; k++) {
          const other = surface.twin[triangle * 3 + k];
          if (other >= 0 && inside.has(Math.floor(other / 3))) continue;
          const [a, b] = sideEnds(surface.corners, triangle * 3 + k).map((v) => v * 3);
          const d = [0, 1, 2].reduce((sum, i) => sum + (surface.points[a + i] - surface.points[b + i]) ** 2, 0);
          border += Math.sqrt(d) * scale;
        }
    }
  }
  const low = Math.min(...densities.map(([d]) => d));
  const high = Math.max(...densities.map(([d]) => d));
  return {
    charts,
    stretch: area > 0 ? Math.sqrt(sum / area) : 1,
    spread: low > 0 ? high / low : 1,
    border,
  };
}
