import type { Mesh, Node } from '@gltf-transform/core';
import type { Part } from './model.ts';

/** Names by which an object is chosen: of the nodes from the root down to one that draws a mesh; that of the mesh where its node has none. */
export function objectNames(node: Node, mesh: Mesh): readonly string[] {
  const names = node.getName() === '' ? [mesh.getName()] : [];
  for (let at: Node | null = node; at; at = at.getParentNode()) names.unshift(at.getName());
  return names.filter((name) => name !== '');
}

/** Names of all objects that draw some parts, each once. */
export function objectsOfParts(parts: readonly Pick<Part, 'instances' | 'mesh'>[]): (readonly string[])[] {
  const found = new Map<string, readonly string[]>();
  for (const { instances, mesh } of parts)
    for (const { node } of instances) {
      const names = objectNames(node, mesh);
      found.set(JSON.stringify(names), names);
    }
  return [...found.values()];
}
