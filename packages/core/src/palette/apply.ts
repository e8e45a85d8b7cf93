import type { Accessor, Document, Material, Primitive } from '@gltf-transform/core';
import { floatAccessor, indexAccessor, pickRows } from '../scene/accessors.ts';
import type { Part } from '../scene/model.ts';
import type { SwatchPlace } from './palette.ts';

/** What a part on a palette keeps beside its UVs. */
const KEPT = /^(POSITION|NORMAL|JOINTS_\d+|WEIGHTS_\d+)$/;

/**
 * Moves faces of a part onto swatches: each gets the middle of its swatch as its UV and the palette's material; vertex colours, tangents and
 * other UVs go. Faces without a swatch stay in a primitive of their own, as they were. Parts of one mesh that now look alike become one.
 * @param swatch of each face, −1 for none
 * @returns how many faces were moved
 */
export function applySwatches(
  document: Document,
  part: Part,
  swatch: Int32Array,
  places: readonly SwatchPlace[],
  material: Material,
): number {
  const { primitive, mesh } = part;
  const kept: number[] = [];
  const rows: number[] = [];
  const uv: number[] = [];
  const indices: number[] = [];
  const known = new Map<string, number>();
  for (let t = 0; t < swatch.length; t++)
    for (let k = 0; k < 3; k++) {
      const v = part.indices[t * 3 + k];
      if (swatch[t] < 0) {
        kept.push(v);
        continue;
      }
      const key = `${v} ${swatch[t]}`;
      let at = known.get(key);
      if (at === undefined) {
        at = rows.push(v) - 1;
        known.set(key, at);
        const { u, v: down } = places[swatch[t]];
        uv.push(u, down);
      }
      indices.push(at);
    }
  if (indices.length === 0) return 0;
  const list = Uint32Array.from(rows);
  const target = document.createPrimitive().setMaterial(material).setMode(4);
  for (const semantic of primitive.listSemantics())
    if (KEPT.test(semantic))
      target.setAttribute(semantic, pickRows(document, primitive.getAttribute(semantic) as Accessor, list));
  target.setAttribute('TEXCOORD_0', floatAccessor(document, 'VEC2', Float32Array.from(uv)));
  target.setIndices(indexAccessor(document, Uint32Array.from(indices), rows.length));
  if (kept.length === 0) {
    mesh.removePrimitive(primitive);
    primitive.dispose();
  } else {
    const all = primitive.getAttribute('POSITION') as Accessor;
    primitive.setIndices(indexAccessor(document, Uint32Array.from(kept), all.getCount()));
    primitive.setMode(4);
  }
  const alike = mesh
    .listPrimitives()
    .find(
      (primitive) =>
        primitive.getMaterial() === material &&
        sameSemantics(primitive, target) &&
        primitive.listTargets().length === 0,
    );
  if (alike) {
    append(document, alike, target);
    target.dispose();
  } else mesh.addPrimitive(target);
  return indices.length / 3;
}

function sameSemantics(primitive: Primitive, b: Primitive): boolean {
  const of = (p: Primitive) =>
    p
      .listSemantics()
      .map(
        (text) =>
          `${text} ${(p.getAttribute(text) as Accessor).getComponentType()} ${(p.getAttribute(text) as Accessor).getNormalized()}`,
      )
      .sort()
      .join();
  return of(primitive) === of(b);
}

/** Adds the faces of one primitive to another. */
function append(document: Document, to: Primitive, from: Primitive): void {
  const before = (to.getAttribute('POSITION') as Accessor).getCount();
  const more = (from.getAttribute('POSITION') as Accessor).getCount();
  for (const text of to.listSemantics()) {
    const [accessor, b] = [to.getAttribute(text) as Accessor, from.getAttribute(text) as Accessor];
    const [x, y] = [accessor.getArray(), b.getArray()];
    if (!x || !y) continue;
    const joined = new (x.constructor as new (n: number) => typeof x)(x.length + y.length);
    joined.set(x);
    joined.set(y, x.length);
    to.setAttribute(text, accessor.clone().setArray(joined));
  }
  const [p, q] = [to.getIndices(), from.getIndices()];
  const shifted = Array.from(q?.getArray() ?? new Uint32Array(0), (v: number) => v + before);
  const indices = Uint32Array.from([...(p?.getArray() ?? []), ...shifted]);
  to.setIndices(indexAccessor(document, indices, before + more));
}
