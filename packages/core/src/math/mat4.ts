/** Column-major 4×4 matrices as plain arrays of 16 numbers, as glTF stores them. */
export type Mat4 = readonly number[];

export const IDENTITY: Mat4 = [1, 0, 0, 0, 0, 1, 0, 0, 0, 0, 1, 0, 0, 0, 0, 1];

/** Determinant of the upper 3×3: negative for a mirroring transform. */
export function determinant3(m: Mat4): number {
  return m[0] * (m[5] * m[10] - m[6] * m[9]) - m[4] * (m[1] * m[10] - m[2] * m[9]) + m[8] * (m[1] * m[6] - m[2] * m[5]);
}

/** Inverse transpose of the upper 3×3 times |det|, nine numbers by columns: takes normals through a transform. */
export function normalMatrix(m: Mat4): number[] {
  const s = determinant3(m) < 0 ? -1 : 1;
  return [
    s * (m[5] * m[10] - m[6] * m[9]),
    s * (m[6] * m[8] - m[4] * m[10]),
    s * (m[4] * m[9] - m[5] * m[8]),
    s * (m[2] * m[9] - m[1] * m[10]),
    s * (m[0] * m[10] - m[2] * m[8]),
    s * (m[1] * m[8] - m[0] * m[9]),
    s * (m[1] * m[6] - m[2] * m[5]),
    s * (m[2] * m[4] - m[0] * m[6]),
    s * (m[0] * m[5] - m[1] * m[4]),
  ];
}

/** Points of a flat xyz array through `m`, into a new array. */
export function transformPoints(points: Float32Array, m: Mat4): Float32Array {
  const out = new Float32Array(points.length);
  for (let i = 0; i < points.length; i += 3) {
    const x = points[i];
    const y = points[i + 1];
    const z = points[i + 2];
    out[i] = m[0] * x + m[4] * y + m[8] * z + m[12];
    out[i + 1] = m[1] * x + m[5] * y + m[9] * z + m[13];
    out[i + 2] = m[2] * x + m[6] * y + m[10] * z + m[14];
  }
  return out;
}

/** Unit vectors of a flat array through a 3×3 (nine numbers, by columns), normalised; zero stays zero. */
export function transformDirections(dirs: Float32Array, n: readonly number[], stride = 3): Float32Array {
  const out = new Float32Array(dirs);
  for (let i = 0; i < dirs.length; i += stride) {
    const x = dirs[i];
    const y = dirs[i + 1];
    const z = dirs[i + 2];
    const a = n[0] * x + n[3] * y + n[6] * z;
    const b = n[1] * x + n[4] * y + n[7] * z;
    const c = n[2] * x + n[5] * y + n[8] * z;
    const l = Math.sqrt(a * a + b * b + c * c);
    const k = l > 0 ? 1 / l : 0;
    out[i] = a * k;
    out[i + 1] = b * k;
    out[i + 2] = c * k;
  }
  return out;
}

/** Upper 3×3 by columns. */
export function linearPart(m: Mat4): number[] {
  return [m[0], m[1], m[2], m[4], m[5], m[6], m[8], m[9], m[10]];
}
