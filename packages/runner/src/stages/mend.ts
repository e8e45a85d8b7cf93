import { isUnrepaired, type Repairs } from '@wembrel/core/decisions/repairs';
import { drawOpaque, shareMaterials, shareTextures } from '@wembrel/core/repair/materials';
import { dropFaces, hardenAtUvBorders, makeInstances, weldNormals } from '@wembrel/core/repair/meshes';
import { normalsByAngle } from '@wembrel/core/repair/normals';
import { weldUvs } from '@wembrel/core/repair/uvs';

import type { JobScope } from '../pool/job-scope.ts';
import { imageKey } from '../read/image-keys.ts';
import { rereadModel } from '../read/load.ts';
import { reduceMeshes } from '../reduce/reduce-meshes.ts';
import { PictureRepairs } from './mend-pictures.ts';
import type { ReadFiles } from './read.ts';

/** What was mended, counted. */
export interface Repaired {
  sharedTextures: number;
  sharedMaterials: number;
  resized: number;
  factors: number;
  instances: number;
  faces: number;
  vertices: number;
  hardened: number;
  /** Vertices whose UVs were brought together. */
  weldedUvs: number;
  opaque: number;
  /** Triangles fewer, of one copy of each mesh that was reduced. */
  triangles: number;
  /** Greatest error of what was reduced, m; see `Reduced`. */
  deviation: number;
}

/**
 * Mends the models that were read, in memory: the documents change, and the models are read from them anew. Sources stay as they are.
 * @throws InputError when a picture cannot be decoded @throws Cancelled
 */
export async function repairModels(read: ReadFiles, repairs: Repairs, scope: JobScope): Promise<Repaired> {
  const sum: Repaired = {
    sharedTextures: 0,
    sharedMaterials: 0,
    resized: 0,
    factors: 0,
    instances: 0,
    faces: 0,
    vertices: 0,
    hardened: 0,
    weldedUvs: 0,
    opaque: 0,
    triangles: 0,
    deviation: 0,
  };
  if (isUnrepaired(repairs)) return sum;
  const pictures = new PictureRepairs(read.images, repairs, scope);
  const opaque = new Set(repairs.opaque);
  const harden = new Set(repairs.harden);
  const normals = new Map(Object.entries(repairs.normals));
  for (const entry of read.models) {
    scope.checkpoint();
    const { document } = entry.model;
    const textures = await pictures.apply(entry.model);
    sum.resized += textures.resized;
    sum.factors += textures.factors;
    sum.sharedTextures += textures.replaced;
    if (repairs.shareTwins) {
      shareTextures(document, (t) => imageKey(t));
      sum.sharedMaterials += shareMaterials(document, imageKey);
    }
    if (opaque.size > 0) sum.opaque += drawOpaque(document, opaque);
    if (repairs.dropFaces) sum.faces += dropFaces(document);
    if (repairs.weldUvs !== null) sum.weldedUvs += weldUvs(document, repairs.weldUvs);
    if (harden.size > 0) sum.hardened += hardenAtUvBorders(document, harden);
    if (normals.size > 0) sum.hardened += normalsByAngle(document, normals);
    if (repairs.weldNormals) sum.vertices += weldNormals(document);
    if (Object.keys(repairs.reduce).length > 0) {
      // Faces that were left out and normals made anew count already.
      const reduced = await reduceMeshes(rereadModel(entry.model), repairs.reduce);
      sum.triangles += reduced.triangles;
      sum.deviation = Math.max(sum.deviation, reduced.deviation);
    }
    if (repairs.makeInstances) sum.instances += makeInstances(document);
    const model = rereadModel(entry.model);
    await read.images.add(model);
    entry.model = model;
  }
  return sum;
}
