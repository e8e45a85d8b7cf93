/** Directions spread evenly over the sphere (Fibonacci lattice). */
export function directions(count: number): [number, number, number][] {
  const golden = Math.PI * (3 - Math.sqrt(5));
  return Array.from({ length: count }, (_, i) => {
    const y = 1 - (2 * i + 1) / count;
    const r = Math.sqrt(1 - y * y);
    return [r * Math.cos(golden * i), y, r * Math.sin(golden * i)];
  });
}

/** The point that lies farthest in a direction, by its position. @param points (x, y, z) */
export function farthest(points: ArrayLike<number>, [x, y, z]: readonly [number, number, number]): number {
  let best = 0;
  let most = -Infinity;
  for (let i = 0; i < points.length; i += 3) {
    const v = points[i] * x + points[i + 1] * y + points[i + 2] * z;
    if (v > most) {
      most = v;
      best = i / 3;
    }
  }
  return best;
}
