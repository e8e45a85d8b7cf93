import { Accessor, type Document, type Material, type Mesh, type Node, type Primitive } from '@gltf-transform/core';
import { determinant3, type Mat4 } from '../math/mat4.ts';
import { indexAccessor } from '../scene/accessors.ts';
import { readFloats, triangleIndices } from '../scene/attributes.ts';
import { hasExtras, instancedApart, joinablePrimitive, moved, movedNodes } from '../scene/joinable.ts';
import { nodeRoles } from '../scene/node-roles.ts';
import { tidy } from './rebuild.ts';

/** A primitive with the transform that takes it to where the joined part lives. */
interface Piece {
  primitive: Primitive;
  world: Mat4;
}

/**
 * Joins primitives of one mesh that share a material.
 * @param materials only primitives with one of these
 * @returns how many draw calls fewer the scene takes
 */
export function joinPrimitives(document: Document, materials?: ReadonlySet<Material>): number {
  const uses = meshUses(document);
  let saved = 0;
  for (const mesh of document.getRoot().listMeshes()) {
    const own = mesh.listPrimitives().filter((primitive) => joins(primitive, materials));
    for (const group of groups(own.map((primitive) => ({ primitive, world: null })))) {
      if (group.length < 2) continue;
      const joined = build(document, group);
      for (const { primitive } of group) {
        mesh.removePrimitive(primitive);
        primitive.dispose();
      }
      mesh.addPrimitive(joined);
      saved += (group.length - 1) * (uses.get(mesh)?.length ?? 0);
    }
  }
  tidy(document);
  return saved;
}

function joins(primitive: Primitive, materials: ReadonlySet<Material> | undefined): boolean {
  if (!materials) return true;
  const material = primitive.getMaterial();
  return material !== null && materials.has(material);
}

/** Nodes that are drawn, by their mesh. */
function meshUses(document: Document): Map<Mesh, Node[]> {
  const uses = new Map<Mesh, Node[]>();
  for (const [node, role] of nodeRoles(document).of) {
    const mesh = node.getMesh();
    if (mesh && role === 'drawn') uses.set(mesh, [...(uses.get(mesh) ?? []), node]);
  }
  return uses;
}

/**
 * Joins parts that share a material: first inside each mesh, then across nodes, in world space, where nothing animates, skins,
 * instances or names the part apart (custom properties on the node or mesh, or its name in `keepParts`). Placings that
 * mirror have their triangles turned round.
 *
 * @returns how many draw calls fewer the scene takes
 */
export function joinParts(document: Document, keepParts: string[]): number {
  const root = document.getRoot();
  let saved = joinPrimitives(document);
  const uses = meshUses(document);
  const moved = movedNodes(document);
  const pieces: (Piece & { node: Node; mesh: Mesh })[] = [];
  for (const [mesh, nodes] of uses) {
    const node = nodes[0];
    if (instancedApart(nodes, mesh, moved) || keepParts.includes(node.getName()) || keepParts.includes(mesh.getName()))
      continue;
    for (const primitive of mesh.listPrimitives()) pieces.push({ primitive, world: node.getWorldMatrix(), node, mesh });
  }
  const scene = root.getDefaultScene() ?? root.listScenes()[0];
  const big = groups(pieces).filter((group) => group.length > 1);
  if (scene && big.length > 0) {
    const above = commonNode(big.flat().map((piece) => piece.node));
    const mesh = document.createMesh();
    const joined = document.createNode().setMesh(mesh);
    scene.addChild(joined);
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
    nameJoined(joined, mesh, above);
  }
  tidy(document);
  return saved;
}

/** The lowest node with a name that all stand in or below; null without one. */
function commonNode(nodes: readonly Node[]): Node | null {
  const chains = nodes.map((node) => {
    const chain: Node[] = [];
    for (let at: Node | null = node; at; at = at.getParentNode()) chain.unshift(at);
    return chain;
  });
  let common: Node | null = null;
  for (const [i, node] of chains[0].entries()) {
    if (chains.some((chain) => chain[i] !== node)) break;
    if (node.getName() !== '') common = node;
  }
  return common;
}

/** An object that became one keeps its name; where something of it is still there, it is told apart. */
function nameJoined(joined: Node, mesh: Mesh, object: Node | null): void {
  const name = object?.getName() ?? '';
  const gone = object === null || object.isDisposed();
  const title = name === '' ? 'joined' : gone ? name : `${name} joined`;
  joined.setName(title);
  mesh.setName(title);
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
    const primitive = piece.primitive;
    if (!joinablePrimitive(primitive)) continue;
    const material = primitive.getMaterial();
    if (!materials.has(material)) materials.set(material, materials.size);
    const semantics = primitive.listSemantics().filter((text) => text !== 'COLOR_0');
    const key = `${materials.get(material)} ${semantics.sort().join(' ')}`;
    const list = byKey.get(key);
    if (list) list.push(piece);
    else byKey.set(key, [piece]);
  }
  return [...byKey.values()];
}

function build(document: Document, group: { primitive: Primitive; world: Mat4 | null }[]): Primitive {
  const semantics = new Set(group.flatMap((part) => part.primitive.listSemantics()));
  const first = group[0].primitive;
  const out = document.createPrimitive().setMaterial(first.getMaterial()).setMode(4);
  const counts = group.map((part) => (part.primitive.getAttribute('POSITION') as Accessor).getCount());
  const total = counts.reduce((sum, count) => sum + count, 0);
  for (const semantic of [...semantics].sort()) {
    const size = semantic === 'COLOR_0' || semantic === 'TANGENT' ? 4 : semantic.startsWith('TEXCOORD_') ? 2 : 3;
    const all = new Float32Array(total * size);
    let at = 0;
    group.forEach((part, i) => {
      const accessor = part.primitive.getAttribute(semantic);
      let values: Float32Array;
      if (!accessor) values = new Float32Array(counts[i] * size).fill(1);
      else {
        values = readFloats(accessor);
        if (semantic === 'COLOR_0' && accessor.getElementSize() === 3) values = withAlpha(values);
        if (part.world) values = moved(semantic, values, part.world);
      }
      all.set(values, at);
      at += values.length;
    });
    const type = size === 2 ? Accessor.Type.VEC2 : size === 3 ? Accessor.Type.VEC3 : Accessor.Type.VEC4;
    out.setAttribute(semantic, document.createAccessor().setType(type).setArray(all));
  }
  const parts = group.map((part, i) => {
    const list = triangleIndices(part.primitive.getIndices()?.getArray() ?? null, counts[i], 4);
    if (part.world && determinant3(part.world) < 0)
      for (let t = 0; t < list.length; t += 3) {
        const keep = list[t + 1];
        list[t + 1] = list[t + 2];
        list[t + 2] = keep;
      }
    return list;
  });
  const indices = new Uint32Array(parts.reduce((sum, part) => sum + part.length, 0));
  let at = 0;
  let base = 0;
  parts.forEach((part, i) => {
    for (const v of part) indices[at++] = v + base;
    base += counts[i];
  });
  return out.setIndices(indexAccessor(document, indices, total));
}

function withAlpha(rgb: Float32Array): Float32Array {
  const out = new Float32Array((rgb.length / 3) * 4);
  for (let i = 0; i < rgb.length / 3; i++) out.set([rgb[i * 3], rgb[i * 3 + 1], rgb[i * 3 + 2], 1], i * 4);
  return out;
}
