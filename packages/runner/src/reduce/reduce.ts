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
    .flatMap((m) => m.listPrimitives())
    .filter((p) => p.getMode() >= 4)
    .map((p) => {
      const position = p.getAttribute('POSITION') as Accessor;
      const stored = p.getIndices()?.getArray() ?? null;
      return { p, position, indices: triangleIndices(stored, position.getCount(), p.getMode()) };
    });
  const drawn = work.reduce((sum, w) => sum + (w.indices.length / 3) * instances(w.p), 0);
  if (drawn <= target) return;
  for (const { p, position, indices } of work) {
    const wanted = Math.max(3, Math.floor((indices.length * target) / drawn / 3) * 3);
    const points = readFloats(position);
    let [fewer] = MeshoptSimplifier.simplify(indices, points, 3, wanted, 1, ['Permissive']);
    // Shells of unshared triangles hold out against collapsing edges.
    if (fewer.length > wanted * 1.1) [fewer] = MeshoptSimplifier.simplifySloppy(indices, points, 3, null, wanted, 1);
    compact(document, p, fewer);
  }
}

/** Keeps the vertices that the new triangles use. */
export function compact(document: Document, p: Primitive, indices: Uint32Array): void {
  const count = (p.getAttribute('POSITION') as Accessor).getCount();
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
  for (const semantic of p.listSemantics()) p.setAttribute(semantic, pick(p.getAttribute(semantic) as Accessor));
  for (const t of p.listTargets())
    for (const semantic of t.listSemantics()) t.setAttribute(semantic, pick(t.getAttribute(semantic) as Accessor));
  p.setMode(4).setIndices(
    document
      .createAccessor()
      .setType('SCALAR')
      .setArray(out)
      .setBuffer(document.getRoot().listBuffers()[0] ?? null),
  );
}
