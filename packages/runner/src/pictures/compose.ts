import { InputError } from '@wembrel/core/errors';
import type { Raster } from '@wembrel/core/image/raster';
import { linearToSrgb } from '@wembrel/core/image/srgb';
import sharp from 'sharp';
import { decodeImage } from './codec.ts';

/** Where one channel of a composed picture comes from. */
export type ChannelSource =
  | { constant: number }
  | {
      picture: number;
      channel: 0 | 1 | 2 | 3;
      /** 1 − value: gloss to roughness, Y down to Y up. */
      invert?: boolean;
      /** The picture is linear and colour is wanted. */
      encode?: boolean;
    };

export interface Composition {
  /** Named for errors. */
  path: string;
  pictures: { name: string; bytes: Uint8Array; as: 'stored' | 'colour' }[];
  channels: [ChannelSource, ChannelSource, ChannelSource, ChannelSource];
}

/**
 * A PNG whose channels come from several pictures: as large as the largest of them, 16 bit when one of them is. Smaller ones
 * are scaled up.
 * @throws InputError when one cannot be decoded
 */
export async function composePicture(composition: Composition): Promise<Uint8Array> {
  const rasters = await Promise.all(
    composition.pictures.map((picture) => decodeImage(composition.path, picture.name, picture.bytes, picture.as)),
  );
  if (rasters.length === 0) throw new InputError(composition.path, 'a texture is to be made of no picture');
  const width = Math.max(...rasters.map((raster) => raster.width));
  const height = Math.max(...rasters.map((raster) => raster.height));
  const bits = rasters.some((raster) => raster.bits === 16) ? 16 : 8;
  const full = bits === 16 ? 65535 : 255;
  const sized = await Promise.all(rasters.map((raster) => scaled(raster, width, height)));
  const out = bits === 16 ? new Uint16Array(width * height * 4) : new Uint8Array(width * height * 4);
  composition.channels.forEach((source, k) => {
    if ('constant' in source) {
      const v = Math.round(source.constant * full);
      for (let i = k; i < out.length; i += 4) out[i] = v;
      return;
    }
    const from = sized[source.picture];
    const gain = bits === from.bits ? 1 : 257;
    for (let i = 0; i < out.length; i += 4) {
      let v = from.data[i + source.channel] * gain;
      if (source.encode) v = Math.round(linearToSrgb(v / full) * full);
      out[i + k] = source.invert ? full - v : v;
    }
  });
  return rasterPng({ width, height, bits, data: out });
}

async function scaled(raster: Raster, width: number, height: number): Promise<Raster> {
  if (raster.width === width && raster.height === height) return raster;
  const wide = raster.bits === 16;
  const { data } = await sharp(
    Buffer.from(raster.data.buffer, raster.data.byteOffset, raster.data.byteLength) as never,
    {
      raw: { width: raster.width, height: raster.height, channels: 4, ...(wide ? { depth: 'ushort' } : {}) } as never,
      limitInputPixels: false,
    },
  )
    .toColourspace(wide ? 'rgb16' : 'srgb')
    .resize(width, height, { kernel: 'linear', fit: 'fill' })
    .raw({ depth: wide ? 'ushort' : 'uchar' })
    .toBuffer({ resolveWithObject: true });
  return {
    width,
    height,
    bits: raster.bits,
    data: wide ? new Uint16Array(data.buffer, data.byteOffset, data.length / 2) : new Uint8Array(data),
  };
}

/** A raster as PNG of its own depth; alpha is left out where it is full everywhere. */
export async function rasterPng(raster: Raster): Promise<Uint8Array> {
  const wide = raster.bits === 16;
  let opaque = true;
  const full = wide ? 65535 : 255;
  for (let i = 3; i < raster.data.length && opaque; i += 4) opaque = raster.data[i] === full;
  let image = sharp(wide ? new Uint16Array(raster.data) : new Uint8Array(raster.data), {
    raw: { width: raster.width, height: raster.height, channels: 4 },
    limitInputPixels: false,
  }).toColourspace(wide ? 'rgb16' : 'srgb');
  if (opaque) image = image.removeAlpha();
  return new Uint8Array(await image.png({ compressionLevel: 6, adaptiveFiltering: true, palette: false }).toBuffer());
}
