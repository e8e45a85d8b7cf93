import type { Document, Mesh, Node, Primitive } from '@gltf-transform/core';
import {
  determinant3,
  linearPart,
  type Mat4,
  normalMatrix,
  transformDirections,
  transformPoints,
} from '../math/mat4.ts';
import { nodeRoles } from './node-roles.ts';

const MOVABLE = /^(POSITION|NORMAL|TANGENT|TEXCOORD_\d+|COLOR_0)$/;

/** True when nothing about a primitive stands against becoming one with others. */
export function joinablePrimitive(primitive: Primitive): boolean {
  return (
    primitive.getMode() === 4 &&
    primitive.listTargets().length === 0 &&
    primitive.listExtensions().length === 0 &&
    primitive.listSemantics().every((text) => MOVABLE.test(text))
  );
}

/** Nodes that stay objects of their own: animated, joints, or below such a node, or with lower levels of detail. */
export function movedNodes(document: Document): Set<Node> {
  const moved = new Set<Node>(nodeRoles(document).levelled);
  const take = (node: Node) => {
    if (moved.has(node)) return;
    moved.add(node);
    node.listChildren().forEach(take);
  };
  const root = document.getRoot();
  for (const animation of root.listAnimations())
    for (const channel of animation.listChannels()) {
      const node = channel.getTargetNode();
      if (node) take(node);
    }
  for (const skin of root.listSkins()) skin.listJoints().forEach(take);
  return moved;
}

/** True when a mesh's placing moves, skins, instances or names it apart, so that it stays where it is. */
export function instancedApart(nodes: Node[], mesh: Mesh, moved: ReadonlySet<unknown>): boolean {
  const [node] = nodes;
  return (
    nodes.length !== 1 ||
    moved.has(node) ||
    node.getSkin() !== null ||
    node.listExtensions().length > 0 ||
    hasExtras(node) ||
    hasExtras(mesh)
  );
}

export function hasExtras(p: { getExtras(): object }): boolean {
  return Object.keys(p.getExtras()).length > 0;
}

export function moved(semantic: string, values: Float32Array, world: Mat4): Float32Array {
  if (semantic === 'POSITION') return transformPoints(values, world);
  if (semantic === 'NORMAL') return transformDirections(values, normalMatrix(world));
  if (semantic !== 'TANGENT') return values;
  const out = transformDirections(values, linearPart(world), 4);
  // The bitangent is normal × tangent · w: a mirroring transform turns the product over, so w must turn too.
  if (determinant3(world) < 0) for (let i = 3; i < out.length; i += 4) out[i] = -out[i];
  return out;
}
