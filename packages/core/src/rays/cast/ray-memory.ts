import { bvhBytes } from '@wembrel/kernels/bvh';
import type { PairingDecision, RaySettings } from '../../decisions/ray-decisions.ts';
import { InputError } from '../../errors.ts';
import type { Model } from '../../scene/model.ts';
import { rayMapsBytes } from '../maps/baked-maps.ts';
import { rayMeshBytes } from '../target/ray-mesh.ts';
import type { ObjectRef, SceneObject } from '../target/scene-objects.ts';
import { findObjects } from './prepare.ts';

/** Bytes that a ray bake reserves. */
export interface RayMemory {
  /** Triangles of all pairings, in shared memory. */
  meshes: number;
  /** The largest hierarchies that are there at one time. */
  hierarchies: number;
  maps: number;
  total: number;
}

/** A hierarchy lies in one memory of 32-bit addresses. */
const MOST = 4 * 1024 ** 3;

const gib = (bytes: number) => `${(bytes / 1024 ** 3).toFixed(1)} GiB`;

export interface RayMemoryInput {
  pairings: readonly PairingDecision[];
  settings: RaySettings;
  side: number;
  slots: number;
  available: number;
}

/**
 * What a bake will reserve, told before anything is taken.
 * @param side of the maps, px @param slots casters at one time @param available bytes that there are
 * @throws InputError with the numbers when a high-poly is too large for one hierarchy, or all of it for the machine
 */
export function planRayMemory(
  models: readonly Model[],
  objects: readonly SceneObject[],
  { pairings, settings, side, slots, available }: RayMemoryInput,
): RayMemory {
  const out: RayMemory = {
    meshes: 0,
    hierarchies: 0,
    maps: rayMapsBytes(side, side, settings.maps, settings.bits),
    total: 0,
  };
  const count = (refs: readonly ObjectRef[], pairing: string) => {
    let triangles = 0;
    let vertices = 0;
    let sets = 0;
    for (const sceneObject of findObjects(objects, refs, pairing))
      for (const id of sceneObject.parts) {
        const part = models[sceneObject.model].parts[id];
        triangles += part.indices.length / 3;
        vertices += part.positions.length / 3;
        sets = Math.max(sets, part.uvs.length);
      }
    return { triangles, vertices, bytes: rayMeshBytes(triangles, vertices, sets) };
  };
  let seen = 0;
  for (const pairing of pairings) {
    const [high, low] = [count(pairing.high, pairing.name), count(pairing.low, pairing.name)];
    const own = bvhBytes(high.triangles, high.vertices, slots);
    if (own > MOST)
      throw new InputError(
        pairing.high[0]?.path ?? pairing.name,
        `the high-poly of "${pairing.name}" has ${high.triangles} triangles, whose hierarchy takes ${gib(own)}; ${gib(MOST)} are the most`,
      );
    out.meshes += high.bytes + low.bytes;
    out.hierarchies = Math.max(out.hierarchies, own + bvhBytes(low.triangles, low.vertices, slots));
    seen += own;
  }
  if (settings.ao.sees === 'all' && settings.maps.includes('ao') && pairings.length > 1) {
    if (seen > MOST)
      throw new InputError(
        pairings[0].name,
        `AO that sees everything needs one hierarchy of ${gib(seen)}; ${gib(MOST)} are the most`,
      );
    out.hierarchies += seen;
  }
  out.total = out.meshes + out.hierarchies + out.maps;
  if (out.total > available)
    throw new InputError(
      pairings[0]?.name ?? 'bake',
      `the bake needs ${gib(out.total)} (meshes ${gib(out.meshes)}, hierarchies ${gib(out.hierarchies)}, maps ${gib(out.maps)}), but there are ${gib(available)}; bake fewer pairings or smaller maps`,
    );
  return out;
}
