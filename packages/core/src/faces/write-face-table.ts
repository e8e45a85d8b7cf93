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
  const kinds = table.parts.map((part) =>
    [false, true].map((plain) => kindOf(part.primitive, plain, table.normals !== null)),
  );
  const order = new Map<string, Bucket>();
  const sets = table.uvs.flatMap((uv) => (uv ? [uv] : []));
  const normals = table.normals;
  const alike = (c: number, d: number) =>
    sets.every((uv) => uv[2 * c] === uv[2 * d] && uv[2 * c + 1] === uv[2 * d + 1]) &&
    (!normals ||
      (normals[3 * c] === normals[3 * d] &&
        normals[3 * c + 1] === normals[3 * d + 1] &&
        normals[3 * c + 2] === normals[3 * d + 2]));
  table.parts.forEach((part, p) => {
    const end = table.starts[p + 1] ?? table.faces;
    for (let f = table.starts[p]; f < end; f++) {
      // Morph targets stay with the vertices that they belong to.
      const apart = part.primitive.listTargets().length > 0 ? ` ${p}` : '';
      const name = `${table.slots[f]} ${kinds[p][table.plain[f]]}${apart}`;
      let bucket = order.get(name);
      if (!bucket) {
        bucket = newBucket(material(table.slots[f]), table.plain[f] === 1);
        order.set(name, bucket);
      }
      bucket.faces.push(f);
      for (let k = 0; k < 3; k++) {
        const corner = f * 3 + k;
        const vertex = table.indices[corner];
        // Vertices of one source vertex are chained; each has other UVs.
        const head = bucket.heads.get(vertex) ?? -1;
        let at = head;
        while (at >= 0 && !alike(bucket.corners[at], corner)) at = bucket.next[at];
        if (at < 0) {
          at = bucket.rows.length;
          bucket.heads.set(vertex, at);
          bucket.next.push(head);
          bucket.parts.push(p);
          bucket.rows.push(part.indices[(f - table.starts[p]) * 3 + k]);
          bucket.corners.push(corner);
        }
        bucket.indices.push(at);
      }
    }
  });
  const old = new Set(table.parts.map((part) => part.primitive));
  const out = [...order.values()].map((bucket) => writeBucket(document, table, bucket));
  for (const primitive of old) {
    table.mesh.removePrimitive(primitive);
    primitive.dispose();
  }
  return out;
}

/** Primitives of one kind can become one. @param plain without vertex colours @param normals they are written again */
function kindOf(primitive: Primitive, plain: boolean, normals: boolean): string {
  const semantics = primitive
    .listSemantics()
    .filter(
      (text) =>
        !text.startsWith('TEXCOORD_') &&
        text !== 'TANGENT' &&
        !(normals && text === 'NORMAL') &&
        !(plain && text.startsWith('COLOR_')),
    )
    .map((text) => {
      const accessor = primitive.getAttribute(text) as Accessor;
      return `${text} ${accessor.getType()} ${accessor.getComponentType()} ${accessor.getNormalized()}`;
    });
  return `${semantics.sort().join()} ${primitive.listExtensions().map((extension) => extension.extensionName)} ${JSON.stringify(primitive.getExtras())}`;
}

function writeBucket(document: Document, table: FaceTable, bucket: Bucket): WrittenPrimitive {
  const source = table.parts[bucket.parts[0]].primitive;
  const to = document.createPrimitive().setMaterial(bucket.material).setMode(Primitive.Mode.TRIANGLES);
  to.setName(source.getName());
  to.setExtras(source.getExtras());
  for (const extension of source.listExtensions()) to.setExtension(extension.extensionName, extension);
  const tangents =
    bucket.parts.every((part) => table.parts[part].primitive.getAttribute('TANGENT')) &&
    !table.wroteUv.has(0) &&
    !table.normals;
  for (const text of source.listSemantics())
    if (
      !text.startsWith('TEXCOORD_') &&
      (text !== 'NORMAL' || !table.normals) &&
      (text !== 'TANGENT' || tangents) &&
      !(bucket.plain && text.startsWith('COLOR_'))
    )
      to.setAttribute(
        text,
        rowsOf(document, bucket, (p) => table.parts[p].primitive.getAttribute(text)),
      );
  table.uvs.forEach((uv, set) => {
    const here = uv && (table.wroteUv.has(set) || bucket.parts.some((part) => table.parts[part].uvs[set]));
    if (!uv || !here) return;
    const values = new Float32Array(bucket.corners.length * 2);
    bucket.corners.forEach((corner, i) => {
      values[2 * i] = uv[2 * corner];
      values[2 * i + 1] = uv[2 * corner + 1];
    });
    to.setAttribute(`TEXCOORD_${set}`, floatAccessor(document, 'VEC2', values));
  });
  const { normals } = table;
  if (normals) {
    const values = new Float32Array(bucket.corners.length * 3);
    bucket.corners.forEach((corner, i) => {
      values.set(normals.subarray(3 * corner, 3 * corner + 3), 3 * i);
    });
    to.setAttribute('NORMAL', floatAccessor(document, 'VEC3', values));
  }
  source.listTargets().forEach((target, t) => {
    const copy = document.createPrimitiveTarget(target.getName());
    for (const text of target.listSemantics())
      if (text !== 'TANGENT' || tangents)
        copy.setAttribute(
          text,
          rowsOf(document, bucket, (p) =>
            (table.parts[p].primitive.listTargets()[t] as PrimitiveTarget).getAttribute(text),
          ),
        );
    to.addTarget(copy);
  });
  to.setIndices(indexAccessor(document, Uint32Array.from(bucket.indices), bucket.rows.length));
  table.mesh.addPrimitive(to);
  const part = new Uint32Array(bucket.faces.length);
  const face = new Uint32Array(bucket.faces.length);
  bucket.faces.forEach((f, i) => {
    let p = table.starts.length - 1;
    while (table.starts[p] > f) p--;
    part[i] = p;
    face[i] = f - table.starts[p];
  });
  return { primitive: to, part, face };
}

/** Rows of accessors of one type, gathered from several parts. */
function rowsOf(document: Document, bucket: Bucket, accessorOf: (part: number) => Accessor | null): Accessor {
  const first = accessorOf(bucket.parts[0]) as Accessor;
  const size = first.getElementSize();
  const like = first.getArray() as Float32Array;
  const values = new (like.constructor as new (n: number) => Float32Array)(bucket.rows.length * size);
  bucket.rows.forEach((row, i) => {
    const from = accessorOf(bucket.parts[i])?.getArray();
    if (!from) return;
    for (let k = 0; k < size; k++) values[i * size + k] = from[row * size + k];
  });
  return document
    .createAccessor(first.getName())
    .setType(first.getType())
    .setNormalized(first.getNormalized())
    .setArray(values as Float32Array<ArrayBuffer>);
}
