import { createHash } from 'node:crypto';
import { InputError } from '@wembrel/core/errors';
import type { Raster } from '@wembrel/core/image/raster';
import { LIMITS } from '@wembrel/core/limits';
import sharp from 'sharp';

// One image at a time per thread: the worker pool is what runs them side by side.
sharp.concurrency(1);
sharp.cache(false);

export type ImageKind = 'png' | 'jpeg' | 'webp';

/** The kind of an image by its first bytes. */
export function imageKind(bytes: Uint8Array): ImageKind | null {
  if (bytes.length > 8 && bytes[0] === 0x89 && bytes[1] === 0x50 && bytes[2] === 0x4e && bytes[3] === 0x47)
    return 'png';
  if (bytes.length > 3 && bytes[0] === 0xff && bytes[1] === 0xd8 && bytes[2] === 0xff) return 'jpeg';
  const text = (from: number, to: number) => String.fromCharCode(...bytes.subarray(from, to));
  if (bytes.length > 12 && text(0, 4) === 'RIFF' && text(8, 12) === 'WEBP') return 'webp';
  return null;
}

/**
 * Decodes PNG (8 or 16 bit), JPEG or WebP to R G B A as stored, without any colour conversion, into shared memory.
 * @throws InputError naming the image
 */
export async function decodeImage(path: string, name: string, bytes: Uint8Array): Promise<Raster> {
  if (!imageKind(bytes)) throw new InputError(path, `the image "${name}" is not PNG, JPEG or WebP`);
  let width = 0;
  let height = 0;
  let depth: string | undefined;
  try {
    const meta = await sharp(bytes, { limitInputPixels: false }).metadata();
    width = meta.width ?? 0;
    height = meta.height ?? 0;
    depth = meta.depth;
  } catch {
    throw new InputError(path, `the image "${name}" cannot be read; the file may be cut short`);
  }
  if (width > LIMITS.textureSide || height > LIMITS.textureSide)
    throw new InputError(
      path,
      `the image "${name}" is ${width}×${height}; at most ${LIMITS.textureSide} px a side are read`,
    );
  const bits = depth === 'ushort' ? 16 : 8;
  try {
    let image = sharp(bytes, { failOn: 'warning', limitInputPixels: false, ignoreIcc: true }).ensureAlpha();
    image = bits === 16 ? image.toColourspace('rgb16') : image.toColourspace('srgb');
    const { data, info } = await image
      .raw({ depth: bits === 16 ? 'ushort' : 'uchar' })
      .toBuffer({ resolveWithObject: true });
    if (info.channels !== 4) throw new Error('channels');
    const memory = new SharedArrayBuffer(data.byteLength);
    new Uint8Array(memory).set(data);
    return { width, height, bits, data: bits === 16 ? new Uint16Array(memory) : new Uint8Array(memory) };
  } catch {
    throw new InputError(path, `the image "${name}" cannot be decoded; the file may be cut short`);
  }
}

/** Hash of what an image looks like: size, bits and pixels. Twins have the same. */
export function pixelHash(raster: Raster): string {
  const h = createHash('sha256');
  h.update(`${raster.width} ${raster.height} ${raster.bits} `);
  h.update(new Uint8Array(raster.data.buffer, raster.data.byteOffset, raster.data.byteLength));
  return h.digest('hex');
}

export function bytesHash(bytes: Uint8Array): string {
  return createHash('sha256').update(bytes).digest('hex');
}

/** PNG of interleaved bytes; deterministic. */
export async function encodePng(
  data: Uint8Array,
  width: number,
  height: number,
  channels: 1 | 3 | 4,
): Promise<Uint8Array> {
  const png = await sharp(data, { raw: { width, height, channels }, limitInputPixels: false })
    .png({ compressionLevel: 8, adaptiveFiltering: true, palette: false })
    .toBuffer();
  return new Uint8Array(png);
}

/** Reduced PNG for the interface, longest side at most `side`. */
export async function thumbnail(bytes: Uint8Array, side: number): Promise<Uint8Array> {
  return new Uint8Array(
    await sharp(bytes, { limitInputPixels: false })
      .resize(side, side, { fit: 'inside', withoutEnlargement: true })
      .png()
      .toBuffer(),
  );
}
