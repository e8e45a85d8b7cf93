import type { Document, Node } from '@gltf-transform/core';
import { LEVELS, type LowerLevels } from './levels-of-detail.ts';
import { type NodeRole, rootsOf, treeRoles } from './roles.ts';

/** Nodes of a document with what they are for; see `treeRoles`. */
export interface NodeRoles {
  /** In the order of drawing: nodes of the scene first. */
  of: ReadonlyMap<Node, NodeRole>;
  /** Nodes of objects that have lower levels: they stay objects of their own. */
  levelled: ReadonlySet<Node>;
}

/** What each node of a document is for. The scene that is shown is the default one, else the first, else every root. */
export function nodeRoles(document: Document): NodeRoles {
  const root = document.getRoot();
  const nodes = root.listNodes();
  const numbers = new Map(nodes.map((node, i) => [node, i]));
  const numbersOf = (list: readonly Node[]) => list.map((node) => numbers.get(node) as number);
  const tree = nodes.map((node) => ({
    name: node.getName(),
    children: numbersOf(node.listChildren()),
    levels: numbersOf(node.getExtension<LowerLevels>(LEVELS)?.list() ?? []),
    off: (node.getExtension('KHR_node_visibility') as { getVisible(): boolean } | null)?.getVisible() === false,
  }));
  const scene = root.getDefaultScene() ?? root.listScenes()[0];
  const { roles, levelled } = treeRoles(tree, scene ? numbersOf(scene.listChildren()) : rootsOf(tree));
  return {
    of: new Map([...roles].map(([node, role]) => [nodes[node], role])),
    levelled: new Set([...levelled].map((node) => nodes[node])),
  };
}
