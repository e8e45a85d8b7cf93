/**
 * Centres for models beside each other: rows about as wide as all are deep, each model in a cell of its own.
 * @param sizes width and depth of each, m
 * @returns x and z of each centre, m
 */
export function gridPlaces(sizes: readonly (readonly [number, number])[]): [number, number][] {
  const gap = 1.15;
  const area = sizes.reduce((sum, [w, d]) => sum + w * d * gap * gap, 0);
  const widest = Math.max(0, ...sizes.map(([w]) => w * gap));
  const row = Math.max(widest, Math.sqrt(area) * 1.3);
  let x = 0;
  let z = 0;
  let deep = 0;
  return sizes.map(([w, d]) => {
    if (x > 0 && x + w * gap > row) {
      x = 0;
      z += deep;
      deep = 0;
    }
    const centre: [number, number] = [x + (w * gap) / 2, z + (d * gap) / 2];
    x += w * gap;
    deep = Math.max(deep, d * gap);
    return centre;
  });
}
