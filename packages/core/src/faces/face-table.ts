import type { Material, Mesh } from '@gltf-transform/core';
import { crossOf } from '../math/triangle.ts';
import { type Surface, surfaceOf } from '../mesh/surface.ts';
import { type Model, type Part, surfaceScale } from '../scene/model.ts';

/** All triangles of a mesh in one table, whatever slots they have: what edits of faces work on. */
export interface FaceTable {
  mesh: Mesh;
  name: string;
  /** Its parts that draw triangles, and the first face of each. */
  parts: Part[];
  starts: number[];
  faces: number;
  /** Vertices of all parts, (x, y, z), m. */
  positions: Float32Array;
  /** Three vertices a face. */
  indices: Uint32Array;
  /** (u, v) of each corner in each UV set, V down; null where no part has the set. */
  uvs: (Float32Array | null)[];
  /** Normal of each corner, three numbers; null as long as those of the source do. */
  normals: Float32Array | null;
  /** Slot of each face, a position in the table of slots. */
  slots: Int32Array;
  /** Faces that are painted plain: their vertex colours go, which would tint them. */
  plain: Uint8Array;
  /** Local to scene, see `surfaceScale`. */
  scale: number;
  /** UV sets that were written, and whether slots were. */
  wroteUv: Set<number>;
  wroteSlots: boolean;
}

/** Some faces of a face table, ascending. */
export interface Chosen {
  table: FaceTable;
  faces: Uint32Array;
}

/** @param slot number of a material in the table of slots */
export function faceTables(model: Model, slot: (material: Material | null) => number): FaceTable[] {
  const byMesh = new Map<Mesh, Part[]>();
  for (const part of model.parts) {
    if (part.mode < 4 || part.indices.length === 0) continue;
    byMesh.set(part.mesh, [...(byMesh.get(part.mesh) ?? []), part]);
  }
  return [...byMesh].map(([mesh, parts]) => {
    const vertices = parts.reduce((sum, part) => sum + part.positions.length, 0);
    const corners = parts.reduce((sum, part) => sum + part.indices.length, 0);
    const positions = new Float32Array(vertices);
    const indices = new Uint32Array(corners);
    const slots = new Int32Array(corners / 3);
    const sets = Math.max(0, ...parts.map((part) => part.uvs.length));
    const uvs = Array.from({ length: sets }, (_, s) =>
      parts.some((part) => part.uvs[s]) ? new Float32Array(corners * 2) : null,
    );
    const starts: number[] = [];
    let [vertex, corner] = [0, 0];
    for (const part of parts) {
      starts.push(corner / 3);
      positions.set(part.positions, vertex * 3);
      slots.fill(slot(model.slots[part.slot].material), corner / 3, (corner + part.indices.length) / 3);
      for (let i = 0; i < part.indices.length; i++) indices[corner + i] = part.indices[i] + vertex;
      uvs.forEach((to, s) => {
        const from = part.uvs[s];
        if (!to || !from) return;
        for (let i = 0; i < part.indices.length; i++) {
          to[2 * (corner + i)] = from[2 * part.indices[i]];
          to[2 * (corner + i) + 1] = from[2 * part.indices[i] + 1];
        }
      });
      vertex += part.positions.length / 3;
      corner += part.indices.length;
    }
    return {
      mesh,
      name: parts[0].name,
      parts,
      starts,
      faces: corners / 3,
      positions,
      indices,
      uvs,
      normals: null,
      slots,
      plain: new Uint8Array(corners / 3),
      scale: surfaceScale(parts[0]),
      wroteUv: new Set<number>(),
      wroteSlots: false,
    };
  });
}

/** The UVs of a set, to be written; sets below are there then as well, at 0. */
export function writableUv(table: FaceTable, set: number): Float32Array {
  for (let s = 0; s <= set; s++) {
    if (table.uvs[s]) continue;
    table.uvs[s] = new Float32Array(table.faces * 6);
    table.wroteUv.add(s);
  }
  table.wroteUv.add(set);
  return table.uvs[set] as Float32Array;
}

/** The normals, to be written: at first those of the source, or of the faces where it has none. */
export function writableNormals(table: FaceTable): Float32Array {
  if (table.normals) return table.normals;
  const out = new Float32Array(table.faces * 9);
  const face = [0, 0, 0];
  table.parts.forEach((part, p) => {
    const start = table.starts[p];
    for (let i = 0; i < part.indices.length; i++) {
      const corner = start * 3 + i;
      if (part.normals) for (let k = 0; k < 3; k++) out[corner * 3 + k] = part.normals[part.indices[i] * 3 + k];
      else {
        if (i % 3 === 0) {
          const cross = crossOf(part.positions, part.indices[i], part.indices[i + 1], part.indices[i + 2], face);
          for (let k = 0; k < 3; k++) face[k] = cross > 0 ? face[k] / cross : Number(k === 1);
        }
        out.set(face, corner * 3);
      }
    }
  });
  table.normals = out;
  return out;
}

/** Vertices of the corners of some faces. */
export function cornersOf({ table, faces }: Chosen): Uint32Array {
  const out = new Uint32Array(faces.length * 3);
  faces.forEach((face, i) => {
    for (let k = 0; k < 3; k++) out[i * 3 + k] = table.indices[face * 3 + k];
  });
  return out;
}

/** Chosen faces as a surface; its triangle i is face `faces[i]`. */
export const surfaceOfChosen = (chosen: Chosen): Surface => surfaceOf(chosen.table.positions, cornersOf(chosen));

/** Whether all chosen faces have UVs in a set. */
export function hasUv({ table, faces }: Chosen, set: number): boolean {
  if (!table.uvs[set]) return false;
  const bare = table.parts.map((part) => !part.uvs[set] && !table.wroteUv.has(set));
  return !bare.some(
    (none, i) => none && faces.some((face) => face >= table.starts[i] && face < (table.starts[i + 1] ?? table.faces)),
  );
}
