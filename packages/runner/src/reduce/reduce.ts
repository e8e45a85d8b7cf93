import type { Accessor, Document, Primitive, TypedArray } from '@gltf-transform/core';
import { readFloats, triangleIndices } from '@wembrel/core/scene/attributes';
import { MeshoptSimplifier } from 'meshoptimizer/simplifier';

/** Triangles that a picture of a model may have before a reduced copy is made for it. */
export const PREVIEW_TRIANGLES = 100_000;

/**
 * Reduces all triangle meshes of a document, in place, to about `target` triangles in the scene, each in proportion; slots,
 * parts and attributes stay. For looking at, not for handing over.
 *
 * @param instances how often each mesh is drawn
 */
export async function reduceForPreview(
  document: Document,
  target: number,
  instances: (primitive: Primitive) => number,
): Promise<void> {
  await MeshoptSimplifier.ready;
  const work = document
    .getRoot()
    .listMeshes()
    .flatMap((mesh) => mesh.listPrimitives())
    .filter((primitive) => primitive.getMode() >= 4)
    .map((primitive) => {
      const position = primitive.getAttribute('POSITION') as Accessor;
      const stored = primitive.getIndices()?.getArray() ?? null;
      return { p: primitive, position, indices: triangleIndices(stored, position.getCount(), primitive.getMode()) };
    });
  const drawn = work.reduce((sum, w) => sum + (w.indices.length / 3) * instances(w.p), 0);
  if (drawn <= target) return;
  for (const { p: primitive, position, indices } of work) {
    const wanted = Math.max(3, Math.floor((indices.length * target) / drawn / 3) * 3);
    const points = readFloats(position);
    let [fewer] = MeshoptSimplifier.simplify(indices, points, 3, wanted, 1, ['Permissive']);
    // Shells of unshared triangles hold out against collapsing edges.
    if (fewer.length > wanted * 1.1) [fewer] = MeshoptSimplifier.simplifySloppy(indices, points, 3, null, wanted, 1);
    compact(document, primitive, fewer);
  }
}

/** Keeps the vertices that the new triangles use. */
export function compact(document: Document, primitive: Primitive, indices: Uint32Array): void {
  const count = (primitive.getAttribute('POSITION') as Accessor).getCount();
  const place = new Int32Array(count).fill(-1);
  const rows: number[] = [];
  const out = Uint32Array.from(indices, (v) => {
    if (place[v] < 0) {
      place[v] = rows.length;
      rows.push(v);
    }
    return place[v];
  });
  const pick = (accessor: Accessor): Accessor => {
    const source = accessor.getArray() as TypedArray;
    const size = accessor.getElementSize();
    const array = new (source.constructor as new (n: number) => TypedArray)(rows.length * size);
    rows.forEach((row, i) => {
      for (let k = 0; k < size; k++) array[i * size + k] = source[row * size + k];
    });
    return document
      .createAccessor()
      .setType(accessor.getType())
      .setNormalized(accessor.getNormalized())
      .setArray(array)
      .setBuffer(accessor.getBuffer());
  };
  for (const semantic of primitive.listSemantics())
    primitive.setAttribute(semantic, pick(primitive.getAttribute(semantic) as Accessor));
  for (const target of primitive.listTargets())
    for (const semantic of target.listSemantics())
      target.setAttribute(semantic, pick(target.getAttribute(semantic) as Accessor));
  primitive.setMode(4).setIndices(
    document
      .createAccessor()
      .setType('SCALAR')
      .setArray(out)
      .setBuffer(document.getRoot().listBuffers()[0] ?? null),
  );
}
