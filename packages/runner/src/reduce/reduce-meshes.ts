import type { Accessor, Document, Primitive } from '@gltf-transform/core';
import type { Reductions } from '@wembrel/core/predict/reduction';
import { readFloats, triangleIndices } from '@wembrel/core/scene/attributes';
import type { Model, Part } from '@wembrel/core/scene/model';
import { MeshoptSimplifier } from 'meshoptimizer/simplifier';
import { compact } from './reduce.ts';

/** How much a turned normal, and a shifted UV, weigh against a moved surface. */
const WEIGHTS = { NORMAL: 0.5, TEXCOORD_0: 1 };

/** What reducing did. */
export interface Reduced {
  /** Triangles fewer, of one copy of each mesh. */
  triangles: number;
  /** The greatest error, as the simplifier computes it: how far the surface moved, with normals and UVs weighed in; m, before placings are scaled. */
  deviation: number;
}

/**
 * Reduces the named meshes of a model, in its document, by collapsing edges where surface, normals and UVs change least (quadric errors
 * with attributes); slots, parts and attributes stay. The model is to be read from its document again.
 * @param wanted by name: triangles of one copy at the most
 */
export async function reduceMeshes(model: Model, wanted: Reductions): Promise<Reduced> {
  await MeshoptSimplifier.ready;
  const out: Reduced = { triangles: 0, deviation: 0 };
  const meshes = new Map<Part['mesh'], Part[]>();
  for (const part of model.parts) {
    if (wanted[part.name] === undefined || part.mode < 4) continue;
    meshes.set(part.mesh, [...(meshes.get(part.mesh) ?? []), part]);
  }
  for (const parts of meshes.values()) {
    const own = parts.reduce((sum, part) => sum + part.indices.length / 3, 0);
    const most = wanted[parts[0].name];
    if (own <= most) continue;
    for (const part of parts) {
      const target = Math.max(1, Math.floor((part.indices.length / 3) * (most / own)));
      const deviation = reducePrimitive(model.document, part.primitive, target, parts.length > 1);
      out.deviation = Math.max(out.deviation, deviation);
      out.triangles += part.indices.length / 3 - (part.primitive.getIndices()?.getCount() ?? 0) / 3;
    }
  }
  return out;
}

/** @param lock keeps open borders, where other parts go on @returns the error, m */
function reducePrimitive(document: Document, primitive: Primitive, triangles: number, lock: boolean): number {
  const position = primitive.getAttribute('POSITION') as Accessor;
  const points = readFloats(position);
  const indices = triangleIndices(primitive.getIndices()?.getArray() ?? null, position.getCount(), primitive.getMode());
  const columns = (['NORMAL', 'TEXCOORD_0'] as const).flatMap((semantic) => {
    const accessor = primitive.getAttribute(semantic);
    return accessor
      ? [{ values: readFloats(accessor), size: accessor.getElementSize(), weight: WEIGHTS[semantic] }]
      : [];
  });
  const stride = columns.reduce((sum, column) => sum + column.size, 0);
  const attributes = new Float32Array(Math.max(1, position.getCount() * stride));
  let at = 0;
  for (const column of columns) {
    for (let v = 0; v < position.getCount(); v++)
      for (let k = 0; k < column.size; k++) attributes[v * stride + at + k] = column.values[v * column.size + k];
    at += column.size;
  }
  const weights = columns.flatMap((column) => new Array<number>(column.size).fill(column.weight));
  const run = (flags: ('LockBorder' | 'Permissive')[]) =>
    stride > 0
      ? MeshoptSimplifier.simplifyWithAttributes(
          ...([indices, points, 3, attributes, stride, weights, null, triangles * 3, 1, flags] as const),
        )
      : MeshoptSimplifier.simplify(indices, points, 3, triangles * 3, 1, flags);
  let [fewer, error] = run(lock ? ['LockBorder'] : []);
  // UV borders and hard edges hold out; where they leave too much, they may be collapsed as well, and open borders too.
  if (fewer.length > triangles * 3) [fewer, error] = run(['Permissive']);
  compact(document, primitive, fewer);
  return error * MeshoptSimplifier.getScale(points, 3);
}
