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
import { encodeTga } from '../pictures/write-tga.ts';
import { taskGroup } from '../pool/task.ts';

/** An image of a profile as a file, and how far what a reader gets is from what was baked. */
export interface EncodedImage {
  bytes: Uint8Array;
  loss: ImageLoss;
  width: number;
  height: number;
}

const encode = async (format: ImageFormat, { data, width, height, channels }: ComposedImage): Promise<Uint8Array> => {
  if (format === 'tga') return encodeTga(data, width, height, channels);
  if (format === 'png') return encodePng(data, width, height, channels);
  return encodeWebp(data, width, height, channels, format === 'webp');
};

/** What worker threads do for profiles. */
export const profileTasks = taskGroup('profile', {
  /** @returns null where nothing in the image varies over the sheet, and it is written only where it is needed */
  async image(input: {
    image: ProfileImage;
    normalY: Profile['normalY'];
    maps: BakedMaps;
    name: string;
  }): Promise<EncodedImage | null> {
    const sizes = new MapSizes(input.maps);
    if (!isNeeded(input.image, sizes)) return null;
    const composed = composeImage(input.image, input, sizes);
    const bytes = await encode(input.image.format, composed);
    const read = await decodeImage(input.name, input.name, bytes);
    return { bytes, loss: imageLoss(composed, read), width: composed.width, height: composed.height };
  },
});
