import fc from 'fast-check';
import { expect, test } from 'vitest';
import { runs } from '../../core/test/sampling.ts';
import { borderEdges, distanceField, segmentDistance } from '../src/field.ts';
import { fieldReference } from '../src/field-reference.ts';

/** A star with so many points about the middle of its box, as triangles from its centre. */
function star(radii: number[]): Float64Array {
  const at = radii.map((r, i) => {
    const angle = (2 * Math.PI * i) / radii.length;
    return [r * Math.cos(angle), r * Math.sin(angle)];
  });
  const shape = at.flatMap((p, i) => [0, 0, ...p, ...at[(i + 1) % at.length]]);
  for (const k of [0, 1]) {
    const own = shape.filter((_, i) => i % 2 === k);
    const middle = (Math.min(...own) + Math.max(...own)) / 2;
    for (let i = k; i < shape.length; i += 2) shape[i] -= middle;
  }
  return Float64Array.from(shape);
}

test('near a border the field is the distance to it, negative inside; further out it is not less than its reach', () => {
  const radii = fc.array(fc.double({ min: 6, max: 40, noNaN: true }), { minLength: 3, maxLength: 12 });
  fc.assert(
    fc.property(radii, fc.double({ min: 0.5, max: 2, noNaN: true }), (list, step) => {
      const shape = star(list);
      const edges = borderEdges(shape);
      const band = 3;
      const field = distanceField(shape, edges, { step, band, spacing: 5, tolerance: 0 });
      let inside = 0;
      const wrong: string[] = [];
      for (let y = 0; y < field.rows; y++)
        for (let x = 0; x < field.columns; x++) {
          const [px, py] = [field.left + x * field.step, field.top + y * field.step];
          let least = Number.POSITIVE_INFINITY;
          let winding = false;
          for (let e = 0; e < edges.length; e += 4) {
            const [ax, ay, bx, by] = edges.subarray(e, e + 4);
            least = Math.min(least, segmentDistance(px, py, ax, ay, bx, by));
            if (ay > py !== by > py && px < ax + ((py - ay) / (by - ay)) * (bx - ax)) winding = !winding;
          }
          const d = field.distance[y * field.columns + x];
          if (least > 1e-4) {
            if (d < 0 !== winding) wrong.push(`side at ${px} ${py}`);
            if (winding) inside++;
          }
          const far = Math.abs(d);
          if (least < band) {
            if (Math.abs(far - least) > 1e-3) wrong.push(`${far} for ${least}`);
          } else if (far < band - 1e-4 || far < least - 1e-3 || far > least * 1.083 + 2 * step)
            // Steps to all eight sides are never shorter than the straight way, and at most 8.3 % longer, as far as nodes go.
            wrong.push(`${far} for ${least}, beyond the band`);
        }
      expect(wrong).toEqual([]);
      if (step < 1) expect(inside).toBeGreaterThan(10);
    }),
    {
      numRuns: runs(40),
      examples: [
        // A node on the edge between two triangles.
        [[6, 6, 6, 6, 6, 39.99731427640526, 6, 6], 0.6680330481234652],
        // A corner of the field further away than its band and half its box.
        [[6, 6, 6], 1.7757629544495164],
      ],
    },
  );
});

test('the kernel and its twin agree to the bit, also on shapes with holes and with many edges', () => {
  const radii = fc.array(fc.double({ min: 2, max: 60, noNaN: true }), { minLength: 3, maxLength: 80 });
  fc.assert(
    fc.property(radii, fc.double({ min: 0.4, max: 3, noNaN: true }), fc.boolean(), (list, step, holed) => {
      const whole = star(list);
      // Without every third triangle it has slits.
      const shape = holed ? whole.filter((_, i) => Math.floor(i / 6) % 3 !== 0) : whole;
      const options = { step, band: 3, spacing: 5, tolerance: 0.05 };
      const edges = borderEdges(shape);
      const is = distanceField(shape, edges, options);
      const reference = distanceField(shape, edges, options, fieldReference);
      expect(is).toEqual(reference);
      expect(is.distance.some((d) => d < 0) || step > 1).toBe(true);
    }),
    { numRuns: runs(60) },
  );
});
