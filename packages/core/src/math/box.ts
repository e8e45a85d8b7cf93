/** The box around points of a plane: least and greatest x, least and greatest y. */
export type Box2 = [number, number, number, number];

/** The box around lists of points, (x, y) pairs; of none at all, from Infinity to −Infinity. */
export function boxAround(lists: Iterable<ArrayLike<number>>): Box2 {
  let [x0, x1, y0, y1] = [Infinity, -Infinity, Infinity, -Infinity];
  for (const points of lists)
    for (let i = 0; i < points.length; i += 2) {
      x0 = Math.min(x0, points[i]);
      x1 = Math.max(x1, points[i]);
      y0 = Math.min(y0, points[i + 1]);
      y1 = Math.max(y1, points[i + 1]);
    }
  return [x0, x1, y0, y1];
}
