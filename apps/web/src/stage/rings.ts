import { BufferGeometry, Float32BufferAttribute, LineBasicMaterial, LineSegments } from 'three';
import { cssColour } from './css-colour.ts';

/** A ball in the scene, drawn as three circles. */
export interface Ring {
  at: readonly [number, number, number];
  /** m */
  radius: number;
  colour: string;
}

const STEPS = 48;

/** Lines of a ball, seen through everything. */
export function ringLines({ at, radius, colour }: Ring): LineSegments {
  const ends: number[] = [];
  for (let axis = 0; axis < 3; axis++)
    for (let i = 0; i < STEPS; i++)
      for (const k of [i, i + 1]) {
        const a = (2 * Math.PI * k) / STEPS;
        const p = [at[0], at[1], at[2]];
        p[(axis + 1) % 3] += Math.cos(a) * radius;
        p[(axis + 2) % 3] += Math.sin(a) * radius;
        ends.push(...p);
      }
  const geometry = new BufferGeometry().setAttribute('position', new Float32BufferAttribute(ends, 3));
  const drawn = new LineSegments(
    geometry,
    new LineBasicMaterial({ color: cssColour(colour), depthTest: false, transparent: true, opacity: 0.8 }),
  );
  drawn.renderOrder = 60;
  drawn.raycast = () => {};
  return drawn;
}
