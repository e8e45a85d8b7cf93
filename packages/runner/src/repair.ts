import type { Texture } from '@gltf-transform/core';
import { isUnrepaired, type Repairs } from '@wembrel/core/decisions/repairs';
import {
  drawOpaque,
  type FlatValue,
  flatToFactors,
  shareMaterials,
  shareTextures,
} from '@wembrel/core/repair/materials';
import { dropFaces, hardenAtUvBorders, makeInstances, weldNormals } from '@wembrel/core/repair/meshes';
import { normalsByAngle } from '@wembrel/core/repair/normals';
import { weldUvs } from '@wembrel/core/repair/uvs';
import type { Model } from '@wembrel/core/scene/model';
import type { Images } from './images.ts';
import type { Pool } from './pool/pool.ts';
import { forgetImageKey, imageKey, rereadModel } from './read/load.ts';
import { reduceMeshes } from './reduce-meshes.ts';
import { type ReadFiles, sideBySide } from './survey.ts';

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
export async function repairModels(read: ReadFiles, repairs: Repairs, pool: Pool): Promise<Repaired> {
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
  const pictures = new PictureRepairs(read.images, repairs, pool);
  const opaque = new Set(repairs.opaque);
  const harden = new Set(repairs.harden);
  const normals = new Map(Object.entries(repairs.normals));
  for (const entry of read.models) {
    pool.checkpoint();
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

/** Pictures that take the place of others; each is made once for all models. */
class PictureRepairs {
  private readonly made = new Map<string, Promise<Uint8Array>>();
  private readonly first = new Map<string, Uint8Array>();

  constructor(
    private readonly images: Images,
    private readonly repairs: Repairs,
    private readonly pool: Pool,
  ) {}

  async apply(model: Model): Promise<{ resized: number; factors: number; replaced: number }> {
    const { repairs, images } = this;
    const out = { resized: 0, factors: 0, replaced: 0 };
    const textures = model.document.getRoot().listTextures();
    const flat = new Set(repairs.flatToFactor);
    const known = textures.filter((t) => images.facts.has(imageKey(t)));
    await sideBySide(known.length, this.pool.threads, async (i) => {
      const t = known[i];
      const pixels = images.pixelKey(imageKey(t));
      if (flat.has(pixels)) {
        const e = images.byPixels(pixels);
        const value = e.min.map((v, c) => (v + e.max[c]) / 2) as FlatValue;
        out.factors += flatToFactors(model.document, t, value);
        return;
      }
      const target = repairs.shareNear[pixels] ?? pixels;
      let bytes: Uint8Array | null = null;
      if (target !== pixels && this.has(target)) {
        bytes = images.byPixels(target).stored;
        out.replaced++;
      } else if (repairs.shareTwins) {
        // Twins under other encodings get the bytes of the first one, so that one file serves all.
        bytes = this.first.get(pixels) ?? null;
        if (bytes) out.replaced++;
        else this.first.set(pixels, t.getImage() as Uint8Array);
      }
      const side = repairs.storeAt[target] ?? repairs.storeAt[pixels];
      if (side !== undefined) {
        bytes = await this.stored(this.has(target) ? target : pixels, side, senseOf(t));
        out.resized++;
      }
      if (bytes && bytes !== t.getImage()) replace(t, bytes);
    });
    return out;
  }

  private has(pixels: string): boolean {
    return this.images.knows(pixels);
  }

  private stored(pixels: string, side: number, sense: 'colour' | 'normal' | 'data'): Promise<Uint8Array> {
    const key = `${pixels} ${side} ${sense}`;
    let made = this.made.get(key);
    if (!made) {
      const { path, name, stored } = this.images.byPixels(pixels);
      made = this.pool.run('resize', { path, name, bytes: stored, side, sense });
      this.made.set(key, made);
    }
    return made;
  }
}

function replace(t: Texture, bytes: Uint8Array): void {
  t.setImage(bytes as Uint8Array<ArrayBuffer>);
  t.setMimeType(bytes[0] === 0xff ? 'image/jpeg' : bytes[0] === 0x52 ? 'image/webp' : 'image/png');
  forgetImageKey(t);
}

function senseOf(t: Texture): 'colour' | 'normal' | 'data' {
  const uses = t
    .getGraph()
    .listParentEdges(t)
    .map((e) => e.getName());
  if (uses.some((u) => /^(baseColor|emissive|sheenColor|specularColor|diffuse)Texture$/.test(u))) return 'colour';
  return uses.includes('normalTexture') ? 'normal' : 'data';
}
