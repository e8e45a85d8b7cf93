import { Accessor, type Document, type GLTF, type TypedArray } from '@gltf-transform/core';

/** Elements of an accessor picked by index, stored as before. */
export function pickRows(document: Document, accessor: Accessor, rows: Uint32Array): Accessor {
  const source = accessor.getArray() as TypedArray;
  const size = accessor.getElementSize();
  const out = new (source.constructor as new (n: number) => TypedArray)(rows.length * size);
  for (let i = 0; i < rows.length; i++) for (let k = 0; k < size; k++) out[i * size + k] = source[rows[i] * size + k];
  return document
    .createAccessor(accessor.getName())
    .setType(accessor.getType())
    .setNormalized(accessor.getNormalized())
    .setArray(out);
}

/** Floats as an accessor. */
export function floatAccessor(document: Document, type: GLTF.AccessorType, values: Float32Array): Accessor {
  return document
    .createAccessor()
    .setType(type)
    .setArray(values as Float32Array<ArrayBuffer>);
}

/** Indices in the smallest type that holds them; the largest value of a type is left to primitive restart. */
export function indexAccessor(document: Document, indices: Uint32Array, vertexCount: number): Accessor {
  const array = vertexCount < 65535 ? Uint16Array.from(indices) : Uint32Array.from(indices);
  return document.createAccessor().setType(Accessor.Type.SCALAR).setArray(array);
}
