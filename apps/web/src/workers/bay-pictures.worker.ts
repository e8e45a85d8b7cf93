import { WebIO } from '@gltf-transform/core';
import { ALL_EXTENSIONS } from '@gltf-transform/extensions';
import type { BayLook } from '@wembrel/core/layout/bay-look';

/** Pictures of materials, each read from a model that shows it. */
export interface BayPicturesRequest {
  models: { url: string; materials: { material: number; part: number; look: BayLook }[] }[];
  /** Materials whose picture has an address of its own; null: they have none. */
  pictures?: { url: string | null; material: number; look: BayLook }[];
  /** Longest side of a picture, px. */
  side: number;
}

/** What fills the bays of a material. */
export interface BayPaint {
  /** In the mean. */
  colour: string;
  picture: {
    image: ImageBitmap;
    /** What it covers, texels of the material. */
    width: number;
    height: number;
    /** Sides beyond which it goes on. */
    repetition: 'repeat' | 'repeat-x' | 'repeat-y' | 'no-repeat';
    nearest: boolean;
  } | null;
}

export type BayPicturesAnswer = { material: number; paint: BayPaint } | { failed: string };

const io = new WebIO().registerExtensions(ALL_EXTENSIONS);

/** Reads one model after another and answers for each material as soon as its picture is there. */
self.onmessage = async ({ data }: MessageEvent<BayPicturesRequest>) => {
  for (const { url, material, look } of data.pictures ?? [])
    try {
      send(material, await painted(url === null ? null : await fetched(url), 'image/png', look, data.side));
    } catch (error) {
      self.postMessage({ failed: error instanceof Error ? error.message : String(error) } satisfies BayPicturesAnswer);
    }
  for (const { url, materials } of data.models)
    try {
      const document = await io.readBinary(await fetched(url));
      const parts = document
        .getRoot()
        .listMeshes()
        .flatMap((mesh) => mesh.listPrimitives());
      for (const { material, part, look } of materials) {
        const texture = parts[part]?.getMaterial()?.getBaseColorTexture() ?? null;
        send(
          material,
          texture
            ? await painted(texture.getImage(), texture.getMimeType(), look, data.side)
            : { colour: cssOf(look.colour), picture: null },
        );
      }
    } catch (error) {
      self.postMessage({ failed: error instanceof Error ? error.message : String(error) } satisfies BayPicturesAnswer);
    }
};

async function fetched(url: string): Promise<Uint8Array> {
  const response = await fetch(url);
  if (!response.ok) throw new Error(`the server answered ${response.status}`);
  return new Uint8Array(await response.arrayBuffer());
}

function send(material: number, paint: BayPaint): void {
  const transfer = paint.picture ? [paint.picture.image] : [];
  self.postMessage({ material, paint } satisfies BayPicturesAnswer, { transfer });
}

const cssOf = (c: readonly number[]): string => `rgb(${c.map((v) => Math.round(v * 255)).join(' ')})`;

/** A picture times its colour, until it is the same again, no larger than it may be. */
async function painted(bytes: Uint8Array | null, type: string, look: BayLook, most: number): Promise<BayPaint> {
  if (!bytes || !look.picture) return { colour: cssOf(look.colour), picture: null };
  const { width, height, across, down, nearest } = look.picture;
  const image = await createImageBitmap(new Blob([bytes as BlobPart], { type }));
  const by = Math.min(1, most / Math.max(image.width, image.height));
  const w = Math.max(1, Math.round(image.width * by));
  const h = Math.max(1, Math.round(image.height * by));
  const copies = [across === 'mirror' ? 2 : 1, down === 'mirror' ? 2 : 1];
  const canvas = new OffscreenCanvas(w * copies[0], h * copies[1]);
  const context = canvas.getContext('2d', { willReadFrequently: true }) as OffscreenCanvasRenderingContext2D;
  context.imageSmoothingQuality = 'high';
  for (let x = 0; x < copies[0]; x++)
    for (let y = 0; y < copies[1]; y++) {
      // A mirrored copy runs back from where it ends.
      context.setTransform(x ? -1 : 1, 0, 0, y ? -1 : 1, x ? 2 * w : 0, y ? 2 * h : 0);
      context.drawImage(image, 0, 0, w, h);
    }
  image.close();
  const mean = settle(context, canvas.width, canvas.height, look);
  return {
    colour: cssOf(mean),
    picture: {
      image: canvas.transferToImageBitmap(),
      width: width * copies[0],
      height: height * copies[1],
      repetition:
        across === 'clamp' ? (down === 'clamp' ? 'no-repeat' : 'repeat-y') : down === 'clamp' ? 'repeat-x' : 'repeat',
      nearest,
    },
  };
}

/**
 * Multiplies by the colour, and drops alpha where it counts for nothing. (Products of encoded values are near to encoded products, since the curve
 * is nearly a power; a canvas has lost the colour of texels with no alpha at all.) @returns the mean, 0 … 1
 */
function settle(context: OffscreenCanvasRenderingContext2D, w: number, h: number, look: BayLook): number[] {
  const pixels = context.getImageData(0, 0, w, h);
  const { data } = pixels;
  const sum = [0, 0, 0];
  for (let i = 0; i < data.length; i += 4) {
    for (let k = 0; k < 3; k++) {
      data[i + k] = Math.round(data[i + k] * look.colour[k]);
      sum[k] += data[i + k];
    }
    if (look.opaque) data[i + 3] = 255;
  }
  context.putImageData(pixels, 0, 0);
  return sum.map((v) => v / (255 * w * h));
}
