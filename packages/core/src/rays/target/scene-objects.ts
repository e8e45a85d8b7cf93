import type { Model } from '../../scene/model.ts';

/** One placed mesh of a model: what a pairing names. */
export interface SceneObject {
  model: number;
  /** Path of its file. */
  path: string;
  /** Name of its node, else of its mesh. */
  name: string;
  /** Ids of its parts. */
  parts: number[];
  /** Which placing of its mesh, from 0. */
  instance: number;
}

/** How decisions name a object: its file and its name. */
export interface ObjectRef {
  path: string;
  name: string;
}

/** All placed meshes with triangles, in the order of the files. */
export function sceneObjects(models: readonly Model[]): SceneObject[] {
  const out: SceneObject[] = [];
  models.forEach((model, m) => {
    const byMesh = new Map<unknown, number[]>();
    for (const part of model.parts) {
      if (part.indices.length === 0) continue;
      const list = byMesh.get(part.mesh) ?? [];
      list.push(part.id);
      byMesh.set(part.mesh, list);
    }
    for (const parts of byMesh.values()) {
      const first = model.parts[parts[0]];
      first.instances.forEach(({ node }, instance) => {
        out.push({ model: m, path: model.path, name: node.getName() || first.name, parts, instance });
      });
    }
  });
  return out;
}
