import { transformPoints } from '../../math/mat4.ts';
import type { Model } from '../../scene/model.ts';
import { boxOf } from '../target/mesh-box.ts';
import { type SceneObject, sceneObjects } from '../target/scene-objects.ts';
import type { ObjectBox } from './pairings.ts';

/** What is known of a placed mesh when pairings are made. */
export interface ObjectFacts {
  name: string;
  triangles: number;
  /** Box in the scene, m: low x y z, high x y z. */
  box: ObjectBox;
  /** All its parts have UVs. */
  uvs: boolean;
}

/** Box of a object. */
export function objectBox(model: Model, object: SceneObject): ObjectBox {
  return boxOf(
    object.parts.map((id) => {
      const part = model.parts[id];
      return { positions: transformPoints(part.positions, part.instances[object.instance].world) };
    }),
  );
}

/** The placed meshes of a model. */
export function objectFacts(model: Model): ObjectFacts[] {
  return sceneObjects([model]).map((sceneObject) => {
    const parts = sceneObject.parts.map((id) => model.parts[id]);
    return {
      name: sceneObject.name,
      triangles: parts.reduce((sum, part) => sum + part.indices.length / 3, 0),
      box: objectBox(model, sceneObject),
      uvs: parts.every((part) => part.uvs.length > 0 && part.uvs[0] !== null),
    };
  });
}
