import { type Box3, Vector3 } from 'three';

/** Room around what fills a picture. */
const ROOM = 1.06;

/**
 * The least distance from the middle of a box at which all of its corners are in sight.
 * @param toward unit vector from the middle to the camera @param fov from the upper to the lower side of the picture, degrees
 * @param aspect width of the picture in its heights @returns m, with a little room
 */
export function distanceToFit(box: Box3, toward: Vector3, fov: number, aspect: number): number {
  const middle = box.getCenter(new Vector3());
  const up = Math.tan((fov * Math.PI) / 360);
  const right = new Vector3(0, 1, 0).cross(toward).normalize();
  const above = toward.clone().cross(right);
  let far = 1e-6;
  for (let i = 0; i < 8; i++) {
    const point = new Vector3(
      i & 1 ? box.max.x : box.min.x,
      i & 2 ? box.max.y : box.min.y,
      i & 4 ? box.max.z : box.min.z,
    );
    point.sub(middle);
    const reach = Math.max(Math.abs(point.dot(above)) / up, Math.abs(point.dot(right)) / (up * aspect));
    far = Math.max(far, reach * ROOM + point.dot(toward));
  }
  return far;
}
