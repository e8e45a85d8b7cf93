import { createHash } from 'node:crypto';
import { InputError } from '@wembrel/core/errors';
import type { Raster } from '@wembrel/core/image/raster';
import sharp from 'sharp';
import { imageKind } from './kind.ts';
import { checkSize, decodeExr, decodeKtx2, decodeTga } from './odd-formats.ts';

// One image at a time per thread: the worker pool is what runs them side by side.
sharp.concurrency(1);
sharp.cache(false);

/**
 * Decodes PNG and TIFF (8 or 16 bit), JPEG, WebP, TGA, EXR (to 16 bit) or KTX2 to R G B A as stored, without any colour conversion,
 * into shared memory.
 * @param as `colour` brings the linear values of an EXR to sRGB
 * @throws InputError naming the image
 */
export async function decodeImage(
  path: string,
  name: string,
  bytes: Uint8Array,
  as: 'stored' | 'colour' = 'stored',
): Promise<Raster> {
  const kind = imageKind(bytes);
  if (!kind) throw new InputError(path, `the image "${name}" is not PNG, JPEG, WebP, TIFF, TGA, EXR or KTX2`);
  if (kind === 'tga') return decodeTga(path, name, bytes);
  if (kind === 'exr') return decodeExr(path, name, bytes, as);
  if (kind === 'ktx2') return decodeKtx2(path, name, bytes);
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
  checkSize(path, name, width, height);
  if (depth !== 'ushort' && depth !== 'uchar')
    throw new InputError(path, `the image "${name}" holds ${depth} values; 8 or 16 bit are read`);
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

/** Hash of what an image looks like: size, bits and pixels. Duplicates have the same. */
export function pixelHash(raster: Raster): string {
  // Half of the longest BLAKE2b: twice as fast here as SHA-256, and every picture of a survey passes.
  const hash = createHash('blake2b512');
  hash.update(`${raster.width} ${raster.height} ${raster.bits} `);
  hash.update(new Uint8Array(raster.data.buffer, raster.data.byteOffset, raster.data.byteLength));
  return hash.digest('hex').slice(0, 64);
}

/** PNG of interleaved bytes; deterministic. */
export async function encodePng(
  data: Uint8Array,
  width: number,
  height: number,
  channels: 1 | 3 | 4,
): Promise<Uint8Array> {
  const png = await sharp(data, { raw: { width, height, channels }, limitInputPixels: false })
    .toColourspace(channels === 1 ? 'b-w' : 'srgb')
    .png({ compressionLevel: 8, adaptiveFiltering: true, palette: false })
    .toBuffer();
  return new Uint8Array(png);
}

/** WebP of interleaved bytes; deterministic. @param lossless every value comes back, also below clear texels */
export async function encodeWebp(
  data: Uint8Array,
  width: number,
  height: number,
  channels: 1 | 3 | 4,
  lossless: boolean,
): Promise<Uint8Array> {
  const raw = { width, height, channels };
  const webp = await sharp(data, { raw, limitInputPixels: false })
    .webp(lossless ? { lossless, exact: true, effort: 4 } : { quality: 90, alphaQuality: 100, smartSubsample: true })
    .toBuffer();
  return new Uint8Array(webp);
}

/** PNG of interleaved 16-bit values; deterministic. */
export async function encodePng16(
  data: Uint16Array,
  width: number,
  height: number,
  channels: 1 | 3,
): Promise<Uint8Array> {
  const png = await sharp(new Uint16Array(data), { raw: { width, height, channels }, limitInputPixels: false })
    .toColourspace(channels === 1 ? 'grey16' : 'rgb16')
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
