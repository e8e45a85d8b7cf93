import { Wrap } from '@wembrel/kernels/sample';
import { DisjointSet } from '../math/disjoint-set.ts';
import { layoutCoordinates } from '../mesh/coordinates.ts';
import { trianglesByIsland, uvIslands } from '../mesh/islands.ts';
import { joinOverlapping } from '../mesh/join-overlapping.ts';
import { splitOverlaps } from '../mesh/overlap.ts';
import { type ImageSizes, layoutUse, referenceSize } from '../plan/layout-texture.ts';
import { type RoutedMaterial, sampling } from '../plan/route.ts';
import { IMAGE_CHANNELS, type TextureUse, uvSetsUsed } from '../scene/material.ts';
import { type Model, type Part, surfaceScale } from '../scene/model.ts';
import { plotKeys } from './pins.ts';
import type { Island, Plot } from './plot.ts';
import { usefulShareOf } from './sharpness.ts';
import { isLaid, type OutlinedIsland, undrawnIslands } from './undrawn-islands.ts';

type UnweightedPlot = Omit<Plot, 'id' | 'keys' | 'weight' | 'useful' | 'exact'>;

interface RawIsland extends Island, OutlinedIsland {
  area: number;
  world: number;
}

function shiftFor(min: number, side: number, wrap: number): number {
  if (wrap === Wrap.repeat) return Math.floor(min / side + 1e-4) * side;
  if (wrap === Wrap.mirror) return Math.floor(min / (2 * side) + 1e-4) * 2 * side;
  return 0;
}

/**
 * Islands of all parts of one material, grouped into plots. Islands that sample the same texels stay stacked ("Materials →
 * sheet", Stack); with several UV sets or vertex colours only islands that agree in all of them do.
 */
export function plotsOfMaterial(
  models: Model[],
  material: RoutedMaterial,
  index: number,
  sizes: ImageSizes,
): Omit<Plot, 'id'>[] {
  const pictures = IMAGE_CHANNELS.flatMap((channel) =>
    material.look[channel] ? [sizes(material.look[channel].image)] : [],
  );
  const share = { weight: material.weight, useful: usefulShareOf(pictures), exact: sampling(material.look).nearest };
  const names = material.members.map((member) => models[member.model].slots[member.slot].name);
  return placesOfMaterial(models, material, index, sizes).map((unweightedPlot) => ({
    ...unweightedPlot,
    ...share,
    mayTurn: unweightedPlot.mayTurn && material.mayTurn,
    keys: plotKeys(names, unweightedPlot.kind, unweightedPlot.shown),
  }));
}

function placesOfMaterial(
  models: Model[],
  material: RoutedMaterial,
  index: number,
  sizes: ImageSizes,
): UnweightedPlot[] {
  const use = layoutUse(material, sizes);
  const all = material.members.flatMap(({ model, slot }) =>
    models[model].parts.filter((part) => part.slot === slot).map((part) => ({ model, part })),
  );
  if (!use) {
    const islands = all.map(({ model, part }) => ({
      model,
      part: part.id,
      triangles: Uint32Array.from({ length: part.indices.length / 3 }, (_, t) => t),
      shiftX: 0,
      shiftY: 0,
    }));
    return [swatch(index, islands)];
  }
  const size = referenceSize(material, sizes);
  const sets = uvSetsUsed(material.look);
  const parts = all.filter(({ part }) => isLaid(part, sets));
  if (material.form !== 'islands') return [wholeTexture(material, index, parts, { use, size, sets })];
  const strict = sets.length > 1 || parts.some(({ part }) => part.colors);
  const byPart = parts.map(({ model, part }) => ({
    part,
    islands: partIslands(model, part, { use, size, sets, strict }),
  }));
  const drawn = byPart.filter(({ part }) => part.instances.length > 0).flatMap((x) => x.islands);
  const undrawn = undrawnIslands(
    drawn,
    byPart.filter(({ part }) => part.instances.length === 0),
    size,
  );
  const islands = [...drawn, ...undrawn.own];

  const groups = new DisjointSet(islands.length);
  const points: number[] = [];
  const solid: number[] = [];
  const byHash = new Map<string, number>();
  islands.forEach((island, i) => {
    const point = island.maxX - island.minX < 0.5 && island.maxY - island.minY < 0.5 && !strict;
    const key = point ? `point ${Math.round(island.minX * 16)} ${Math.round(island.minY * 16)}` : island.key;
    const duplicate = byHash.get(key);
    if (duplicate !== undefined) {
      groups.join(duplicate, i);
      return;
    }
    byHash.set(key, i);
    (point ? points : solid).push(i);
  });
  if (!strict) joinIslands(islands, solid, groups);
  const members = new Map<number, number[]>();
  islands.forEach((_, i) => {
    const group = groups.find(i);
    const list = members.get(group);
    if (list) list.push(i);
    else members.set(group, [i]);
  });
  const shown = new Set([...solid, ...points]);
  const normal = material.look.normal !== null;
  const numbers = new Map(islands.map((island, i) => [island, i]));
  const followers = new Map<number, RawIsland[]>();
  for (const { island, leader } of undrawn.following) {
    const group = groups.find(numbers.get(leader) as number);
    followers.set(group, [...(followers.get(group) ?? []), island]);
  }
  return [...members.entries()].map(([group, list]) => {
    const baked = list.map((i) => islands[i]);
    const following = followers.get(group) ?? [];
    const plot = buildPlot(
      index,
      [...baked, ...following],
      [...list.map((i) => shown.has(i)), ...following.map(() => false)],
    );
    if (normal && (plot.islands.length > 1 || bothWays(plot.shape)))
      plot.mayTurn = [...baked, ...following].every((island) => isUnsheared(models, island));
    return plot;
  });
}

/** Texels along each axis until a texture is the same again. */
export function periodSize(use: TextureUse, [w, h]: [number, number]): [number, number] {
  return [use.wrapS === Wrap.mirror ? 2 * w : w, use.wrapT === Wrap.mirror ? 2 * h : h];
}

interface LaidTexture {
  use: TextureUse;
  size: [number, number];
  sets: number[];
}

/** One place for a whole texture, and all islands on it, moved by whole repeats. */
function wholeTexture(
  material: RoutedMaterial,
  index: number,
  parts: { model: number; part: Part }[],
  { use, size, sets }: LaidTexture,
): UnweightedPlot {
  const islands = parts.flatMap(({ model, part }) => partIslands(model, part, { use, size, sets, strict: false }));
  const [w, h] = periodSize(use, size);
  const texels = islands.reduce((sum, i) => sum + i.area, 0);
  const world = islands.reduce((sum, i) => sum + i.world, 0);
  return {
    material: index,
    kind: material.form === 'strip' ? 'strip' : 'cell',
    islands: islands.map(({ model, part, triangles, shiftX, shiftY }) => ({ model, part, triangles, shiftX, shiftY })),
    shape: rectangle(w, h),
    shapeIsland: new Uint32Array(0),
    shapeTriangle: new Uint32Array(0),
    originX: 0,
    originY: 0,
    mayTurn: false,
    shown: [{ key: `whole ${w} ${h}`, area: w * h }],
    texelArea: w * h,
    // What one copy of the texture covers on the surface, in the mean.
    worldArea: texels > 0 ? (world * w * h) / texels : 0,
  };
}

/** Two triangles. */
export const rectangle = (w: number, h: number): Float64Array => Float64Array.of(0, 0, w, 0, w, h, 0, 0, w, h, 0, h);

function swatch(material: number, islands: Island[]): UnweightedPlot {
  return {
    material,
    kind: 'swatch',
    islands,
    shape: new Float64Array(0),
    shapeIsland: new Uint32Array(0),
    shapeTriangle: new Uint32Array(0),
    originX: 0,
    originY: 0,
    mayTurn: false,
    shown: [],
    texelArea: 0,
    worldArea: 0,
  };
}

interface LaidPart {
  use: TextureUse;
  size: [number, number];
  sets: number[];
  strict: boolean;
}

function partIslands(model: number, part: Part, { use, size, sets, strict }: LaidPart): RawIsland[] {
  const xy = layoutCoordinates(part, use, size);
  const uv = part.uvs[use.uvSet] as Float32Array;
  const { indices } = part;
  let lists = trianglesByIsland(uvIslands(indices, part.positions, uv));
  if (strict) {
    const all = cornerCoordinates(xy, indices);
    lists = lists.flatMap((list) => splitOverlaps(all, list, vertexNeighbours(indices, list, part.positions)));
  }
  const k = surfaceScale(part) ** 2;
  return lists.map((triangles) => {
    const coords = new Float64Array(triangles.length * 6);
    let minX = Infinity;
    let minY = Infinity;
    let maxX = -Infinity;
    let maxY = -Infinity;
    let area = 0;
    let world = 0;
    triangles.forEach((triangle, i) => {
      for (let c = 0; c < 3; c++) {
        const v = indices[triangle * 3 + c];
        coords[i * 6 + c * 2] = xy[v * 2];
        coords[i * 6 + c * 2 + 1] = xy[v * 2 + 1];
        minX = Math.min(minX, xy[v * 2]);
        maxX = Math.max(maxX, xy[v * 2]);
        minY = Math.min(minY, xy[v * 2 + 1]);
        maxY = Math.max(maxY, xy[v * 2 + 1]);
      }
      area += Math.abs(signedArea(coords, i * 6));
      world += triangleArea(part.positions, indices, triangle) * k;
    });
    const shiftX = shiftFor(minX, size[0], use.wrapS);
    const shiftY = shiftFor(minY, size[1], use.wrapT);
    for (let i = 0; i < coords.length; i += 2) {
      coords[i] -= shiftX;
      coords[i + 1] -= shiftY;
    }
    const hash = strict ? exactHash(part, triangles, coords, sets) : looseHash(coords);
    return {
      model,
      part: part.id,
      triangles,
      shiftX,
      shiftY,
      coords,
      minX: minX - shiftX,
      minY: minY - shiftY,
      maxX: maxX - shiftX,
      maxY: maxY - shiftY,
      area,
      world,
      key: `${triangles.length} ${hash}`,
    };
  });
}

/** Triangles of a list that share a place with each other, as positions in the list. */
function vertexNeighbours(indices: Uint32Array, list: Uint32Array, positions: Float32Array): number[][] {
  const byPlace = new Map<string, number[]>();
  list.forEach((t, p) => {
    for (let c = 0; c < 3; c++) {
      const v = indices[t * 3 + c] * 3;
      const key = `${positions[v]},${positions[v + 1]},${positions[v + 2]}`;
      const at = byPlace.get(key);
      if (at) at.push(p);
      else byPlace.set(key, [p]);
    }
  });
  const out: number[][] = Array.from(list, () => []);
  for (const at of byPlace.values()) for (const a of at) for (const b of at) if (a !== b) out[a].push(b);
  return out;
}

function cornerCoordinates(xy: Float64Array, indices: Uint32Array): Float64Array {
  const out = new Float64Array(indices.length * 2);
  indices.forEach((v, i) => {
    out[i * 2] = xy[v * 2];
    out[i * 2 + 1] = xy[v * 2 + 1];
  });
  return out;
}

export function signedArea(c: Float64Array, o: number): number {
  return ((c[o + 2] - c[o]) * (c[o + 5] - c[o + 1]) - (c[o + 4] - c[o]) * (c[o + 3] - c[o + 1])) / 2;
}

export function triangleArea(p: Float32Array, indices: Uint32Array, t: number): number {
  const a = indices[t * 3] * 3;
  const b = indices[t * 3 + 1] * 3;
  const c = indices[t * 3 + 2] * 3;
  const ux = p[b] - p[a];
  const uy = p[b + 1] - p[a + 1];
  const uz = p[b + 2] - p[a + 2];
  const vx = p[c] - p[a];
  const vy = p[c + 1] - p[a + 1];
  const vz = p[c + 2] - p[a + 2];
  const x = uy * vz - uz * vy;
  const y = uz * vx - ux * vz;
  const z = ux * vy - uy * vx;
  return Math.sqrt(x * x + y * y + z * z) / 2;
}

/** Order-free hash of triangles in 1/64 texel. A collision only stacks two islands of one material, which stays correct. */
function looseHash(coords: Float64Array): string {
  let a = 0;
  let b = 0;
  for (let i = 0; i < coords.length; i += 6) {
    let h = 0;
    let g = 0;
    for (let k = 0; k < 6; k += 2) {
      const x = Math.round(coords[i + k] * 64) | 0;
      const y = Math.round(coords[i + k + 1] * 64) | 0;
      let m = Math.imul(x, 0x9e3779b1) ^ Math.imul(y, 0x85ebca77);
      m = Math.imul(m ^ (m >>> 15), 0xc2b2ae3d);
      m ^= m >>> 13;
      h = (h + m) | 0;
      g = (g + Math.imul(m, m | 1)) | 0;
    }
    h = Math.imul(h ^ (h >>> 16), 0x27d4eb2f);
    a = (a + h) | 0;
    b = (b + Math.imul(g ^ h, 0x165667b1)) | 0;
  }
  return `${a} ${b}`;
}

/** Order-free text of everything that is sampled on an island: layout place, every UV set, colour. */
function exactHash(part: Part, triangles: Uint32Array, coords: Float64Array, sets: number[]): string {
  const rows: string[] = [];
  triangles.forEach((triangle, i) => {
    const corners: string[] = [];
    for (let c = 0; c < 3; c++) {
      const v = part.indices[triangle * 3 + c];
      const values = [Math.round(coords[i * 6 + c * 2] * 64), Math.round(coords[i * 6 + c * 2 + 1] * 64)];
      for (const set of sets) {
        const uv = part.uvs[set] as Float32Array;
        const fx = uv[v * 2] - Math.floor(Math.min(...triUv(part, triangle, set, 0)));
        const fy = uv[v * 2 + 1] - Math.floor(Math.min(...triUv(part, triangle, set, 1)));
        values.push(Math.round(fx * 65536), Math.round(fy * 65536));
      }
      if (part.colors) for (let k = 0; k < 4; k++) values.push(Math.round(part.colors[v * 4 + k] * 1024));
      corners.push(values.join(','));
    }
    rows.push(corners.sort().join(';'));
  });
  return shortHash(rows.sort().join('|'));
}

/** Two 32-bit FNV-1a hashes of a text, forward and back. */
function shortHash(text: string): string {
  let a = 0x811c9dc5;
  let b = 0x811c9dc5;
  for (let i = 0, j = text.length - 1; j >= 0; i++, j--) {
    a = Math.imul(a ^ text.charCodeAt(i), 16777619);
    b = Math.imul(b ^ text.charCodeAt(j), 16777619);
  }
  return `${text.length} ${a >>> 0} ${b >>> 0}`;
}

function triUv(part: Part, t: number, set: number, axis: number): number[] {
  const uv = part.uvs[set] as Float32Array;
  return [0, 1, 2].map((c) => uv[part.indices[t * 3 + c] * 2 + axis] + 1e-6);
}

function joinIslands(islands: RawIsland[], solid: number[], groups: DisjointSet): void {
  const total = solid.reduce((sum, i) => sum + islands[i].coords.length, 0);
  const all = new Float64Array(total);
  const owner = new Uint32Array(total / 6);
  let at = 0;
  for (const i of solid) {
    all.set(islands[i].coords, at);
    owner.fill(i, at / 6, (at + islands[i].coords.length) / 6);
    at += islands[i].coords.length;
  }
  joinOverlapping(all, owner, groups, 0.05);
}

function buildPlot(material: number, islands: RawIsland[], shown: boolean[]): UnweightedPlot {
  let count = 0;
  let minX = Infinity;
  let minY = Infinity;
  islands.forEach((island, i) => {
    if (!shown[i]) return;
    count += island.triangles.length;
    minX = Math.min(minX, island.minX);
    minY = Math.min(minY, island.minY);
  });
  const originX = Math.floor(minX + 1e-4);
  const originY = Math.floor(minY + 1e-4);
  const shape = new Float64Array(count * 6);
  const shapeIsland = new Uint32Array(count);
  const shapeTriangle = new Uint32Array(count);
  let at = 0;
  let texelArea = 0;
  let worldArea = 0;
  islands.forEach((island, i) => {
    if (!shown[i]) return;
    texelArea += island.area;
    worldArea += island.world;
    for (let t = 0; t < island.triangles.length; t++) {
      for (let k = 0; k < 6; k += 2) {
        shape[at * 6 + k] = island.coords[t * 6 + k] - originX;
        shape[at * 6 + k + 1] = island.coords[t * 6 + k + 1] - originY;
      }
      shapeIsland[at] = i;
      shapeTriangle[at] = island.triangles[t];
      at++;
    }
  });
  return {
    material,
    kind: 'plot',
    islands: islands.map(({ model, part, triangles, shiftX, shiftY }) => ({ model, part, triangles, shiftX, shiftY })),
    shape,
    shapeIsland,
    shapeTriangle,
    originX,
    originY,
    mayTurn: true,
    shown: islands.flatMap((i, k) => (shown[k] ? [{ key: i.key, area: i.area }] : [])),
    texelArea,
    worldArea,
  };
}

function bothWays(shape: Float64Array): boolean {
  let up = false;
  let down = false;
  for (let i = 0; i < shape.length; i += 6) {
    const a = signedArea(shape, i);
    if (a > 0) up = true;
    if (a < 0) down = true;
  }
  return up && down;
}

/** True when U and V run square to each other on the surface (within 2°, weighted by area): turning then keeps frames alike. */
function isUnsheared(models: Model[], island: RawIsland): boolean {
  const part = models[island.model].parts[island.part];
  let sum = 0;
  let weight = 0;
  island.triangles.forEach((triangle, i) => {
    const positions = part.positions;
    const [a, b, c] = [0, 1, 2].map((k) => part.indices[triangle * 3 + k] * 3);
    const o = i * 6;
    const k = island.coords;
    const u1 = k[o + 2] - k[o];
    const v1 = k[o + 3] - k[o + 1];
    const u2 = k[o + 4] - k[o];
    const v2 = k[o + 5] - k[o + 1];
    const det = u1 * v2 - u2 * v1;
    if (Math.abs(det) < 1e-12) return;
    let dot = 0;
    let ss = 0;
    let tt = 0;
    for (let x = 0; x < 3; x++) {
      const e1 = positions[b + x] - positions[a + x];
      const e2 = positions[c + x] - positions[a + x];
      const s = (e1 * v2 - e2 * v1) / det;
      const q = (e2 * u1 - e1 * u2) / det;
      dot += s * q;
      ss += s * s;
      tt += q * q;
    }
    const cos = dot / Math.max(Math.sqrt(ss * tt), 1e-30);
    sum += Math.abs(cos) * Math.abs(det);
    weight += Math.abs(det);
  });
  return weight === 0 || sum / weight < 0.035;
}
