/**
 * What a node is for: it is drawn; it stands in for a finer level of the same object; it is a collision shape; or it is not seen (in
 * another scene, or switched off).
 */
export type NodeRole = 'drawn' | 'level' | 'collision' | 'hidden';

/** A node of a scene tree, as far as its role goes. Nodes are known by their positions in a list. */
export interface TreeNode {
  name: string;
  children: readonly number[];
  /** Its lower levels of detail, as its file names them. */
  levels: readonly number[];
  /** It is switched off, and so is all below it. */
  off: boolean;
}

export interface TreeRoles {
  /** By node, in the order of drawing: nodes of the scene first. */
  roles: ReadonlyMap<number, NodeRole>;
  /** Nodes of objects that have lower levels: they stay objects of their own. */
  levelled: ReadonlySet<number>;
}

/** "sign_LOD1", "sign lod 1", "signLOD1.002" → object and level. */
const LEVEL_LAST = /^(?<object>.*?)(?:[\s._-]+[Ll][Oo][Dd]|(?<=[\p{Ll}\d])LOD)[\s._-]*(?<level>\d{1,2})(?:\.\d+)?$/u;

/** "LOD1_sign" → the same. */
const LEVEL_FIRST = /^lod[\s._-]*(?<level>\d{1,2})[\s._-]+(?<object>.+)$/i;

/** Collision shapes by name: a prefix for boxes, capsules, convex shapes and spheres, or a word. */
const COLLISION_PREFIX = /^U(CX|BX|CP|SP)_/;
const COLLISION_WORD = /^(collision|collider|hitbox)(s|es)?\d*$/i;

/** A name taken apart at spaces, signs and changes of case. */
const words = (name: string): string[] => name.split(/[^\p{L}\p{N}]+|(?<=\p{Ll})(?=\p{Lu})/u);

const isCollisionName = (name: string): boolean =>
  COLLISION_PREFIX.test(name) || words(name).some((word) => COLLISION_WORD.test(word));

/** Nodes that are lower levels of others, and those others: as the file names them, or by names of which a finer one is there as well. */
function levelsOf(nodes: readonly TreeNode[]): { lower: Set<number>; levelled: Set<number> } {
  const lower = new Set<number>();
  const levelled = new Set<number>();
  const named = new Map<string, { node: number; level: number }[]>();
  nodes.forEach(({ name, levels }, node) => {
    for (const level of levels) lower.add(level);
    if (levels.length > 0) levelled.add(node);
    const found = (LEVEL_LAST.exec(name) ?? LEVEL_FIRST.exec(name))?.groups;
    const object = (found?.object ?? name).toLowerCase();
    const list = named.get(object) ?? [];
    list.push({ node, level: Number(found?.level ?? 0) });
    named.set(object, list);
  });
  named.delete('');
  for (const list of named.values()) {
    const finest = Math.min(...list.map(({ level }) => level));
    if (list.every(({ level }) => level === finest)) continue;
    for (const { node, level } of list) (level > finest ? lower : levelled).add(node);
  }
  return { lower, levelled };
}

/**
 * What each node of a tree is for; nodes below one that is not drawn are as it is.
 * @param shown roots of the scene that is shown
 */
export function treeRoles(nodes: readonly TreeNode[], shown: readonly number[]): TreeRoles {
  const visible = withChildren(nodes, shown);
  const { lower, levelled } = levelsOf(nodes);
  const roles = new Map<number, NodeRole>();
  const own = (node: number): NodeRole => {
    if (isCollisionName(nodes[node].name)) return 'collision';
    if (lower.has(node)) return 'level';
    return !visible.has(node) || nodes[node].off ? 'hidden' : 'drawn';
  };
  const visit = (node: number, above: NodeRole) => {
    if (roles.has(node)) return;
    const role = above === 'drawn' ? own(node) : above;
    roles.set(node, role);
    for (const child of nodes[node].children) visit(child, role);
  };
  for (const node of [...shown, ...rootsOf(nodes)]) visit(node, 'drawn');
  return { roles, levelled: withChildren(nodes, levelled) };
}

/** Nodes that stand below no other. */
export function rootsOf(nodes: readonly Pick<TreeNode, 'children'>[]): number[] {
  const below = new Set(nodes.flatMap((node) => node.children));
  return nodes.flatMap((_, node) => (below.has(node) ? [] : [node]));
}

/** Nodes with all that are below them, each once, even where a damaged scene lists it several times. */
function withChildren(nodes: readonly TreeNode[], roots: Iterable<number>): Set<number> {
  const out = new Set<number>();
  const visit = (node: number) => {
    if (out.has(node)) return;
    out.add(node);
    for (const child of nodes[node].children) visit(child);
  };
  for (const node of roots) visit(node);
  return out;
}
