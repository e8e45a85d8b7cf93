import { type Accessor, Document, type Material, type Primitive } from '@gltf-transform/core';
import { crossOf } from '../math/triangle.ts';
import { cornerVectors } from '../mesh/corner-frames.ts';
import { cornerTangents } from '../mesh/tangents.ts';
import { byteColumn, weldVertices } from '../mesh/weld.ts';
import { floatAccessor, indexAccessor } from '../scene/accessors.ts';
import type { Part } from '../scene/model.ts';
import { type LightMesh, pickedRows, usedRows } from './light-mesh.ts';

/** A document that shows one mesh, with a material of the same name and nothing on it. */
export function meshDocument(name: string, mesh: LightMesh): Document {
  const document = new Document();
  const buffer = document.createBuffer();
  const positions = floatAccessor(document, 'VEC3', mesh.positions).setBuffer(buffer);
  const indices = indexAccessor(document, mesh.indices, mesh.positions.length / 3).setBuffer(buffer);
  const primitive = document
    .createPrimitive()
    .setAttribute('POSITION', positions)
    .setIndices(indices)
    .setMaterial(document.createMaterial(name));
  const node = document.createNode(name).setMesh(document.createMesh(name).addPrimitive(primitive));
  document.getRoot().setDefaultScene(document.createScene(name).addChild(node));
  return document;
}

/**
 * Gives a mesh that was unwrapped normals: the mean of the faces around a vertex by their areas, within its chart, whose borders are split already. So no hard edge
 * is without a UV border, and what bends at a border is exact on both sides in the normal map.
 */
export function smoothWithinCharts(document: Document): void {
  for (const mesh of document.getRoot().listMeshes())
    for (const primitive of mesh.listPrimitives()) {
      const positions = (primitive.getAttribute('POSITION') as Accessor).getArray() as Float32Array;
      const indices = (primitive.getIndices() as Accessor).getArray() as Uint32Array;
      const sums = new Float64Array(positions.length);
      const n = [0, 0, 0];
      for (let i = 0; i < indices.length; i += 3) {
        crossOf(positions, indices[i], indices[i + 1], indices[i + 2], n);
        for (let c = 0; c < 9; c++) sums[indices[i + Math.floor(c / 3)] * 3 + (c % 3)] += n[c % 3];
      }
      const normals = new Float32Array(positions.length);
      for (let v = 0; v < sums.length; v += 3) {
        const length = Math.hypot(sums[v], sums[v + 1], sums[v + 2]);
        normals.set(length > 0 ? [sums[v] / length, sums[v + 1] / length, sums[v + 2] / length] : [0, 1, 0], v);
      }
      primitive.setAttribute('NORMAL', floatAccessor(document, 'VEC3', normals));
    }
}

/** A mesh with all that is drawn of it: one row a vertex. */
export interface FinishedMesh {
  positions: Float32Array;
  normals: Float32Array;
  /** x y z w, MikkTSpace on the UVs: those that the normal map was baked for. */
  tangents: Float32Array;
  uvs: Float32Array;
  indices: Uint32Array;
}

/** A part that was unwrapped, with the frames that its normal map is baked for; corners that agree in everything are one vertex. */
export function finishedMesh(part: Part): FinishedMesh {
  const { indices } = part;
  const positions = cornerVectors(part.positions, indices, 3);
  const normals = cornerVectors(part.normals as Float32Array, indices, 3);
  const uvs = cornerVectors(part.uvs[0] as Float32Array, indices, 2);
  const tangents = cornerTangents(positions, normals, uvs);
  const columns = [byteColumn(positions, 3), byteColumn(normals, 3), byteColumn(uvs, 2), byteColumn(tangents, 4)];
  const { first } = weldVertices(columns, indices.length);
  return usedPart({ positions, normals, tangents, uvs }, first);
}

/** The vertices that some triangles of a mesh use, as they are. @param indices three a triangle, into its vertices */
export const finishedLevel = (mesh: FinishedMesh, indices: Uint32Array): FinishedMesh => usedPart(mesh, indices);

function usedPart(mesh: Omit<FinishedMesh, 'indices'>, indices: Uint32Array): FinishedMesh {
  const used = usedRows(indices, mesh.positions.length / 3);
  const pick = (values: Float32Array, size: number) => pickedRows(values, size, used.rows);
  return {
    positions: pick(mesh.positions, 3),
    normals: pick(mesh.normals, 3),
    tangents: pick(mesh.tangents, 4),
    uvs: pick(mesh.uvs, 2),
    indices: used.indices,
  };
}

/** A mesh as a primitive of a document. */
export function finishedPrimitive(document: Document, mesh: FinishedMesh, material: Material): Primitive {
  const [buffer = document.createBuffer()] = document.getRoot().listBuffers();
  const put = (type: 'VEC2' | 'VEC3' | 'VEC4', values: Float32Array): Accessor =>
    floatAccessor(document, type, values).setBuffer(buffer);
  return document
    .createPrimitive()
    .setAttribute('POSITION', put('VEC3', mesh.positions))
    .setAttribute('NORMAL', put('VEC3', mesh.normals))
    .setAttribute('TANGENT', put('VEC4', mesh.tangents))
    .setAttribute('TEXCOORD_0', put('VEC2', mesh.uvs))
    .setIndices(indexAccessor(document, mesh.indices, mesh.positions.length / 3).setBuffer(buffer))
    .setMaterial(material);
}
