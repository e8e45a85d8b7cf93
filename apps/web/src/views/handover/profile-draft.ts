import {
  type BakedValue,
  Profile,
  type ProfileChannel,
  type ProfileImage,
  SHIPPED_PROFILES,
} from '@wembrel/core/decisions/profiles';
import { IMAGE_ENDINGS, imageName } from '@wembrel/core/handover/profile-images';

/** Channels of an image, in their order. */
export const CHANNELS = ['red', 'green', 'blue', 'alpha'] as const;
export type Channel = (typeof CHANNELS)[number];

/** What a channel carries as one text, for a list to choose from; '' for none. */
export function channelText(channel: ProfileChannel | undefined): string {
  if (!channel) return '';
  if ('constant' in channel) return `=${channel.constant}`;
  return channel.inverted ? `1 − ${channel.value}` : channel.value;
}

/** The same the other way round. */
export function channelOf(text: string): ProfileChannel | undefined {
  if (text === '') return undefined;
  if (text.startsWith('=')) return { constant: Number(text.slice(1)) };
  const inverted = text.startsWith('1 − ');
  return { value: text.slice(inverted ? 4 : 0) as BakedValue, inverted };
}

/** An image with one channel changed. Green and blue come and go together, and alpha goes with them. */
export function withChannel(image: ProfileImage, channel: Channel, text: string): ProfileImage {
  const next = { ...image, [channel]: channelOf(text) };
  if (channel !== 'green' && channel !== 'blue') return next;
  if (text === '') return { ...next, green: undefined, blue: undefined, alpha: undefined };
  return { ...next, green: next.green ?? next.red, blue: next.blue ?? next.red };
}

/** A profile to begin an own one with, under a name that nothing has yet. */
export function copyOf(profile: Profile, taken: ReadonlySet<string>): Profile {
  const base = `${profile.name.slice(0, 34)}-own`;
  let name = base;
  for (let n = 2; taken.has(name); n++) name = `${base}-${n}`;
  return { ...structuredClone(profile), name, title: `${profile.title}, own`.slice(0, 80) };
}

/** One more image, of a name that no other has. */
export function withNewImage(profile: Profile): Profile {
  const names = new Set(profile.images.map(({ name }) => name));
  let name = '{sheet}_map';
  for (let n = 2; names.has(name); n++) name = `{sheet}_map${n}`;
  const image: ProfileImage = {
    name,
    red: { value: 'occlusion', inverted: false },
    space: 'linear',
    format: 'png',
    divisor: 1,
    write: 'needed',
  };
  return { ...profile, images: [...profile.images, image] };
}

/** Files that a profile writes, sheet by sheet. */
export const filesOf = (profile: Profile, sheets: readonly string[]): string[] =>
  sheets.flatMap((sheet) =>
    profile.images.map((image) => `profiles/${profile.name}/${imageName(image, sheet)}${IMAGE_ENDINGS[image.format]}`),
  );

/** What keeps a profile from being saved, in sentences; with what collides. @param taken names of the other own profiles */
export function draftProblems(profile: Profile, taken: ReadonlySet<string>): string[] {
  const problems: string[] = [];
  if (taken.has(profile.name) || SHIPPED_PROFILES.some(({ name }) => name === profile.name))
    problems.push(`There is a profile "${profile.name}" already.`);
  const parsed = Profile.safeParse(profile);
  for (const { path, message } of parsed.error?.issues ?? []) {
    const image = path[0] === 'images' && typeof path[1] === 'number' ? profile.images[path[1]] : undefined;
    const where = image ? image.name || `image ${Number(path[1]) + 1}` : path.join('.');
    problems.push(`${where ? `${where}: ` : ''}${message}.`);
  }
  return problems;
}
