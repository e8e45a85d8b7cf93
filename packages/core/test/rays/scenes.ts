import { Document } from '@gltf-transform/core';
import { buildBvh } from '@wembrel/kernels/bvh';
import { ClosestPoint } from '@wembrel/kernels/closest-point';
import { RayCaster } from '@wembrel/kernels/rays';
import type { z } from 'zod';
import { type PairingDecision, RaySettings } from '../../src/decisions/ray-decisions.ts';
import { tangentsReady } from '../../src/mesh/tangents.ts';
import { jobTiles, pairingMeshes, pairingReaches, rayJob, rayScale } from '../../src/rays/cast/prepare.ts';
import { castTile, type RayJob, RayScratch } from '../../src/rays/cast/tile-cast.ts';
import { cageFaults } from '../../src/rays/faults/cage-crossing.ts';
import { edgeFaults } from '../../src/rays/faults/edge-faults.ts';
import { listFaults } from '../../src/rays/faults/fault-list.ts';
import { emptyRayMaps, type RayMaps } from '../../src/rays/maps/baked-maps.ts';
import type { RayFault } from '../../src/rays/maps/fault-kinds.ts';
import { fillMaps, markThinMargins, softenIds } from '../../src/rays/maps/finish-maps.ts';
import { idsOf } from '../../src/rays/maps/id-colours.ts';
import { pairing } from '../../src/rays/pairing/pairings.ts';
import type { SourceTextures } from '../../src/rays/target/hit-surface.ts';
import { sceneObjects } from '../../src/rays/target/scene-objects.ts';
import { type Model, readModel } from '../../src/scene/model.ts';

/** A mesh as lists, indexed. */
export interface Shape {
  positions: number[];
  normals: number[] | null;
  uvs: number[] | null;
  indices: number[];
  colors?: number[];
  material?: string;
}

/** A model with one node a shape, by name; a shape may be placed somewhere. */
export function model(
  path: string,
  shapes: Record<string, Shape | { shape: Shape; at: [number, number, number] }>,
): Model {
  const d = new Document();
  const buffer = d.createBuffer();
  const scene = d.createScene();
  for (const [name, entry] of Object.entries(shapes)) {
    const { shape, at } = 'shape' in entry ? entry : { shape: entry, at: null };
    const primitive = d.createPrimitive();
    const put = (semantic: string, values: number[], type: 'VEC2' | 'VEC3' | 'VEC4') =>
      primitive.setAttribute(
        semantic,
        d.createAccessor().setArray(Float32Array.from(values)).setType(type).setBuffer(buffer),
      );
    put('POSITION', shape.positions, 'VEC3');
    if (shape.normals) put('NORMAL', shape.normals, 'VEC3');
    if (shape.uvs) put('TEXCOORD_0', shape.uvs, 'VEC2');
    if (shape.colors) put('COLOR_0', shape.colors, 'VEC4');
    primitive.setIndices(
      d.createAccessor().setArray(Uint32Array.from(shape.indices)).setType('SCALAR').setBuffer(buffer),
    );
    primitive.setMaterial(d.createMaterial(shape.material ?? name));
    const node = d.createNode(name).setMesh(d.createMesh(name).addPrimitive(primitive));
    if (at) node.setTranslation(at);
    scene.addChild(node);
  }
  return readModel(path, d, (texture) => texture.getName());
}

/** A grid over the unit square: `at` says where each (u, v) lies, and its normal when there is one; UVs are u and v. */
export function grid(
  columns: number,
  rows: number,
  at: (u: number, v: number) => { p: number[]; n?: number[] },
  uv: (u: number, v: number) => [number, number] = (u, v) => [u, v],
): Shape {
  const shape: Shape = { positions: [], normals: [], uvs: [], indices: [] };
  for (let j = 0; j <= rows; j++)
    for (let i = 0; i <= columns; i++) {
      const { p, n } = at(i / columns, j / rows);
      shape.positions.push(...p);
      if (n) (shape.normals as number[]).push(...n);
      (shape.uvs as number[]).push(...uv(i / columns, j / rows));
    }
  if (shape.normals?.length === 0) shape.normals = null;
  for (let j = 0; j < rows; j++)
    for (let i = 0; i < columns; i++) {
      const a = j * (columns + 1) + i;
      const b = a + columns + 1;
      shape.indices.push(a, b, a + 1, a + 1, b, b + 1);
    }
  return shape;
}

/** Flat square in the xy plane, facing +z, from −half to half, at height z; v runs down, as y falls. */
export const square = (half: number, z = 0, cells = 1): Shape =>
  grid(cells, cells, (u, v) => ({ p: [(u * 2 - 1) * half, (1 - v * 2) * half, z], n: [0, 0, 1] }));

/** Sphere by longitude and latitude, smooth. @param inside normals and faces look inward */
export function sphere(radius: number, rows: number, inside = false): Shape {
  const shape = grid(rows * 2, rows, (u, v) => {
    const [t, f] = [Math.PI * v, 2 * Math.PI * u];
    const n = [Math.sin(t) * Math.cos(f), Math.cos(t), -Math.sin(t) * Math.sin(f)];
    return { p: n.map((x) => x * radius), n: n.map((x) => (inside ? -x : x)) };
  });
  if (inside)
    for (let i = 0; i < shape.indices.length; i += 3)
      [shape.indices[i + 1], shape.indices[i + 2]] = [shape.indices[i + 2], shape.indices[i + 1]];
  return shape;
}

/** A cube from −half to half with a sixth of the sheet a side, with gaps; hard normals. */
export function cube(half: number, smooth = false, centre: [number, number, number] = [0, 0, 0]): Shape {
  const shape: Shape = { positions: [], normals: [], uvs: [], indices: [] };
  const sides = [
    [0, 1, 2, 1],
    [0, 1, 2, -1],
    [1, 2, 0, 1],
    [1, 2, 0, -1],
    [2, 0, 1, 1],
    [2, 0, 1, -1],
  ];
  sides.forEach(([x, y, z, sign], k) => {
    const base = shape.positions.length / 3;
    for (const [u, v] of [
      [0, 0],
      [1, 0],
      [1, 1],
      [0, 1],
    ]) {
      const p = [0, 0, 0];
      p[x] = (u * 2 - 1) * half * sign;
      p[y] = (v * 2 - 1) * half;
      p[z] = half * sign;
      const n = [0, 0, 0];
      n[z] = sign;
      shape.positions.push(...p.map((c, i) => c + centre[i]));
      const l = Math.sqrt(3) * half;
      (shape.normals as number[]).push(...(smooth ? p.map((c) => c / l) : n));
      (shape.uvs as number[]).push(((k % 3) + 0.05 + 0.9 * u) / 3, (Math.floor(k / 3) + 0.05 + 0.9 * (1 - v)) / 2);
    }
    shape.indices.push(base, base + 1, base + 2, base, base + 2, base + 3);
  });
  return shape;
}

/** Bakes on this thread. */
export async function bake(
  models: Model[],
  pairings: (PairingDecision | { high: string; low: string })[],
  settings: z.input<typeof RaySettings>,
  reaches?: { outward: number; inward: number },
  textures: SourceTextures = [],
): Promise<{ maps: RayMaps; jobs: RayJob[]; faults: RayFault[] }> {
  await tangentsReady;
  const r = RaySettings.parse(settings);
  const objects = sceneObjects(models);
  const maps = emptyRayMaps(r.size, r.size, r.maps, r.bits, r.normalY === 'down');
  let islands = 0;
  const ready = pairings.map((p) => {
    const decision =
      'name' in p
        ? p
        : pairing(
            p.low,
            objects.filter((object) => object.name === p.high),
            objects.filter((object) => object.name === p.low),
          );
    const m = pairingMeshes(models, objects, {
      pairing: { ...decision, ...reaches },
      settings: r,
      size: [r.size, r.size],
      firstIsland: islands,
    });
    for (const n of m.target.island) islands = Math.max(islands, n);
    return m;
  });
  const scale = rayScale(
    ready.map((pairingMeshes) => pairingMeshes.target.mesh),
    r,
  );
  const { ids } = idsOf(
    ready.map((pairingMeshes) => pairingMeshes.high),
    r.id.by,
  );
  const jobs: RayJob[] = [];
  const scratch = new RayScratch();
  ready.forEach((pairingMeshes, i) => {
    const high = buildBvh(pairingMeshes.high.positions, pairingMeshes.high.indices);
    const low = buildBvh(pairingMeshes.target.mesh.positions, pairingMeshes.target.mesh.indices);
    const job = rayJob({
      index: i,
      pairingMeshes,
      reaches: pairingReaches(pairingMeshes, high, low),
      settings: r,
      scale,
      textures,
      ids: ids[i],
    });
    const caster = new RayCaster(high);
    const tools = { caster, ambient: caster, low: new ClosestPoint(low), unit: 1 / high.space.scale };
    const { tiles, lists, surfaceLists } = jobTiles(job, r.size, r.size);
    tiles.forEach((tile, k) => {
      castTile(job, maps, { tile, list: lists[k], surfaceList: surfaceLists[k], tools, scratch });
    });
    jobs.push(job);
  });
  markThinMargins(maps, r.margin);
  for (const map of maps.maps) if (map.kind === 'id') softenIds(maps, map, r.id.soften);
  fillMaps(maps, r.padding);
  const faults = listFaults(
    maps,
    jobs.map((j, i) => ({
      name: ready[i].pairing.name,
      target: j.target,
      density: j.density,
      mesh: [...edgeFaults(j.target, r.uvSet), ...cageFaults(j.target)],
    })),
  );
  return { maps, jobs, faults };
}

/** Values of a texel of a map, as stored. */
export function texel(maps: RayMaps, kind: string, x: number, y: number): number[] {
  const map = maps.maps.find((map) => map.kind === kind);
  if (!map) throw new Error(`no map ${kind}`);
  const o = (y * maps.width + x) * map.channels;
  return [...map.data.slice(o, o + map.channels)];
}
