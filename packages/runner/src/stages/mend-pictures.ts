import type { Texture } from '@gltf-transform/core';
import type { Repairs } from '@wembrel/core/decisions/repairs';
import { type FlatValue, flatToFactors } from '@wembrel/core/repair/materials';
import type { Model } from '@wembrel/core/scene/model';
import { pictureTasks } from '../pictures/picture-tasks.ts';
import type { JobScope } from '../pool/job-scope.ts';
import { sideBySide } from '../pool/side-by-side.ts';
import { forgetImageKey, imageKey } from '../read/image-keys.ts';
import type { Images } from '../read/images.ts';

/** Pictures that take the place of others; each is made once for all models. */
export class PictureRepairs {
  private readonly made = new Map<string, Promise<Uint8Array>>();
  private readonly first = new Map<string, Uint8Array>();

  constructor(
    private readonly images: Images,
    private readonly repairs: Repairs,
    private readonly scope: JobScope,
  ) {}

  async apply(model: Model): Promise<{ resized: number; factors: number; replaced: number }> {
    const { repairs, images } = this;
    const out = { resized: 0, factors: 0, replaced: 0 };
    const textures = model.document.getRoot().listTextures();
    const flat = new Set(repairs.flatToFactor);
    const known = textures.filter((texture) => images.facts.has(imageKey(texture)));
    await sideBySide(known.length, this.scope.threads, async (i) => {
      const texture = known[i];
      const pixels = images.pixelKey(imageKey(texture));
      if (flat.has(pixels)) {
        const e = images.byPixels(pixels);
        const value = e.min.map((v, c) => (v + e.max[c]) / 2) as FlatValue;
        out.factors += flatToFactors(model.document, texture, value);
        return;
      }
      const target = repairs.shareNear[pixels] ?? pixels;
      let bytes: Uint8Array | null = null;
      if (target !== pixels && this.has(target)) {
        bytes = images.byPixels(target).stored;
        out.replaced++;
      } else if (repairs.shareDuplicates) {
        // Duplicates under other encodings get the bytes of the first one, so that one file serves all.
        bytes = this.first.get(pixels) ?? null;
        if (bytes) out.replaced++;
        else this.first.set(pixels, texture.getImage() as Uint8Array);
      }
      const side = repairs.storeAt[target] ?? repairs.storeAt[pixels];
      if (side !== undefined) {
        bytes = await this.stored(this.has(target) ? target : pixels, side, senseOf(texture));
        out.resized++;
      }
      if (bytes && bytes !== texture.getImage()) replace(texture, bytes);
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
      made = this.scope.run(pictureTasks.resize, { path, name, bytes: stored, side, sense });
      this.made.set(key, made);
    }
    return made;
  }
}

function replace(texture: Texture, bytes: Uint8Array): void {
  texture.setImage(bytes as Uint8Array<ArrayBuffer>);
  texture.setMimeType(bytes[0] === 0xff ? 'image/jpeg' : bytes[0] === 0x52 ? 'image/webp' : 'image/png');
  forgetImageKey(texture);
}

function senseOf(texture: Texture): 'colour' | 'normal' | 'data' {
  const uses = texture
    .getGraph()
    .listParentEdges(texture)
    .map((edge) => edge.getName());
  if (uses.some((u) => /^(baseColor|emissive|sheenColor|specularColor|diffuse)Texture$/.test(u))) return 'colour';
  return uses.includes('normalTexture') ? 'normal' : 'data';
}
