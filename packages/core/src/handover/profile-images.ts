import type { SheetMaps } from '../bake/transfer-input.ts';
import type { BakedValue, ImageFormat, Profile, ProfileChannel, ProfileImage } from '../decisions/profiles.ts';
import { shrinkMap } from '../image/shrink.ts';
import { encodeByte, srgbToLinear, unitByte } from '../image/srgb.ts';

/** The baked maps of one sheet; normals have Y up. */
export type BakedMaps = Omit<SheetMaps, 'emissiveStrength' | 'owner'> & {
  /** Other than 0 where islands or their padding lie. */
  owner: ArrayLike<number>;
};

/** An image ready to be encoded, and what it carries. */
export interface ComposedImage {
  width: number;
  height: number;
  channels: 1 | 3 | 4;
  data: Uint8Array;
}

type MapName = 'baseColor' | 'orm' | 'normal' | 'emissive';

/** Where each baked value stands. */
const PLACES: Record<BakedValue, [map: MapName, channel: number]> = {
  'base colour red': ['baseColor', 0],
  'base colour green': ['baseColor', 1],
  'base colour blue': ['baseColor', 2],
  opacity: ['baseColor', 3],
  occlusion: ['orm', 0],
  roughness: ['orm', 1],
  metallic: ['orm', 2],
  'normal x': ['normal', 0],
  'normal y': ['normal', 1],
  'normal z': ['normal', 2],
  'emissive red': ['emissive', 0],
  'emissive green': ['emissive', 1],
  'emissive blue': ['emissive', 2],
};

const SENSES = { baseColor: 'colour', orm: 'data', normal: 'normal', emissive: 'colour' } as const;
/** What a map holds that was not baked: surfaces as they are, and nothing that glows. */
const ABSENT: Record<MapName, readonly number[]> = {
  baseColor: [255, 255, 255, 255],
  orm: [255, 255, 0],
  normal: [128, 128, 255],
  emissive: [0, 0, 0],
};
const SRGB: ReadonlySet<MapName> = new Set(['baseColor', 'emissive']);

/** Opacity is a share, whatever map it stands in. */
const isColour = (value: BakedValue): boolean => value !== 'opacity' && SRGB.has(PLACES[value][0]);

/** Maps of one sheet at several sizes, each made once. */
export class MapSizes {
  private readonly made = new Map<string, Uint8Array>();

  constructor(private readonly maps: BakedMaps) {}

  sizeAt(divisor: number): [width: number, height: number] {
    return [Math.max(1, this.maps.width / divisor), Math.max(1, this.maps.height / divisor)];
  }

  /** Bytes of a map at a size and how many there are a texel; null where it was not baked. */
  at(map: MapName, divisor: number): { data: Uint8Array; stride: number } | null {
    const whole = this.maps[map];
    if (!whole) return null;
    const stride = map === 'baseColor' ? 4 : 3;
    const key = `${map} ${divisor}`;
    const known = this.made.get(key);
    if (known) return { data: known, stride };
    const { width, height } = this.maps;
    const { data } = shrinkMap(whole, width, height, stride, divisor, SENSES[map]);
    this.made.set(key, data);
    return { data, stride };
  }

  /** The one value that a baked value has wherever islands lie; null where it has several. */
  constant(value: BakedValue): number | null {
    const [map, channel] = PLACES[value];
    const whole = this.at(map, 1);
    if (!whole) return ABSENT[map][channel];
    const { owner } = this.maps;
    let first = -1;
    for (let i = 0; i < owner.length; i++) {
      if (owner[i] === 0) continue;
      const byte = whole.data[i * whole.stride + channel];
      if (first < 0) first = byte;
      else if (byte !== first) return null;
    }
    return first < 0 ? ABSENT[map][channel] : first;
  }
}

const channelsOf = ({ red, green, blue, alpha }: ProfileImage): ProfileChannel[] =>
  [red, green, blue, alpha].flatMap((channel) => (channel ? [channel] : []));

/** Whether an image says anything that its sheet's constants do not. */
export function isNeeded(image: ProfileImage, sizes: MapSizes): boolean {
  if (image.write === 'always') return true;
  return channelsOf(image).some((channel) => 'value' in channel && sizes.constant(channel.value) === null);
}

/**
 * Puts the channels of an image together. Bytes are carried as they are where the image is read as their map is; a colour in a linear image
 * becomes linear light, and data in an sRGB image are encoded, so that a reader gets the baked value in any case. Y down is 1 − Y.
 */
export function composeImage(
  image: ProfileImage,
  { normalY }: Pick<Profile, 'normalY'>,
  sizes: MapSizes,
): ComposedImage {
  const [width, height] = sizes.sizeAt(image.divisor);
  const channels = channelsOf(image);
  const count = channels.length as 1 | 3 | 4;
  const data = new Uint8Array(width * height * count);
  channels.forEach((channel, c) => {
    // Alpha is never encoded.
    const space = c === 3 ? 'linear' : image.space;
    if ('constant' in channel) {
      const byte = space === 'srgb' ? encodeByte(channel.constant) : unitByte(channel.constant);
      for (let i = c; i < data.length; i += count) data[i] = byte;
      return;
    }
    const table = byteTable(channel, space, normalY === 'down' && channel.value === 'normal y');
    const [map, from] = PLACES[channel.value];
    const whole = sizes.at(map, image.divisor);
    const absent = table[ABSENT[map][from]];
    for (let i = 0, o = c; o < data.length; i++, o += count)
      data[o] = whole ? table[whole.data[i * whole.stride + from]] : absent;
  });
  return { width, height, channels: count, data };
}

/** What becomes of each byte of a baked value. */
function byteTable(
  { value, inverted }: Extract<ProfileChannel, { value: BakedValue }>,
  space: ProfileImage['space'],
  yDown: boolean,
): Uint8Array {
  const colour = isColour(value);
  return Uint8Array.from({ length: 256 }, (_, stored) => {
    const byte = inverted !== yDown ? 255 - stored : stored;
    if (colour === (space === 'srgb')) return byte;
    return colour ? unitByte(srgbToLinear(byte / 255)) : encodeByte(byte / 255);
  });
}

/** Ending of a file of each format. */
export const IMAGE_ENDINGS: Record<ImageFormat, string> = {
  png: '.png',
  webp: '.webp',
  'webp-lossy': '.webp',
  tga: '.tga',
  'ktx2-etc1s': '.ktx2',
  'ktx2-uastc': '.ktx2',
};

/** Name of an image's file without its ending. */
export const imageName = (image: ProfileImage, sheet: string): string => image.name.replaceAll('{sheet}', sheet);

/** What each channel carries, in words: for the manifest, and for people. */
export function channelTexts(image: ProfileImage, { normalY }: Pick<Profile, 'normalY'>): Record<string, string> {
  const text = (channel: ProfileChannel): string => {
    if ('constant' in channel) return String(channel.constant);
    const down = channel.value === 'normal y' && normalY === 'down';
    return channel.inverted !== down ? `1 − ${channel.value}` : channel.value;
  };
  const { red, green, blue, alpha } = image;
  const named = green && blue ? { R: red, G: green, B: blue, A: alpha } : { grey: red };
  return Object.fromEntries(
    Object.entries(named).flatMap(([name, channel]) => (channel ? [[name, text(channel)]] : [])),
  );
}
