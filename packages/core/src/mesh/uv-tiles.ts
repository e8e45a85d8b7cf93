import type { Accessor, Material, Mesh, Primitive } from '@gltf-transform/core';
import type { Box2 } from '../math/box.ts';
import { floatAccessor, indexAccessor, pickRows } from '../scene/accessors.ts';
import { type Model, type Part, surfaceScale } from '../scene/model.ts';
import { trianglesByIsland, uvIslands } from './islands.ts';

/** A UV tile of a slot: the unit square whose upper left is (u, v), V down. */
interface UvTile {
  slot: string;
  u: number;
  v: number;
  /** 1001 for the tile at (0, 0), one more for each to the right, ten more for each row up. */
  number: number;
  triangles: number;
  /** px per metre at a side in px, by the areas of all its faces; null without area. */
  density: number | null;
}

/** Tiles of a slot and how unlike they are: 1 where all have one density. What is above shows as a seam between tiles. */
export interface SlotTiles {
  slot: string;
  tiles: UvTile[];
  unevenness: number;
}

/** Number of the UV tile whose upper left is (u, v), V down; see `UvTile`. */
export const tileNumber = (u: number, v: number): number => 1001 + u - 10 * v;

/** Share of a tile by which an island may reach over its border and still belong to it. */
const OVER = 1e-4;

/** The tile that an island belongs to: that in which the middle of its box lies. */
export const tileOf = ([x0, x1, y0, y1]: Readonly<Box2>): [u: number, v: number] => [
  Math.floor((x0 + x1) / 2),
  Math.floor((y0 + y1) / 2),
];

/** A coordinate moved by its tile into 0–1: a border that a float put a hair beyond stays on the border, what reaches further stays beyond it. */
export function withinTile(value: number, tile: number): number {
  const x = value - tile;
  return x > -OVER && x < 0 ? 0 : x > 1 && x < 1 + OVER ? 1 : x;
}

/** Tile of each triangle of a part: that in which the middle of its island's box lies. */
function tileOfTriangles(part: Part, uv: Float32Array): [number, number][] {
  const out: [number, number][] = new Array(part.indices.length / 3);
  for (const triangles of trianglesByIsland(uvIslands(part.indices, part.positions, uv))) {
    const low = [Infinity, Infinity];
    const high = [-Infinity, -Infinity];
    for (const triangle of triangles)
      for (let k = 0; k < 3; k++)
        for (let c = 0; c < 2; c++) {
          const x = uv[2 * part.indices[triangle * 3 + k] + c];
          low[c] = Math.min(low[c], x);
          high[c] = Math.max(high[c], x);
        }
    const tile = tileOf([low[0], high[0], low[1], high[1]]);
    for (const triangle of triangles) out[triangle] = tile;
  }
  return out;
}

/**
 * The UV tiles of a model's slots in set 0; slots on one tile alone are left out.
 * @param side px of the texture of one tile, for densities
 */
export function uvTilesOf(model: Model, side: number): SlotTiles[] {
  const found = new Map<
    number,
    Map<string, { tile: [number, number]; triangles: number; flat: number; world: number }>
  >();
  for (const part of model.parts) {
    const uv = part.uvs[0];
    if (!uv || part.mode < 4) continue;
    const tiles = tileOfTriangles(part, uv);
    const scale = surfaceScale(part);
    const slot = found.get(part.slot) ?? new Map();
    found.set(part.slot, slot);
    tiles.forEach((tile, t) => {
      const key = tile.join();
      const sum = slot.get(key) ?? { tile, triangles: 0, flat: 0, world: 0 };
      slot.set(key, sum);
      sum.triangles++;
      const { flat, world } = areasOf(part, uv, t);
      sum.flat += flat;
      sum.world += world * scale * scale;
    });
  }
  return [...found].flatMap(([s, sums]) => {
    if (sums.size < 2) return [];
    const slot = model.slots[s].name;
    const tiles = [...sums.values()]
      .map(({ tile: [u, v], triangles, flat, world }): UvTile => {
        const density = world > 0 && flat > 0 ? Math.sqrt(flat / world) * side : null;
        return { slot, u, v, number: tileNumber(u, v), triangles, density };
      })
      .sort((a, b) => a.number - b.number);
    const densities = tiles.flatMap((tile) => (tile.density === null ? [] : [tile.density]));
    return [{ slot, tiles, unevenness: densities.length > 0 ? Math.max(...densities) / Math.min(...densities) : 1 }];
  });
}

function areasOf(part: Part, uv: Float32Array, t: number): { flat: number; world: number } {
  const [a, b, c] = [0, 1, 2].map((k) => part.indices[t * 3 + k]);
  const positions = part.positions;
  const e = [0, 1, 2].map((k) => positions[3 * b + k] - positions[3 * a + k]);
  const f = [0, 1, 2].map((k) => positions[3 * c + k] - positions[3 * a + k]);
  const cross = [e[1] * f[2] - e[2] * f[1], e[2] * f[0] - e[0] * f[2], e[0] * f[1] - e[1] * f[0]];
  const flat =
    (uv[2 * b] - uv[2 * a]) * (uv[2 * c + 1] - uv[2 * a + 1]) -
    (uv[2 * c] - uv[2 * a]) * (uv[2 * b + 1] - uv[2 * a + 1]);
  return { flat: Math.abs(flat) / 2, world: Math.sqrt(cross[0] ** 2 + cross[1] ** 2 + cross[2] ** 2) / 2 };
}

/**
 * Gives every UV tile a slot of its own, called after its number, with its UVs moved into 0–1, in the model's document, which is to be read
 * again afterwards. Slots on one tile alone are moved there and keep their name. UVs that reach over a tile's border stay as they are beyond it.
 * @returns how many slots there are more
 */
export function tilesApart(model: Model): number {
  const made = new Map<string, Material>();
  const split = new Set(uvTilesOf(model, 1).map((slotTiles) => slotTiles.slot));
  const seen = new Set<Primitive>();
  for (const part of model.parts) {
    const uv = part.uvs[0];
    const { primitive } = part;
    if (!uv || part.mode < 4 || seen.has(primitive) || primitive.listTargets().length > 0) continue;
    seen.add(primitive);
    const tiles = tileOfTriangles(part, uv);
    const groups = new Map<string, { tile: [number, number]; triangles: number[] }>();
    tiles.forEach((tile, t) => {
      const group = groups.get(tile.join()) ?? { tile, triangles: [] };
      groups.set(tile.join(), group);
      group.triangles.push(t);
    });
    const { name, material } = model.slots[part.slot];
    for (const { tile, triangles } of groups.values()) {
      let own = material;
      if (split.has(name) && material) {
        const key = `${name} ${tile.join()}`;
        own = made.get(key) ?? material.clone().setName(`${name}_${tileNumber(...tile)}`);
        made.set(key, own);
      }
      addMoved(model, part.mesh, primitive, part, triangles, tile, own);
    }
    part.mesh.removePrimitive(primitive);
    primitive.dispose();
  }
  return Math.max(0, made.size - split.size);
}

function addMoved(
  model: Model,
  mesh: Mesh,
  from: Primitive,
  part: Part,
  triangles: readonly number[],
  [u, v]: [number, number],
  material: Material | null,
): void {
  const { document } = model;
  const at = new Map<number, number>();
  const rows: number[] = [];
  const indices = triangles.flatMap((triangle) =>
    [0, 1, 2].map((k) => {
      const vertex = part.indices[triangle * 3 + k];
      let n = at.get(vertex);
      if (n === undefined) {
        n = rows.push(vertex) - 1;
        at.set(vertex, n);
      }
      return n;
    }),
  );
  const list = Uint32Array.from(rows);
  const to = document.createPrimitive().setMaterial(material).setMode(4);
  for (const text of from.listSemantics())
    to.setAttribute(text, pickRows(document, from.getAttribute(text) as Accessor, list));
  const uv = part.uvs[0] as Float32Array;
  const moved = Float32Array.from({ length: rows.length * 2 }, (_, i) =>
    withinTile(uv[2 * rows[i >> 1] + (i & 1)], i & 1 ? v : u),
  );
  to.setAttribute('TEXCOORD_0', floatAccessor(document, 'VEC2', moved));
  to.setIndices(indexAccessor(document, Uint32Array.from(indices), rows.length));
  mesh.addPrimitive(to);
}
