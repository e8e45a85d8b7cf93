import type { Profile, ProfileImage } from '@wembrel/core/decisions/profiles';
import { sentence } from '@wembrel/core/errors';
import type { Manifest } from '@wembrel/core/handover/manifest';
import { Names } from '@wembrel/core/handover/names';
import { channelTexts, IMAGE_ENDINGS, imageName } from '@wembrel/core/handover/profile-images';
import type { JobScope } from '../pool/job-scope.ts';
import { sideBySide } from '../pool/side-by-side.ts';
import type { Delivery } from '../write/delivery.ts';
import type { BakedSheet } from './bake.ts';
import { type EncodedImage, isSlow, type KeyedImage, profileTasks } from './profile-tasks.ts';

/** What was written for one profile, as the manifest has it. */
export type WrittenProfile = NonNullable<Manifest['profiles']>[number];

export interface WrittenProfiles {
  profiles: WrittenProfile[];
  /** Images that could not be written. */
  failures: { file: string; reason: string }[];
}

/** One image of one sheet that a profile wants. */
interface Wanted {
  profile: Profile;
  image: ProfileImage;
  sheet: string;
  maps: BakedSheet['maps'];
  file: string;
}

export interface ProfileInput {
  profiles: readonly Profile[];
  sheets: readonly { name: string; sheet: BakedSheet }[];
  /** Formats that take seconds are left out. */
  proof: boolean;
  delivery: Delivery;
  onImage?: (share: number, file: string) => void;
}

/**
 * Writes the images of all profiles, each profile into a folder of its own, and reads every one back. What took long to write once comes from the cache.
 * @throws Cancelled
 */
export async function writeProfiles(input: ProfileInput, scope: JobScope): Promise<WrittenProfiles> {
  const wanted = input.profiles.flatMap((profile) => wantedBy(profile, input));
  const written = new Array<WrittenProfile['images'][number] | null>(wanted.length).fill(null);
  const failures: WrittenProfiles['failures'] = [];
  let done = 0;
  await sideBySide(wanted.length, scope.threads, async (i) => {
    scope.checkpoint();
    const { profile, image, sheet, maps, file } = wanted[i];
    input.onImage?.(done++ / wanted.length, file);
    const composed = await scope.run(profileTasks.compose, { image, normalY: profile.normalY, maps });
    if (!composed) return;
    try {
      const { bytes, loss } = await encoded(wanted[i], composed, scope);
      await input.delivery.write(file, bytes);
      const { width, height } = composed;
      written[i] = {
        file,
        sheet,
        channels: channelTexts(image, profile),
        space: image.space,
        width,
        height,
        ...(glows(image) && maps.emissiveStrength > 1 ? { emissiveStrength: maps.emissiveStrength } : {}),
        loss,
      };
    } catch (error) {
      scope.checkpoint();
      failures.push({ file, reason: sentence(error) });
    }
  });
  const profiles = input.profiles.map(({ name, title, normalY }) => ({
    name,
    title,
    normalY,
    images: written.flatMap((image, i) => (image && wanted[i].profile.name === name ? [image] : [])),
  }));
  return { profiles, failures: failures.sort((a, b) => (a.file < b.file ? -1 : 1)) };
}

/** Whether an image carries emissive values, which maps hold divided by the sheet's strength. */
const glows = ({ red, green, blue, alpha }: ProfileImage): boolean =>
  [red, green, blue, alpha].some((channel) => channel && 'value' in channel && channel.value.startsWith('emissive'));

/** Names are claimed in order, so that they do not depend on which image is done first. */
function wantedBy(profile: Profile, { sheets, proof }: ProfileInput): Wanted[] {
  const names = new Names();
  return sheets.flatMap(({ name, sheet }) =>
    profile.images.flatMap((image) => {
      const file = `profiles/${profile.name}/${names.claim(imageName(image, name), IMAGE_ENDINGS[image.format])}`;
      return proof && isSlow(image.format) ? [] : [{ profile, image, sheet: name, maps: sheet.maps, file }];
    }),
  );
}

function encoded({ image, file }: Wanted, composed: KeyedImage, scope: JobScope): Promise<EncodedImage> {
  const find = () => scope.run(profileTasks.encode, { image, composed, name: file });
  return isSlow(image.format) && scope.cache ? scope.cache.of('image', composed.key, find) : find();
}
