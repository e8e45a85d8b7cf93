/** A unit vector square to (x, y, z). */
export function perpendicular(x: number, y: number, z: number): [number, number, number] {
  const [a, b, c] = Math.abs(x) < 0.6 ? [0, z, -y] : [-z, 0, x];
  const l = Math.sqrt(a * a + b * b + c * c) || 1;
  return [a / l, b / l, c / l];
}
