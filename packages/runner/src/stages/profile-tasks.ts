import { createHash } from 'node:crypto';
import type { ImageFormat, Profile, ProfileImage } from '@wembrel/core/decisions/profiles';
import {
  type BakedMaps,
  type ComposedImage,
  composeImage,
  isNeeded,
  MapSizes,
} from '@wembrel/core/handover/profile-images';
import { type ImageLoss, imageLoss } from '@wembrel/core/handover/profile-loss';
import { decodeImage, encodePng, encodeWebp } from '../pictures/codec.ts';
import { encodeKtx2 } from '../pictures/write-ktx2.ts';
import { encodeTga } from '../pictures/write-tga.ts';
import { taskGroup } from '../pool/task.ts';

/** An image of a profile as a file, and how far what a reader gets is from what was baked. */
export interface EncodedImage {
  bytes: Uint8Array;
  loss: ImageLoss;
}

/** An image with its channels in place, and a hash of all that its file depends on. */
export interface KeyedImage extends ComposedImage {
  key: string;
}

type Image = Pick<ProfileImage, 'format' | 'space' | 'red'>;

const isNormals = ({ red }: Image): boolean => 'value' in red && red.value.startsWith('normal');

async function encode(image: Image, composed: ComposedImage): Promise<Uint8Array> {
  const { data, width, height, channels } = composed;
  const { format, space } = image;
  if (format === 'tga') return encodeTga(data, width, height, channels);
  if (format === 'png') return encodePng(data, width, height, channels);
  if (format === 'webp' || format === 'webp-lossy') return encodeWebp(data, width, height, channels, format === 'webp');
  const as = format === 'ktx2-etc1s' ? 'etc1s' : 'uastc';
  return encodeKtx2(rgbaOf(composed), width, height, { as, srgb: space === 'srgb', normals: isNormals(image) });
}

function rgbaOf({ width, height, channels, data }: ComposedImage): Uint8Array {
  const out = new Uint8Array(width * height * 4).fill(255);
  for (let i = 0; i < width * height; i++)
    for (let c = 0; c < (channels === 4 ? 4 : 3); c++) out[i * 4 + c] = data[i * channels + (channels === 1 ? 0 : c)];
  return out;
}

function keyOf(image: Image, { width, height, channels, data }: ComposedImage): string {
  const hash = createHash('blake2b512');
  hash.update(JSON.stringify([image.format, image.space, isNormals(image), width, height, channels]));
  return hash.update(data).digest('hex').slice(0, 64);
}

/** Formats that take seconds to write: what was written once is kept. */
export const isSlow = (format: ImageFormat): boolean => format.startsWith('ktx2');

/** What worker threads do for profiles. */
export const profileTasks = taskGroup('profile', {
  /** @returns null where nothing in the image varies over the sheet, and it is written only where it is needed */
  async compose(input: {
    image: ProfileImage;
    normalY: Profile['normalY'];
    maps: BakedMaps;
  }): Promise<KeyedImage | null> {
    const sizes = new MapSizes(input.maps);
    if (!isNeeded(input.image, sizes)) return null;
    const composed = composeImage(input.image, input, sizes);
    return { ...composed, key: keyOf(input.image, composed) };
  },

  /** @throws Error where the format cannot hold it */
  async encode(input: { image: ProfileImage; composed: ComposedImage; name: string }): Promise<EncodedImage> {
    const bytes = await encode(input.image, input.composed);
    const read = await decodeImage(input.name, input.name, bytes);
    return { bytes, loss: imageLoss(input.composed, read) };
  },
});
