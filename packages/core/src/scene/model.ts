import type { Document, Material, Mesh, Node, Primitive, Texture } from '@gltf-transform/core';
import { InputError } from '../errors.ts';
import { determinant3, type Mat4 } from '../math/mat4.ts';
import { firstNotFinite, readFloats, triangleIndices } from './attributes.ts';
import { type MaterialLook, materialLook } from './material.ts';
import { nodeRoles } from './node-roles.ts';
import type { NodeRole } from './roles.ts';

/** One placing of a part in the scene. */
interface Instance {
  node: Node;
  /** Local to scene. */
  world: Mat4;
  /** How many copies the node draws by EXT_mesh_gpu_instancing (1 without). */
  copies: number;
}

/** The geometry of one mesh that uses one slot; arrays are shared with the document and never written to. */
export interface Part {
  id: number;
  name: string;
  mesh: Mesh;
  primitive: Primitive;
  /** Index into the model's slots. */
  slot: number;
  /** glTF mode; 4, 5, 6 are triangles. */
  mode: number;
  positions: Float32Array;
  normals: Float32Array | null;
  /** x y z w. */
  tangents: Float32Array | null;
  /** u v of each set; null where a set is absent. */
  uvs: (Float32Array | null)[];
  /** Linear R G B A of COLOR_0. */
  colors: Float32Array | null;
  /** Three for each triangle. */
  indices: Uint32Array;
  /** Where it is drawn. */
  instances: Instance[];
  /** Where it stands without being drawn: as a lower level of detail, for collisions, or hidden. */
  undrawn: UndrawnInstance[];
}

/** A placing that is not drawn, and why. */
interface UndrawnInstance extends Instance {
  role: Exclude<NodeRole, 'drawn'>;
}

/** Why a part is not drawn; "hidden" where nothing places it; null for one that is drawn. */
export function undrawnRole({
  instances,
  undrawn,
}: Pick<Part, 'instances' | 'undrawn'>): UndrawnInstance['role'] | null {
  if (instances.length > 0) return null;
  return undrawn.find(({ role }) => role === 'level')?.role ?? undrawn[0]?.role ?? 'hidden';
}

/** Parts of a slot that decide where it goes: those that are drawn, or all where none is. */
export function decidingParts(model: Pick<Model, 'parts'>, slot: number): Part[] {
  const parts = model.parts.filter((part) => part.slot === slot);
  const drawn = parts.filter((part) => part.instances.length > 0);
  return drawn.length > 0 ? drawn : parts;
}

export interface Slot {
  name: string;
  material: Material | null;
  look: MaterialLook;
}

/** One source file, read. */
export interface Model {
  path: string;
  document: Document;
  parts: Part[];
  slots: Slot[];
  /** What the file holds that is passed through or left out, by name. */
  notes: string[];
  format: 'gltf' | 'obj' | 'ply' | 'stl';
  /** Files beside it that were read, by their keys. */
  sideFiles: string[];
  /** Files that it names and that are not there, as written. */
  missing: string[];
  /** What was wrong in the file and is put right, in sentences. */
  mended: string[];
}

/** Scale of a part's surface: the largest linear scale of where it is drawn, else of where it stands, as the cube root of |det|; 1 without any. */
export function surfaceScale({ instances, undrawn }: Pick<Part, 'instances' | 'undrawn'>): number {
  const placed = instances.length > 0 ? instances : undrawn;
  return placed.reduce((best, { world }) => Math.max(best, Math.cbrt(Math.abs(determinant3(world)))), 0) || 1;
}

/**
 * Takes a document apart into parts and slots.
 * @param imageKey key of a texture's stored bytes
 * @throws InputError when an index leads outside its vertices or a number is not finite
 */
export function readModel(path: string, document: Document, imageKey: (texture: Texture) => string): Model {
  const root = document.getRoot();
  const notes: string[] = [];
  const slots: Slot[] = root.listMaterials().map((material, i) => ({
    name: material.getName() || `material ${i}`,
    material,
    look: materialLook(material, imageKey),
  }));
  const slotOf = new Map<Material | null, number>(slots.map((slot, i) => [slot.material, i]));
  const instances = new Map<Mesh, Instance[]>();
  const undrawn = new Map<Mesh, UndrawnInstance[]>();
  for (const [node, role] of nodeRoles(document).of) {
    const mesh = node.getMesh();
    if (!mesh) continue;
    if (role !== 'drawn') {
      undrawn.set(mesh, [...(undrawn.get(mesh) ?? []), { node, world: node.getWorldMatrix(), copies: 1, role }]);
      continue;
    }
    const gpu = node.getExtension('EXT_mesh_gpu_instancing') as { listAttributes?(): { getCount(): number }[] } | null;
    const copies = gpu?.listAttributes?.()[0]?.getCount() ?? 1;
    const list = instances.get(mesh) ?? [];
    list.push({ node, world: node.getWorldMatrix(), copies });
    instances.set(mesh, list);
  }
  const parts: Part[] = [];
  root.listMeshes().forEach((mesh, m) => {
    const meshName = mesh.getName() || (instances.get(mesh) ?? undrawn.get(mesh))?.[0]?.node.getName() || `mesh ${m}`;
    mesh.listPrimitives().forEach((primitive, p) => {
      const where = `"${meshName}", primitive ${p}`;
      let slot = slotOf.get(primitive.getMaterial());
      if (slot === undefined) {
        slot = slots.length;
        slots.push({ name: 'no material', material: null, look: materialLook(null, imageKey) });
        slotOf.set(null, slot);
      }
      parts.push(
        readPart({
          path,
          where,
          name: meshName,
          id: parts.length,
          mesh,
          primitive,
          slot,
          instances: instances.get(mesh) ?? [],
          undrawn: undrawn.get(mesh) ?? [],
        }),
      );
    });
  });
  notes.push(...undrawnNotes(undrawn));
  if (parts.some((part) => part.mode < 4)) notes.push('points and lines are passed through as they are');
  if (parts.some((part) => part.instances.some((i) => i.copies > 1)))
    notes.push('GPU-instanced copies (EXT_mesh_gpu_instancing) count as one draw call');
  if (root.listAnimations().length > 0) notes.push('animations are passed through');
  if (root.listSkins().length > 0) notes.push('skins are passed through');
  for (const extension of root.listExtensionsUsed())
    if (/^KHR_materials_/.test(extension.extensionName) && !/unlit|emissive_strength/.test(extension.extensionName))
      notes.push(`${extension.extensionName} stays on the slots that use it; such slots are kept apart`);
  return { path, document, parts, slots, notes, format: 'gltf', sideFiles: [], missing: [], mended: [] };
}

const UNDRAWN_WORDS: Record<UndrawnInstance['role'], [one: string, more: string]> = {
  level: ['lower level of detail', 'lower levels of detail'],
  collision: ['collision shape', 'collision shapes'],
  hidden: ['hidden object', 'hidden objects'],
};

/** What stands in a file without being drawn, in sentences. */
function undrawnNotes(undrawn: ReadonlyMap<Mesh, readonly UndrawnInstance[]>): string[] {
  const all = [...undrawn.values()].flat();
  return Object.entries(UNDRAWN_WORDS).flatMap(([role, [one, more]]) => {
    const found = all.filter((instance) => instance.role === role).length;
    const shared = role === 'level' ? 'and on the bays of the finest' : 'and not baked';
    return found === 0
      ? []
      : [`${found} ${found === 1 ? one : more} (by extension, name or scene): not counted, ${shared}`];
  });
}

interface PartInput {
  path: string;
  where: string;
  name: string;
  id: number;
  mesh: Mesh;
  primitive: Primitive;
  slot: number;
  instances: Instance[];
  undrawn: UndrawnInstance[];
}

function readPart({ path, where, name, id, mesh, primitive, slot, instances, undrawn }: PartInput): Part {
  const count = primitive.getAttribute('POSITION')?.getCount() ?? 0;
  const floats = (semantic: string): Float32Array | null => {
    const accessor = primitive.getAttribute(semantic);
    if (!accessor) return null;
    const values = readFloats(accessor);
    const bad = firstNotFinite(values);
    if (values.length !== accessor.getElementSize() * accessor.getCount() || accessor.getCount() !== count)
      throw new InputError(path, `${semantic} of ${where} has ${accessor.getCount()} elements, others have ${count}`);
    if (bad >= 0) {
      const vertex = Math.floor(bad / accessor.getElementSize());
      throw new InputError(path, `${semantic} of ${where} holds ${values[bad]} at vertex ${vertex}`);
    }
    return values;
  };
  const positions = floats('POSITION') as Float32Array;
  const stored = primitive.getIndices()?.getArray() ?? null;
  if (stored)
    for (let i = 0; i < stored.length; i++)
      if (stored[i] >= count)
        throw new InputError(path, `index ${i} of ${where} is ${stored[i]}, but there are ${count} vertices`);
  const uvs: (Float32Array | null)[] = [];
  for (let s = 0; primitive.getAttribute(`TEXCOORD_${s}`); s++) uvs.push(floats(`TEXCOORD_${s}`));
  const colorAccessor = primitive.getAttribute('COLOR_0');
  let colors = floats('COLOR_0');
  if (colors && colorAccessor?.getElementSize() === 3) {
    const rgba = new Float32Array(count * 4);
    for (let i = 0; i < count; i++) {
      rgba.set(colors.subarray(i * 3, i * 3 + 3), i * 4);
      rgba[i * 4 + 3] = 1;
    }
    colors = rgba;
  }
  const mode = primitive.getMode();
  return {
    id,
    name,
    mesh,
    primitive,
    slot,
    mode,
    positions,
    normals: floats('NORMAL'),
    tangents: floats('TANGENT'),
    uvs,
    colors,
    indices: triangleIndices(stored, count, mode),
    instances,
    undrawn,
  };
}
