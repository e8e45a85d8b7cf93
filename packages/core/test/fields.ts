import { borderEdges, distanceField, type Field } from '@wembrel/kernels/field';

/** Margin that fields of these shapes reach over, px. */
export const MARGIN = 2;

/** The field of triangles, six numbers each, px. */
export function fieldOf(shape: ArrayLike<number>): Field {
  const triangles = Float64Array.from(shape);
  return distanceField(triangles, borderEdges(triangles), { step: 1, band: MARGIN + 1.1, spacing: 5, tolerance: 0.05 });
}

/** The field of a rectangle, px. */
export function boxField(width: number, height: number): Field {
  const [x, y] = [width / 2, height / 2];
  return fieldOf([-x, -y, x, -y, x, y, -x, -y, x, y, -x, y]);
}

/** The field of a right-angled triangle, which leaves more room on one side than on the other, px. */
export function wedgeField(width: number, height: number): Field {
  const [x, y] = [width / 2, height / 2];
  return fieldOf([-x, -y, x, -y, -x, y]);
}
