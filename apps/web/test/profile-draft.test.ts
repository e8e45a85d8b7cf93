import { Profile, SHIPPED_PROFILES } from '@wembrel/core/decisions/profiles';
import { describe, expect, test } from 'vitest';
import {
  CHANNELS,
  channelOf,
  channelText,
  copyOf,
  draftProblems,
  filesOf,
  withChannel,
  withNewImage,
} from '../src/views/handover/profile-draft.ts';

const [packed] = SHIPPED_PROFILES;
const none: ReadonlySet<string> = new Set();

describe('a profile that is being edited', () => {
  test('what a channel carries is a text, and the text is that again', () => {
    for (const { images } of SHIPPED_PROFILES)
      for (const image of images)
        for (const channel of CHANNELS) expect(channelOf(channelText(image[channel]))).toEqual(image[channel]);
    expect(channelOf('=0.25')).toEqual({ constant: 0.25 });
  });

  test('a copy of each that is there from the start can be saved, under a name of its own', () => {
    for (const profile of SHIPPED_PROFILES) {
      const copy = copyOf(profile, none);
      expect([copy.name, draftProblems(copy, none)]).toEqual([copy.name, []]);
      expect(copyOf(profile, new Set([copy.name])).name).not.toBe(copy.name);
      expect(copy.images).toEqual(profile.images);
    }
  });

  test('green and blue come and go together, and alpha with them: it always stays a profile', () => {
    const [image] = withNewImage({ ...copyOf(packed, none), images: [] }).images;
    const coloured = withChannel(image, 'green', 'roughness');
    expect(coloured.blue).toEqual(coloured.red);
    const clear = withChannel(withChannel(coloured, 'alpha', '1 − metallic'), 'blue', '');
    expect([clear.green, clear.blue, clear.alpha]).toEqual([undefined, undefined, undefined]);
    for (const one of [image, coloured, clear])
      expect(Profile.safeParse({ ...packed, name: 'own', images: [one] }).success).toBe(true);
  });

  test('what collides is said by its name', () => {
    const copy = copyOf(packed, none);
    const twice = {
      ...copy,
      images: [
        ...copy.images,
        { ...copy.images[0], name: copy.images[0].name.toUpperCase().replace('{SHEET}', '{sheet}') },
      ],
    };
    expect(draftProblems(twice, none)[0]).toMatch(/^\{sheet\}_COLOR: two images are called/);
    expect(draftProblems({ ...copy, name: packed.name }, none)).toEqual([
      `There is a profile "${packed.name}" already.`,
    ]);
    expect(draftProblems(copy, new Set([copy.name]))).toHaveLength(1);
    const nameless = { ...copy, images: [{ ...copy.images[0], name: 'color' }] };
    expect(draftProblems(nameless, none)[0]).toMatch(/^color: the name holds \{sheet\}/);
  });

  test('more images get names of their own; files are listed sheet by sheet', () => {
    const more = withNewImage(withNewImage({ ...copyOf(packed, none), images: [] }));
    expect(draftProblems(more, none)).toEqual([]);
    expect(filesOf({ ...more, name: 'own' }, ['halt', 'signs'])).toEqual([
      'profiles/own/halt_map.png',
      'profiles/own/halt_map2.png',
      'profiles/own/signs_map.png',
      'profiles/own/signs_map2.png',
    ]);
  });
});
