/** Column-major 4×4 matrices as plain arrays of 16 numbers, as glTF stores them. */
export type Mat4 = readonly number[];

export const IDENTITY: Mat4 = [1, 0, 0, 0, 0, 1, 0, 0, 0, 0, 1, 0, 0, 0, 0, 1];

/** Determinant of the upper 3×3: negative for a mirroring transform. */
export function determinant3(matrix: Mat4): number {
  return (
    matrix[0] * (matrix[5] * matrix[10] - matrix[6] * matrix[9]) -
    matrix[4] * (matrix[1] * matrix[10] - matrix[2] * matrix[9]) +
    matrix[8] * (matrix[1] * matrix[6] - matrix[2] * matrix[5])
  );
}

/** Inverse transpose of the upper 3×3 times |det|, nine numbers by columns: takes normals through a transform. */
export function normalMatrix(matrix: Mat4): number[] {
  const s = determinant3(matrix) < 0 ? -1 : 1;
  return [
    s * (matrix[5] * matrix[10] - matrix[6] * matrix[9]),
    s * (matrix[6] * matrix[8] - matrix[4] * matrix[10]),
    s * (matrix[4] * matrix[9] - matrix[5] * matrix[8]),
    s * (matrix[2] * matrix[9] - matrix[1] * matrix[10]),
    s * (matrix[0] * matrix[10] - matrix[2] * matrix[8]),
    s * (matrix[1] * matrix[8] - matrix[0] * matrix[9]),
    s * (matrix[1] * matrix[6] - matrix[2] * matrix[5]),
    s * (matrix[2] * matrix[4] - matrix[0] * matrix[6]),
    s * (matrix[0] * matrix[5] - matrix[1] * matrix[4]),
  ];
}

/** Points of a flat xyz array through `m`, into a new array. */
export function transformPoints(points: Float32Array, matrix: Mat4): Float32Array {
  const out = new Float32Array(points.length);
  for (let i = 0; i < points.length; i += 3) {
    const x = points[i];
    const y = points[i + 1];
    const z = points[i + 2];
    out[i] = matrix[0] * x + matrix[4] * y + matrix[8] * z + matrix[12];
    out[i + 1] = matrix[1] * x + matrix[5] * y + matrix[9] * z + matrix[13];
    out[i + 2] = matrix[2] * x + matrix[6] * y + matrix[10] * z + matrix[14];
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
export function linearPart(matrix: Mat4): number[] {
  return [matrix[0], matrix[1], matrix[2], matrix[4], matrix[5], matrix[6], matrix[8], matrix[9], matrix[10]];
}
