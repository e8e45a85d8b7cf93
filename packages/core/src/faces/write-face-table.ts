import { type Accessor, type Document, type Material, Primitive, type PrimitiveTarget } from '@gltf-transform/core';
import { floatAccessor, indexAccessor } from '../scene/accessors.ts';
import type { FaceTable } from './face-table.ts';

/** Where the faces of a written primitive come from: number of the part among the face table's, and face of that part. */
export interface WrittenPrimitive {
  primitive: Primitive;
  part: Uint32Array;
  face: Uint32Array;
}

/** Faces of one slot whose vertices hold the same kinds of data: one primitive. */
interface Bucket {
  material: Material | null;
  /** Without vertex colours. */
  plain: boolean;
  /** Faces of the face table. */
  faces: number[];
  /** Vertices: part of the face table, row of its accessors. */
  parts: number[];
  rows: number[];
  /** Corners (face · 3 + k) that stand for the vertices' UVs. */
  corners: number[];
  indices: number[];
  /** Last vertex that was made of each vertex of the face table, and the one before each. */
  heads: Map<number, number>;
  next: number[];
}

const newBucket = (material: Material | null, plain: boolean): Bucket => ({
  material,
  plain,
  faces: [],
  parts: [],
  rows: [],
  corners: [],
  indices: [],
  heads: new Map(),
  next: [],
});

/**
 * Puts what was changed back into the document: each slot's faces become one primitive of the mesh, vertices are split where UVs ask for it, all
 * else is kept as it was stored. Tangents go where UVs of set 0 or normals were written, since they belong to the old ones.
 * @param material of each slot
 */
export function writeFaceTable(
  document: Document,
  table: FaceTable,
  material: (slot: number) => Material | null,
): WrittenPrimitive[] {
  const kinds = table.parts.map((p) =>
    [false, true].map((plain) => kindOf(p.primitive, plain, table.normals !== null)),
  );
  const order = new Map<string, Bucket>();
  const sets = table.uvs.flatMap((uv) => (uv ? [uv] : []));
  const n = table.normals;
  const alike = (c: number, d: number) =>
    sets.every((uv) => uv[2 * c] === uv[2 * d] && uv[2 * c + 1] === uv[2 * d + 1]) &&
    (!n || (n[3 * c] === n[3 * d] && n[3 * c + 1] === n[3 * d + 1] && n[3 * c + 2] === n[3 * d + 2]));
  table.parts.forEach((part, p) => {
    const end = table.starts[p + 1] ?? table.faces;
    for (let f = table.starts[p]; f < end; f++) {
      // Morph targets stay with the vertices that they belong to.
      const apart = part.primitive.listTargets().length > 0 ? ` ${p}` : '';
      const name = `${table.slots[f]} ${kinds[p][table.plain[f]]}${apart}`;
      let b = order.get(name);
      if (!b) {
        b = newBucket(material(table.slots[f]), table.plain[f] === 1);
        order.set(name, b);
      }
      b.faces.push(f);
      for (let k = 0; k < 3; k++) {
        const corner = f * 3 + k;
        const vertex = table.indices[corner];
        // Vertices of one source vertex are chained; each has other UVs.
        const head = b.heads.get(vertex) ?? -1;
        let at = head;
        while (at >= 0 && !alike(b.corners[at], corner)) at = b.next[at];
        if (at < 0) {
          at = b.rows.length;
          b.heads.set(vertex, at);
          b.next.push(head);
          b.parts.push(p);
          b.rows.push(part.indices[(f - table.starts[p]) * 3 + k]);
          b.corners.push(corner);
        }
        b.indices.push(at);
      }
    }
  });
  const old = new Set(table.parts.map((p) => p.primitive));
  const out = [...order.values()].map((b) => writeBucket(document, table, b));
  for (const p of old) {
    table.mesh.removePrimitive(p);
    p.dispose();
  }
  return out;
}

/** Primitives of one kind can become one. @param plain without vertex colours @param normals they are written again */
function kindOf(p: Primitive, plain: boolean, normals: boolean): string {
  const semantics = p
    .listSemantics()
    .filter(
      (s) =>
        !s.startsWith('TEXCOORD_') &&
        s !== 'TANGENT' &&
        !(normals && s === 'NORMAL') &&
        !(plain && s.startsWith('COLOR_')),
    )
    .map((s) => {
      const a = p.getAttribute(s) as Accessor;
      return `${s} ${a.getType()} ${a.getComponentType()} ${a.getNormalized()}`;
    });
  return `${semantics.sort().join()} ${p.listExtensions().map((e) => e.extensionName)} ${JSON.stringify(p.getExtras())}`;
}

function writeBucket(document: Document, table: FaceTable, b: Bucket): WrittenPrimitive {
  const source = table.parts[b.parts[0]].primitive;
  const to = document.createPrimitive().setMaterial(b.material).setMode(Primitive.Mode.TRIANGLES);
  to.setName(source.getName());
  to.setExtras(source.getExtras());
  for (const e of source.listExtensions()) to.setExtension(e.extensionName, e);
  const tangents =
    b.parts.every((p) => table.parts[p].primitive.getAttribute('TANGENT')) && !table.wroteUv.has(0) && !table.normals;
  for (const s of source.listSemantics())
    if (
      !s.startsWith('TEXCOORD_') &&
      (s !== 'NORMAL' || !table.normals) &&
      (s !== 'TANGENT' || tangents) &&
      !(b.plain && s.startsWith('COLOR_'))
    )
      to.setAttribute(
        s,
        rowsOf(document, b, (p) => table.parts[p].primitive.getAttribute(s)),
      );
  table.uvs.forEach((uv, set) => {
    const here = uv && (table.wroteUv.has(set) || b.parts.some((p) => table.parts[p].uvs[set]));
    if (!uv || !here) return;
    const values = new Float32Array(b.corners.length * 2);
    b.corners.forEach((c, i) => {
      values[2 * i] = uv[2 * c];
      values[2 * i + 1] = uv[2 * c + 1];
    });
    to.setAttribute(`TEXCOORD_${set}`, floatAccessor(document, 'VEC2', values));
  });
  const { normals } = table;
  if (normals) {
    const values = new Float32Array(b.corners.length * 3);
    b.corners.forEach((c, i) => {
      values.set(normals.subarray(3 * c, 3 * c + 3), 3 * i);
    });
    to.setAttribute('NORMAL', floatAccessor(document, 'VEC3', values));
  }
  source.listTargets().forEach((target, t) => {
    const copy = document.createPrimitiveTarget(target.getName());
    for (const s of target.listSemantics())
      if (s !== 'TANGENT' || tangents)
        copy.setAttribute(
          s,
          rowsOf(document, b, (p) => (table.parts[p].primitive.listTargets()[t] as PrimitiveTarget).getAttribute(s)),
        );
    to.addTarget(copy);
  });
  to.setIndices(indexAccessor(document, Uint32Array.from(b.indices), b.rows.length));
  table.mesh.addPrimitive(to);
  const part = new Uint32Array(b.faces.length);
  const face = new Uint32Array(b.faces.length);
  b.faces.forEach((f, i) => {
    let p = table.starts.length - 1;
    while (table.starts[p] > f) p--;
    part[i] = p;
    face[i] = f - table.starts[p];
  });
  return { primitive: to, part, face };
}

/** Rows of accessors of one type, gathered from several parts. */
function rowsOf(document: Document, b: Bucket, accessorOf: (part: number) => Accessor | null): Accessor {
  const first = accessorOf(b.parts[0]) as Accessor;
  const size = first.getElementSize();
  const like = first.getArray() as Float32Array;
  const values = new (like.constructor as new (n: number) => Float32Array)(b.rows.length * size);
  b.rows.forEach((row, i) => {
    const from = accessorOf(b.parts[i])?.getArray();
    if (!from) return;
    for (let k = 0; k < size; k++) values[i * size + k] = from[row * size + k];
  });
  return document
    .createAccessor(first.getName())
    .setType(first.getType())
    .setNormalized(first.getNormalized())
    .setArray(values as Float32Array<ArrayBuffer>);
}
