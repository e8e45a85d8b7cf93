import type { Document } from '@gltf-transform/core';
import { InputError } from '../errors.ts';
import { transformPoints } from '../math/mat4.ts';
import { floatAccessor, indexAccessor } from '../scene/accessors.ts';
import type { Model } from '../scene/model.ts';
import { type CollisionShapes, type CollisionSpec, collisionShapes } from './collide.ts';
import type { Triangles } from './pieces.ts';
import { type Polyhedron, triangles } from './polyhedron.ts';

/** What gets shapes of its own: a whole model, or each of its nodes that draws. */
export type CollisionGroup = 'model' | 'object';

/** The shapes of one group. */
export interface NamedShapes extends CollisionShapes {
  name: string;
}

/**
 * Shapes for what a model draws, in the scene's own measure.
 * @param name of the model, for shapes of all of it
 * @throws InputError where nothing is drawn
 */
export function shapesOfModel(model: Model, name: string, by: CollisionGroup, spec: CollisionSpec): NamedShapes[] {
  const groups = surfacesOf(model, name, by);
  if (groups.size === 0) throw new InputError(model.path, 'it draws nothing that could get a collision shape');
  return [...groups].map(([group, mesh]) => ({ name: group, ...collisionShapes(mesh, spec) }));
}

/** Surfaces by group; groups of one name are one. Copies of GPU instancing stand elsewhere and get none. */
function surfacesOf({ parts }: Model, name: string, by: CollisionGroup): Map<string, Triangles> {
  const groups = new Map<string, { positions: number[]; indices: number[] }>();
  for (const { positions, indices, instances, mesh } of parts)
    for (const { node, world, copies } of instances) {
      if (copies > 1 || indices.length === 0) continue;
      const group = by === 'model' ? name : node.getName() || mesh.getName() || name;
      const surface = groups.get(group) ?? { positions: [], indices: [] };
      const first = surface.positions.length / 3;
      for (const value of transformPoints(positions, world)) surface.positions.push(value);
      for (const index of indices) surface.indices.push(first + index);
      groups.set(group, surface);
    }
  return groups;
}

/** Hangs shapes into the scene as nodes, NAME_collision or, of several, NAME_collision_01 and so on; what they exactly are is in their extras. */
export function addShapes(document: Document, shapes: readonly NamedShapes[], as: CollisionSpec['as']): void {
  const scene = document.getRoot().getDefaultScene() ?? document.getRoot().listScenes()[0] ?? document.createScene();
  for (const { name, solids, round } of shapes)
    solids.forEach((solid, i) => {
      const number = solids.length > 1 ? `_${String(i + 1).padStart(2, '0')}` : '';
      const node = document.createNode(`${name}_collision${number}`).setMesh(solidMesh(document, solid));
      node.setExtras({ collision: { shape: as, ...(round ?? {}) } });
      scene.addChild(node);
    });
}

function solidMesh(document: Document, solid: Polyhedron) {
  const [buffer = document.createBuffer()] = document.getRoot().listBuffers();
  const positions = floatAccessor(document, 'VEC3', Float32Array.from(solid.corners)).setBuffer(buffer);
  const indices = indexAccessor(document, triangles(solid), solid.corners.length / 3).setBuffer(buffer);
  const primitive = document.createPrimitive().setAttribute('POSITION', positions).setIndices(indices);
  return document.createMesh().addPrimitive(primitive);
}

/** Takes everything that is drawn out of a document, so that only what is added then is left. */
export function emptyDocument(document: Document): void {
  const root = document.getRoot();
  for (const list of [
    root.listAnimations(),
    root.listSkins(),
    root.listNodes(),
    root.listMeshes(),
    root.listMaterials(),
    root.listTextures(),
    root.listCameras(),
    root.listAccessors(),
  ])
    for (const property of list) property.dispose();
}
