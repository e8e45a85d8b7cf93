import { BufferGeometry, Float32BufferAttribute, LineBasicMaterial, LineSegments } from 'three';
import { cssColour } from './css-colour.ts';

/** A ball in the scene, drawn as three circles. */
export interface Ring {
  at: readonly [number, number, number];
  /** m */
  radius: number;
  colour: string;
}

/** Lines in the scene: (x, y, z) of both ends of each. */
export interface Frame {
  ends: readonly number[];
  colour: string;
}

/** What is drawn over a model, seen through everything. */
export type Mark = Ring | Frame;

const STEPS = 48;

export function markLines(mark: Mark): LineSegments {
  return linesOf('ends' in mark ? mark.ends : circlesOf(mark), mark.colour);
}

/** Three circles of a ball. */
function circlesOf({ at, radius }: Ring): number[] {
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
  return ends;
}

function linesOf(ends: readonly number[], colour: string): LineSegments {
  const geometry = new BufferGeometry().setAttribute('position', new Float32BufferAttribute([...ends], 3));
  const drawn = new LineSegments(
    geometry,
    new LineBasicMaterial({ color: cssColour(colour), depthTest: false, transparent: true, opacity: 0.8 }),
  );
  drawn.renderOrder = 60;
  drawn.raycast = () => {};
  return drawn;
}
