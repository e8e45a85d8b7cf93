import fc from 'fast-check';
import { describe, expect, test } from 'vitest';
import { MergeDecisions } from '../src/decisions/decisions.ts';
import { BAKED_VALUES, type BakedValue, chosenProfiles, Profile, SHIPPED_PROFILES } from '../src/decisions/profiles.ts';
import {
  type BakedMaps,
  channelTexts,
  composeImage,
  imageName,
  isNeeded,
  MapSizes,
} from '../src/handover/profile-images.ts';
import { imageLoss } from '../src/handover/profile-loss.ts';
import { linearToSrgb, srgbToLinear } from '../src/image/srgb.ts';
import { runs } from './sampling.ts';

const profile = (images: object[], more: object = {}) => Profile.parse({ name: 'own', title: 'Own', images, ...more });
const image = (more: object) => profile([{ name: '{sheet}', ...more }]).images[0];
const of = (value: BakedValue, inverted = false) => ({ value, inverted });

/** Two by two texels, every byte of all maps another one. */
function maps(more: Partial<BakedMaps> = {}): BakedMaps {
  const bytes = (from: number, count: number) => Uint8Array.from({ length: count }, (_, i) => (from + i * 5) & 255);
  return {
    width: 2,
    height: 2,
    baseColor: bytes(7, 16),
    orm: bytes(90, 12),
    normal: bytes(140, 12),
    emissive: bytes(201, 12),
    owner: [1, 1, 1, 1],
    ...more,
  };
}

const UP = { normalY: 'up' } as const;
const grey = (value: BakedValue, of: BakedMaps, more: object = {}, normalY: 'up' | 'down' = 'up') => [
  ...composeImage(image({ red: { value }, ...more }), { normalY }, new MapSizes(of)).data,
];
const every = (data: ArrayLike<number> | null, from: number, stride: number) =>
  Array.from({ length: 4 }, (_, i) => data?.[i * stride + from]);

describe('channels', () => {
  test('data are carried byte by byte, from where the standard has them', () => {
    const bakedMaps = maps();
    expect(grey('opacity', bakedMaps)).toEqual(every(bakedMaps.baseColor, 3, 4));
    expect(grey('occlusion', bakedMaps)).toEqual(every(bakedMaps.orm, 0, 3));
    expect(grey('roughness', bakedMaps)).toEqual(every(bakedMaps.orm, 1, 3));
    expect(grey('metallic', bakedMaps)).toEqual(every(bakedMaps.orm, 2, 3));
    expect(grey('normal x', bakedMaps)).toEqual(every(bakedMaps.normal, 0, 3));
    expect(grey('normal z', bakedMaps)).toEqual(every(bakedMaps.normal, 2, 3));
  });

  test('smoothness is 1 − roughness, Y down is 1 − Y and nothing else of a normal', () => {
    const bakedMaps = maps();
    expect(grey('roughness', bakedMaps, { red: of('roughness', true) })).toEqual(
      every(bakedMaps.orm, 1, 3).map((v) => 255 - Number(v)),
    );
    expect(grey('normal y', bakedMaps, {}, 'down')).toEqual(every(bakedMaps.normal, 1, 3).map((v) => 255 - Number(v)));
    expect(grey('normal x', bakedMaps, {}, 'down')).toEqual(every(bakedMaps.normal, 0, 3));
    expect(grey('normal y', bakedMaps, { red: of('normal y', true) }, 'down')).toEqual(every(bakedMaps.normal, 1, 3));
  });

  test('colours stay as they are in an sRGB image and become light in a linear one; data are encoded in an sRGB one', () => {
    const bakedMaps = maps();
    const stored = every(bakedMaps.baseColor, 0, 4).map(Number);
    expect(grey('base colour red', bakedMaps, { space: 'srgb' })).toEqual(stored);
    expect(grey('base colour red', bakedMaps)).toEqual(stored.map((v) => Math.round(srgbToLinear(v / 255) * 255)));
    const rough = every(bakedMaps.orm, 1, 3).map(Number);
    expect(grey('roughness', bakedMaps, { space: 'srgb' })).toEqual(
      rough.map((v) => Math.round(linearToSrgb(v / 255) * 255)),
    );
  });

  test('alpha is never encoded', () => {
    const bakedMaps = maps();
    const four = image({
      red: of('metallic'),
      green: of('metallic'),
      blue: of('metallic'),
      alpha: of('roughness'),
      space: 'srgb',
    });
    const { data, channels } = composeImage(four, UP, new MapSizes(bakedMaps));
    expect(channels).toBe(4);
    expect(every(data, 3, 4)).toEqual(every(bakedMaps.orm, 1, 3));
  });

  test('what was not baked reads as a surface without it', () => {
    const bakedMaps = maps({ normal: null, emissive: null });
    expect(grey('normal x', bakedMaps)).toEqual([128, 128, 128, 128]);
    expect(grey('normal z', bakedMaps)).toEqual([255, 255, 255, 255]);
    expect(grey('emissive green', bakedMaps)).toEqual([0, 0, 0, 0]);
  });

  test('any three baked values and a constant, in any maps: each stands where it was put', () => {
    const value = fc.constantFrom(...BAKED_VALUES);
    const bytes = (count: number) => fc.uint8Array({ minLength: count, maxLength: count });
    fc.assert(
      fc.property(
        value,
        value,
        value,
        fc.double({ min: 0, max: 1, noNaN: true }),
        bytes(16),
        bytes(12),
        bytes(12),
        (r, g, b, constant, baseColor, orm, normal) => {
          const bakedMaps = maps({ baseColor, orm, normal });
          const { data } = composeImage(
            image({ red: of(r), green: of(g), blue: of(b), alpha: { constant } }),
            UP,
            new MapSizes(bakedMaps),
          );
          expect([0, 1, 2].map((c) => every(data, c, 4))).toEqual([r, g, b].map((one) => grey(one, bakedMaps)));
          expect(new Set(every(data, 3, 4))).toEqual(new Set([Math.round(constant * 255)]));
        },
      ),
      { numRuns: runs(100) },
    );
  });

  test('half the size is the mean of data, and a normal of length 1', () => {
    const bakedMaps = maps({ orm: Uint8Array.of(0, 10, 0, 0, 20, 0, 0, 30, 0, 0, 40, 0) });
    const { width, height, data } = composeImage(
      image({ red: of('roughness'), divisor: 2 }),
      UP,
      new MapSizes(bakedMaps),
    );
    expect([width, height, ...data]).toEqual([1, 1, 25]);
  });
});

describe('images that say nothing', () => {
  const flat = maps({ orm: Uint8Array.from({ length: 12 }, (_, i) => [255, 200, 0][i % 3]), emissive: null });
  const needed = (value: BakedValue, more: object = {}) =>
    isNeeded(image({ red: of(value), ...more }), new MapSizes(flat));

  test('are left out where each value is one all over the islands, unless they are always wanted', () => {
    expect([needed('roughness'), needed('emissive red'), needed('normal x')]).toEqual([false, false, true]);
    expect(needed('roughness', { write: 'always' })).toBe(true);
  });

  test('what lies between islands does not count', () => {
    const orm = Uint8Array.from({ length: 12 }, (_, i) => (i < 9 ? 50 : 99));
    const sizes = new MapSizes(maps({ orm, owner: [1, 1, 1, 0] }));
    expect(isNeeded(image({ red: of('metallic') }), sizes)).toBe(false);
  });
});

describe('profiles', () => {
  test('those that are there from the start differ in name and can be chosen by it', () => {
    const names = SHIPPED_PROFILES.map(({ name }) => name);
    expect(new Set(names).size).toBe(names.length);
    expect(MergeDecisions.parse({ profiles: names }).profiles).toEqual(names);
    expect(chosenProfiles(names)).toEqual(SHIPPED_PROFILES);
  });

  test.each([
    [{ profiles: ['gone'] }, /there is no profile "gone"; there are y-down-packed/],
    [{ profiles: ['normal-y-down', 'normal-y-down'] }, /two profiles are called "normal-y-down"/],
    [{ profiles: [{ name: 'a', title: 'A', images: [{ name: 'x', red: { constant: 1 } }] }] }, /holds \{sheet\}/],
    [{ profiles: [{ name: '../a', title: 'A', images: [] }] }, /small letters/],
  ])('%j is refused', (decisions, says) => {
    const issues = MergeDecisions.safeParse(decisions).error?.issues ?? [];
    expect(JSON.stringify(issues)).toMatch(new RegExp(says.source.replaceAll('"', '\\\\"')));
  });

  test('two images of one name, or green without blue, are refused', () => {
    const twice = [
      { name: '{sheet}_a', red: { constant: 1 } },
      { name: '{sheet}_A', red: { constant: 0 } },
    ];
    expect(() => profile(twice)).toThrow(/two images are called/);
    expect(() => image({ red: { constant: 1 }, green: { constant: 1 } })).toThrow(/green and blue come together/);
  });

  test('what channels carry is said in words', () => {
    const four = image({
      red: of('metallic'),
      green: of('normal y'),
      blue: { constant: 0.5 },
      alpha: of('roughness', true),
    });
    expect(channelTexts(four, { normalY: 'down' })).toEqual({
      R: 'metallic',
      G: '1 − normal y',
      B: '0.5',
      A: '1 − roughness',
    });
    expect(channelTexts(image({ red: of('occlusion') }), UP)).toEqual({ grey: 'occlusion' });
    expect(imageName({ ...four, name: '{sheet}-{sheet}_mr' }, 'halt')).toBe('halt-halt_mr');
  });
});

describe('what is read back', () => {
  const composed = composeImage(image({ red: of('occlusion') }), UP, new MapSizes(maps()));
  const read = (change = 0) => ({
    width: 2,
    height: 2,
    bits: 8,
    data: Uint8Array.from({ length: 16 }, (_, i) => composed.data[i >> 2] + (i === 8 ? change : 0)),
  });

  test('the same is the same; one value that is off shows in its channel', () => {
    expect(imageLoss(composed, read())).toEqual({ greatest: [0], psnr: null });
    // One of four values is off by 2: 10 · log10(255² / 1).
    expect(imageLoss(composed, read(2))).toEqual({ greatest: [2], psnr: 48.1308 });
  });

  test('another size is refused', () => {
    expect(() => imageLoss(composed, { ...read(), width: 1 })).toThrow(/another size/);
  });
});
