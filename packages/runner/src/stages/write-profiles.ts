import type { ImageFormat, Profile, ProfileImage } from '@wembrel/core/decisions/profiles';
import { Names } from '@wembrel/core/handover/names';
import { channelTexts, imageName } from '@wembrel/core/handover/profile-images';
import type { ImageLoss } from '@wembrel/core/handover/profile-loss';
import type { JobScope } from '../pool/job-scope.ts';
import { sideBySide } from '../pool/side-by-side.ts';
import type { Delivery } from '../write/delivery.ts';
import type { BakedSheet } from './bake.ts';
import { profileTasks } from './profile-tasks.ts';

/** What was written for one profile, for the manifest. */
export interface WrittenProfile {
  name: string;
  title: string;
  normalY: Profile['normalY'];
  images: {
    file: string;
    sheet: string;
    /** Baked value by channel, in words. */
    channels: Record<string, string>;
    space: ProfileImage['space'];
    width: number;
    height: number;
    /** Against what was baked, when it was read back. */
    loss: ImageLoss;
  }[];
}

const ENDINGS: Record<ImageFormat, string> = { png: '.png', webp: '.webp', 'webp-lossy': '.webp', tga: '.tga' };

/** The folder of a profile in the delivery. */
const folderOf = ({ name }: Profile): string => `profiles/${name}`;

/**
 * Writes the images of all profiles, each in a folder of its own, and reads every one back.
 * @param sheets what was baked, with its name @throws Cancelled
 */
export async function writeProfiles(
  profiles: readonly Profile[],
  sheets: readonly { name: string; sheet: BakedSheet }[],
  delivery: Delivery,
  scope: JobScope,
): Promise<WrittenProfile[]> {
  return Promise.all(
    profiles.map(async (profile) => {
      const names = new Names();
      const wanted = sheets.flatMap(({ name, sheet }) => profile.images.map((image) => ({ name, sheet, image })));
      const encoded = new Array<WrittenProfile['images'][number] | null>(wanted.length).fill(null);
      // Claimed in order, so that names do not depend on which image is done first.
      const files = wanted.map(({ name, image }) => names.claim(imageName(image, name), ENDINGS[image.format]));
      await sideBySide(wanted.length, scope.threads, async (i) => {
        scope.checkpoint();
        const { name, sheet, image } = wanted[i];
        const { width, height, baseColor, orm, normal, emissive, owner } = sheet.maps;
        const maps = { width, height, baseColor, orm, normal, emissive, owner };
        const file = `${folderOf(profile)}/${files[i]}`;
        const done = await scope.run(profileTasks.image, { image, normalY: profile.normalY, maps, name: file });
        if (!done) return;
        await delivery.write(file, done.bytes);
        const { space } = image;
        const channels = channelTexts(image, profile);
        encoded[i] = { file, sheet: name, channels, space, width: done.width, height: done.height, loss: done.loss };
      });
      const { name, title, normalY } = profile;
      return { name, title, normalY, images: encoded.flatMap((image) => image ?? []) };
    }),
  );
}
