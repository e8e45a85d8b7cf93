import { transformPoints } from '../../math/mat4.ts';
import type { Model } from '../../scene/model.ts';
import { type Body, bodiesOf } from '../target/bodies.ts';
import { boxOf } from '../target/mesh-box.ts';
import type { BodyBox } from './pairings.ts';

/** What is known of a placed mesh when pairings are made. */
export interface BodyFacts {
  name: string;
  triangles: number;
  /** Box in the scene, m: low x y z, high x y z. */
  box: BodyBox;
  /** All its parts have UVs. */
  uvs: boolean;
}

/** Box of a body. */
export function bodyBox(model: Model, body: Body): BodyBox {
  return boxOf(
    body.parts.map((id) => {
      const part = model.parts[id];
      return { positions: transformPoints(part.positions, part.instances[body.instance].world) };
    }),
  );
}

/** The placed meshes of a model. */
export function bodyFacts(model: Model): BodyFacts[] {
  return bodiesOf([model]).map((b) => {
    const parts = b.parts.map((id) => model.parts[id]);
    return {
      name: b.name,
      triangles: parts.reduce((n, p) => n + p.indices.length / 3, 0),
      box: bodyBox(model, b),
      uvs: parts.every((p) => p.uvs.length > 0 && p.uvs[0] !== null),
    };
  });
}
