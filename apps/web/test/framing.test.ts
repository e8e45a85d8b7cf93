import fc from 'fast-check';
import { Box3, PerspectiveCamera, Vector3 } from 'three';
import { expect, test } from 'vitest';
import { distanceToFit } from '../src/stage/framing.ts';

test('from there every corner of the box is in sight, and from a tenth nearer one is not', () => {
  const side = fc.integer({ min: 1, max: 40 });
  const part = fc.integer({ min: -9, max: 9 });
  fc.assert(
    fc.property(
      fc.tuple(side, side, side),
      fc.tuple(part, fc.integer({ min: -8, max: 8 }), fc.constantFrom(-7, 5, 11)),
      fc.integer({ min: 20, max: 70 }),
      fc.integer({ min: 2, max: 40 }),
      (sides, way, fov, tenths) => {
        const aspect = tenths / 10;
        const box = new Box3(new Vector3(3, -2, 5), new Vector3(3, -2, 5).add(new Vector3(...sides)));
        const middle = box.getCenter(new Vector3());
        const toward = new Vector3(...way).normalize();
        const far = distanceToFit(box, toward, fov, aspect);
        /** How far the corners reach, as a share of the half picture: the camera of the library tells. */
        const reach = (metres: number) => {
          const camera = new PerspectiveCamera(fov, aspect, metres / 1000, metres * 10);
          camera.position.copy(middle).addScaledVector(toward, metres);
          camera.lookAt(middle);
          camera.updateMatrixWorld();
          const corners = [0, 1, 2, 3, 4, 5, 6, 7].map((i) => {
            const point = new Vector3(
              i & 1 ? box.max.x : box.min.x,
              i & 2 ? box.max.y : box.min.y,
              i & 4 ? box.max.z : box.min.z,
            );
            const ahead = -point.clone().applyMatrix4(camera.matrixWorldInverse).z;
            const { x, y } = point.project(camera);
            return ahead <= 0 ? Number.POSITIVE_INFINITY : Math.max(Math.abs(x), Math.abs(y));
          });
          return Math.max(...corners);
        };
        expect(reach(far)).toBeLessThanOrEqual(1);
        expect(reach(far * 0.9)).toBeGreaterThan(reach(far));
        expect(reach(far * 0.85)).toBeGreaterThan(0.95);
      },
    ),
  );
});
