import type { Accessor } from '@gltf-transform/core';

const DIVISOR: Record<number, number> = { 5120: 127, 5121: 255, 5122: 32767, 5123: 65535, 5125: 4294967295 };

/** Elements of an accessor as floats, normalised integers unpacked as the glTF specification says. */
export function readFloats(accessor: Accessor): Float32Array {
  const array = accessor.getArray();
  if (!array) return new Float32Array(0);
  if (array instanceof Float32Array) return array;
  const out = new Float32Array(array.length);
  const type = accessor.getComponentType();
  if (accessor.getNormalized()) {
    const k = 1 / DIVISOR[type];
    for (let i = 0; i < array.length; i++) out[i] = Math.max(-1, array[i] * k);
  } else out.set(array);
  return out;
}

/** Index of the first number that is not finite, or −1. */
export function firstNotFinite(values: Float32Array): number {
  for (let i = 0; i < values.length; i++) if (!Number.isFinite(values[i])) return i;
  return -1;
}

/** Triangle list of a primitive: strips and fans unrolled, degenerate index triples kept. Empty for points and lines. */
export function triangleIndices(indices: ArrayLike<number> | null, vertexCount: number, mode: number): Uint32Array {
  const n = indices ? indices.length : vertexCount;
  const at = (i: number) => (indices ? indices[i] : i);
  if (mode === 4) {
    const out = new Uint32Array(n - (n % 3));
    for (let i = 0; i < out.length; i++) out[i] = at(i);
    return out;
  }
  if ((mode !== 5 && mode !== 6) || n < 3) return new Uint32Array(0);
  const out = new Uint32Array((n - 2) * 3);
  for (let i = 0; i < n - 2; i++) {
    const flip = mode === 5 && i % 2 === 1;
    out[i * 3] = mode === 6 ? at(0) : at(flip ? i + 1 : i);
    out[i * 3 + 1] = mode === 6 ? at(i + 1) : at(flip ? i : i + 1);
    out[i * 3 + 2] = at(i + 2);
  }
  return out;
}
