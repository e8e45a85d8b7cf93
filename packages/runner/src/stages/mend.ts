import type { Document } from '@gltf-transform/core';
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
import type { ReadFiles, ReadModel } from './read.ts';

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

/** What was read, mended. */
export interface MendedFiles extends ReadFiles {
  repaired: Repaired;
}

/**
 * The second stage: mends the models that were read, in memory. It uses up the documents of its input: they change, and the models are read
 * from them again. Sources stay as they are.
 * @throws InputError when a picture cannot be decoded @throws Cancelled
 */
export async function mend(read: ReadFiles, repairs: Repairs, scope: JobScope): Promise<MendedFiles> {
  const repaired: Repaired = { ...NOTHING };
  if (isUnrepaired(repairs)) return { ...read, repaired };
  const pictures = new PictureRepairs(read.images, repairs, scope);
  const models: ReadModel[] = [];
  for (const entry of read.models) {
    scope.checkpoint();
    const { document } = entry.model;
    const textures = await pictures.apply(entry.model);
    repaired.resized += textures.resized;
    repaired.factors += textures.factors;
    repaired.sharedTextures += textures.replaced;
    mendDocument(document, repairs, repaired);
    if (Object.keys(repairs.reduce).length > 0) {
      // Faces that were left out and recomputed normals count already.
      const reduced = await reduceMeshes(rereadModel(entry.model), repairs.reduce);
      repaired.triangles += reduced.triangles;
      repaired.deviation = Math.max(repaired.deviation, reduced.deviation);
    }
    if (repairs.makeInstances) repaired.instances += makeInstances(document);
    const model = rereadModel(entry.model);
    await read.images.add(model);
    models.push({ ...entry, model });
  }
  return { ...read, models, repaired };
}

/** What is mended in a document besides its pictures and its triangle counts; adds to the counts. */
function mendDocument(document: Document, repairs: Repairs, sum: Repaired): void {
  if (repairs.shareDuplicates) {
    shareTextures(document, (texture) => imageKey(texture));
    sum.sharedMaterials += shareMaterials(document, imageKey);
  }
  if (repairs.opaque.length > 0) sum.opaque += drawOpaque(document, new Set(repairs.opaque));
  if (repairs.dropFaces) sum.faces += dropFaces(document);
  if (repairs.weldUvs !== null) sum.weldedUvs += weldUvs(document, repairs.weldUvs);
  if (repairs.harden.length > 0) sum.hardened += hardenAtUvBorders(document, new Set(repairs.harden));
  const normals = new Map(Object.entries(repairs.normals));
  if (normals.size > 0) sum.hardened += normalsByAngle(document, normals);
  if (repairs.weldNormals) sum.vertices += weldNormals(document);
}

const NOTHING: Readonly<Repaired> = {
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
