import { Accessor, type Document, type Mesh, type Node, type Primitive } from '@gltf-transform/core';
import {
  determinant3,
  linearPart,
  type Mat4,
  normalMatrix,
  transformDirections,
  transformPoints,
} from '../math/mat4.ts';
import { indexAccessor } from '../scene/accessors.ts';
import { readFloats, triangleIndices } from '../scene/attributes.ts';
import { sceneNodes } from '../scene/model.ts';
import { tidy } from './rebuild.ts';

/** A primitive with the transform that takes it to where the joined part lives. */
interface Piece {
  primitive: Primitive;
  world: Mat4;
}

const MOVABLE = /^(POSITION|NORMAL|TANGENT|TEXCOORD_\d+|COLOR_0)$/;

/** True when nothing about a primitive stands against becoming one with others. */
export function joinablePrimitive(p: Primitive): boolean {
  return (
    p.getMode() === 4 &&
    p.listTargets().length === 0 &&
    p.listExtensions().length === 0 &&
    p.listSemantics().every((s) => MOVABLE.test(s))
  );
}

/** Nodes that something moves: animated, joints, or below such a node. */
export function movedNodes(document: Document): Set<Node> {
  const moved = new Set<Node>();
  const take = (n: Node) => {
    if (moved.has(n)) return;
    moved.add(n);
    n.listChildren().forEach(take);
  };
  const root = document.getRoot();
  for (const a of root.listAnimations())
    for (const c of a.listChannels()) {
      const n = c.getTargetNode();
      if (n) take(n);
    }
  for (const s of root.listSkins()) s.listJoints().forEach(take);
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

function hasExtras(p: { getExtras(): object }): boolean {
  return Object.keys(p.getExtras()).length > 0;
}

/**
 * Joins parts that share a slot. First inside each mesh; then across nodes, in world space, where nothing animates, skins,
 * instances or names the part apart (custom properties on the node or mesh, or its name in `keepParts`). Placings that
 * mirror have their triangles turned round.
 *
 * @returns how many draw calls fewer the scene takes
 */
export function joinParts(document: Document, keepParts: string[]): number {
  const root = document.getRoot();
  const uses = new Map<Mesh, Node[]>();
  for (const node of sceneNodes(document)) {
    const mesh = node.getMesh();
    if (mesh) uses.set(mesh, [...(uses.get(mesh) ?? []), node]);
  }
  let saved = 0;
  for (const mesh of root.listMeshes())
    for (const group of groups(mesh.listPrimitives().map((primitive) => ({ primitive, world: null })))) {
      if (group.length < 2) continue;
      const joined = build(document, group as { primitive: Primitive; world: null }[]);
      for (const { primitive } of group) {
        mesh.removePrimitive(primitive);
        primitive.dispose();
      }
      mesh.addPrimitive(joined);
      saved += (group.length - 1) * (uses.get(mesh)?.length ?? 0);
    }
  const moved = movedNodes(document);
  const pieces: (Piece & { node: Node; mesh: Mesh })[] = [];
  for (const [mesh, nodes] of uses) {
    const node = nodes[0];
    if (instancedApart(nodes, mesh, moved) || keepParts.includes(node.getName()) || keepParts.includes(mesh.getName()))
      continue;
    for (const primitive of mesh.listPrimitives()) pieces.push({ primitive, world: node.getWorldMatrix(), node, mesh });
  }
  const scene = root.getDefaultScene() ?? root.listScenes()[0];
  const big = groups(pieces).filter((g) => g.length > 1);
  if (scene && big.length > 0) {
    const mesh = document.createMesh('joined');
    scene.addChild(document.createNode('joined').setMesh(mesh));
    for (const group of big) {
      mesh.addPrimitive(build(document, group));
      saved += group.length - 1;
      for (const p of group) {
        p.mesh.removePrimitive(p.primitive);
        p.primitive.dispose();
        if (p.mesh.listPrimitives().length === 0) {
          p.mesh.dispose();
          dropEmpty(p.node);
        }
      }
    }
  }
  tidy(document);
  return saved;
}

/** Removes a node that holds nothing, and then its parents while they hold nothing either. */
function dropEmpty(node: Node): void {
  let n: Node | null = node;
  while (n && n.listChildren().length === 0 && !n.getMesh() && !n.getCamera() && n.listExtensions().length === 0) {
    if (hasExtras(n)) return;
    const parent: Node | null = n.getParentNode();
    n.dispose();
    n = parent;
  }
}

/** Pieces that can become one: same slot, same attributes (vertex colours may be missing: white is filled in). */
function groups<T extends { primitive: Primitive }>(pieces: T[]): T[][] {
  const byKey = new Map<string, T[]>();
  const materials = new Map<unknown, number>();
  for (const piece of pieces) {
    const p = piece.primitive;
    if (!joinablePrimitive(p)) continue;
    const material = p.getMaterial();
    if (!materials.has(material)) materials.set(material, materials.size);
    const semantics = p.listSemantics().filter((s) => s !== 'COLOR_0');
    const key = `${materials.get(material)} ${semantics.sort().join(' ')}`;
    const list = byKey.get(key);
    if (list) list.push(piece);
    else byKey.set(key, [piece]);
  }
  return [...byKey.values()];
}

function build(document: Document, group: { primitive: Primitive; world: Mat4 | null }[]): Primitive {
  const semantics = new Set(group.flatMap((g) => g.primitive.listSemantics()));
  const first = group[0].primitive;
  const out = document.createPrimitive().setMaterial(first.getMaterial()).setMode(4);
  const counts = group.map((g) => (g.primitive.getAttribute('POSITION') as Accessor).getCount());
  const total = counts.reduce((a, b) => a + b, 0);
  for (const semantic of [...semantics].sort()) {
    const size = semantic === 'COLOR_0' || semantic === 'TANGENT' ? 4 : semantic.startsWith('TEXCOORD_') ? 2 : 3;
    const all = new Float32Array(total * size);
    let at = 0;
    group.forEach((g, i) => {
      const accessor = g.primitive.getAttribute(semantic);
      let values: Float32Array;
      if (!accessor) values = new Float32Array(counts[i] * size).fill(1);
      else {
        values = readFloats(accessor);
        if (semantic === 'COLOR_0' && accessor.getElementSize() === 3) values = withAlpha(values);
        if (g.world) values = moved(semantic, values, g.world);
      }
      all.set(values, at);
      at += values.length;
    });
    const type = size === 2 ? Accessor.Type.VEC2 : size === 3 ? Accessor.Type.VEC3 : Accessor.Type.VEC4;
    out.setAttribute(semantic, document.createAccessor().setType(type).setArray(all));
  }
  const parts = group.map((g, i) => {
    const list = triangleIndices(g.primitive.getIndices()?.getArray() ?? null, counts[i], 4);
    if (g.world && determinant3(g.world) < 0)
      for (let t = 0; t < list.length; t += 3) {
        const keep = list[t + 1];
        list[t + 1] = list[t + 2];
        list[t + 2] = keep;
      }
    return list;
  });
  const indices = new Uint32Array(parts.reduce((n, p) => n + p.length, 0));
  let at = 0;
  let base = 0;
  parts.forEach((p, i) => {
    for (const v of p) indices[at++] = v + base;
    base += counts[i];
  });
  return out.setIndices(indexAccessor(document, indices, total));
}

function withAlpha(rgb: Float32Array): Float32Array {
  const out = new Float32Array((rgb.length / 3) * 4);
  for (let i = 0; i < rgb.length / 3; i++) out.set([rgb[i * 3], rgb[i * 3 + 1], rgb[i * 3 + 2], 1], i * 4);
  return out;
}

function moved(semantic: string, values: Float32Array, world: Mat4): Float32Array {
  if (semantic === 'POSITION') return transformPoints(values, world);
  if (semantic === 'NORMAL') return transformDirections(values, normalMatrix(world));
  if (semantic !== 'TANGENT') return values;
  const out = transformDirections(values, linearPart(world), 4);
  // The bitangent is normal × tangent · w: a mirroring transform turns the product over, so w must turn too.
  if (determinant3(world) < 0) for (let i = 3; i < out.length; i += 4) out[i] = -out[i];
  return out;
}
