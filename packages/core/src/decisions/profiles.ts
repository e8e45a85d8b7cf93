import { z } from 'zod';

/** Baked values, by the map and the channel that holds them. All but base colour and emissive are linear. */
export const BAKED_VALUES = [
  'base colour red',
  'base colour green',
  'base colour blue',
  'opacity',
  'occlusion',
  'roughness',
  'metallic',
  'normal x',
  'normal y',
  'normal z',
  'emissive red',
  'emissive green',
  'emissive blue',
] as const;
export type BakedValue = (typeof BAKED_VALUES)[number];

/** What one channel of a written image carries: a baked value, perhaps inverted (1 − value), or a constant in 0 … 1. */
const ProfileChannel = z.union([
  z.strictObject({ value: z.enum(BAKED_VALUES), inverted: z.boolean().default(false) }),
  z.strictObject({ constant: z.number().min(0).max(1) }),
]);
export type ProfileChannel = z.infer<typeof ProfileChannel>;

/** Formats that images are written in. `webp-lossy` and KTX2 give up exact values; KTX2 has its mips inside, and takes seconds to write. */
export const IMAGE_FORMATS = ['png', 'webp', 'webp-lossy', 'tga', 'ktx2-etc1s', 'ktx2-uastc'] as const;
export type ImageFormat = (typeof IMAGE_FORMATS)[number];

const ProfileImage = z
  .strictObject({
    /** Name of the file without its ending; `{sheet}` stands for the sheet's name. */
    name: z
      .string()
      .trim()
      .min(1)
      .max(80)
      .regex(/^[^/\\]*$/, 'no folders')
      .refine(
        (name) => name.includes('{sheet}'),
        'the name holds {sheet}, so that sheets do not take each other’s files',
      ),
    red: ProfileChannel,
    /** Left out, with blue: a grey image of one channel. */
    green: ProfileChannel.optional(),
    blue: ProfileChannel.optional(),
    alpha: ProfileChannel.optional(),
    /** `srgb` for images that are shown as colours. */
    space: z.enum(['srgb', 'linear']).default('linear'),
    format: z.enum(IMAGE_FORMATS).default('png'),
    /** Sides of the sheet divided by this. */
    divisor: z.union([z.literal(1), z.literal(2), z.literal(4), z.literal(8)]).default(1),
    /** `needed`: it is left out where every baked value in it is the same all over the sheet. */
    write: z.enum(['always', 'needed']).default('needed'),
  })
  .superRefine((image, context) => {
    if ((image.green === undefined) !== (image.blue === undefined))
      context.addIssue({ code: 'custom', path: ['green'], message: 'green and blue come together, or neither' });
    if (image.alpha && !image.green)
      context.addIssue({ code: 'custom', path: ['alpha'], message: 'alpha needs red, green and blue' });
  });
export type ProfileImage = z.infer<typeof ProfileImage>;

/** A convention for handing over: the images that an engine wants beside what the glTF files name. */
export const Profile = z
  .strictObject({
    /** Also the folder of its images. */
    name: z.string().regex(/^[a-z0-9][a-z0-9-]{0,39}$/, 'small letters, digits and hyphens, at most 40'),
    title: z.string().trim().min(1).max(80),
    /** Direction of Y in its normal maps. */
    normalY: z.enum(['up', 'down']).default('up'),
    images: z.array(ProfileImage).max(32, 'at most 32 images'),
  })
  .superRefine(({ images }, context) => {
    const names = new Set<string>();
    images.forEach(({ name }, i) => {
      if (names.has(name.toLowerCase()))
        context.addIssue({ code: 'custom', path: ['images', i, 'name'], message: `two images are called "${name}"` });
      names.add(name.toLowerCase());
    });
  });
export type Profile = z.infer<typeof Profile>;

const of = (value: BakedValue, inverted = false): z.input<typeof ProfileChannel> => ({ value, inverted });
const colour = {
  red: of('base colour red'),
  green: of('base colour green'),
  blue: of('base colour blue'),
  space: 'srgb',
} as const;
const normal = { red: of('normal x'), green: of('normal y'), blue: of('normal z') };
const packed = { red: of('occlusion'), green: of('roughness'), blue: of('metallic') };
const emissive = {
  red: of('emissive red'),
  green: of('emissive green'),
  blue: of('emissive blue'),
  space: 'srgb',
} as const;

/** Conventions that are there from the start, by what they say. */
export const SHIPPED_PROFILES: readonly Profile[] = [
  {
    name: 'y-down-packed',
    title: 'Normal Y down; AO, roughness, metallic packed',
    normalY: 'down' as const,
    images: [
      { name: '{sheet}_color', ...colour, alpha: of('opacity'), write: 'always' as const },
      { name: '{sheet}_normal', ...normal },
      { name: '{sheet}_arm', ...packed },
      { name: '{sheet}_emissive', ...emissive },
    ],
  },
  {
    name: 'metallic-smoothness',
    title: 'Metallic with smoothness in alpha',
    images: [
      { name: '{sheet}_color', ...colour, alpha: of('opacity'), write: 'always' as const },
      { name: '{sheet}_normal', ...normal },
      {
        name: '{sheet}_metallic-smoothness',
        red: of('metallic'),
        green: of('metallic'),
        blue: of('metallic'),
        alpha: of('roughness', true),
      },
      { name: '{sheet}_occlusion', red: of('occlusion') },
      { name: '{sheet}_emissive', ...emissive },
    ],
  },
  {
    name: 'one-per-channel',
    title: 'One file a channel',
    images: [
      { name: '{sheet}_color', ...colour, write: 'always' as const },
      { name: '{sheet}_opacity', red: of('opacity') },
      { name: '{sheet}_occlusion', red: of('occlusion') },
      { name: '{sheet}_roughness', red: of('roughness') },
      { name: '{sheet}_metallic', red: of('metallic') },
      { name: '{sheet}_normal', ...normal },
      { name: '{sheet}_emissive', ...emissive },
    ],
  },
  {
    name: 'small-web',
    title: 'Small files: WebP, data maps at half size',
    images: [
      {
        name: '{sheet}_color',
        ...colour,
        alpha: of('opacity'),
        format: 'webp-lossy' as const,
        write: 'always' as const,
      },
      { name: '{sheet}_normal', ...normal, format: 'webp' as const, divisor: 2 as const },
      { name: '{sheet}_arm', ...packed, format: 'webp' as const, divisor: 2 as const },
      { name: '{sheet}_emissive', ...emissive, format: 'webp-lossy' as const, divisor: 2 as const },
    ],
  },
  {
    name: 'phone',
    title: 'Phone: KTX2 with mips, data maps at half size',
    images: [
      {
        name: '{sheet}_color',
        ...colour,
        alpha: of('opacity'),
        format: 'ktx2-etc1s' as const,
        write: 'always' as const,
      },
      { name: '{sheet}_normal', ...normal, format: 'ktx2-uastc' as const, divisor: 2 as const },
      { name: '{sheet}_arm', ...packed, format: 'ktx2-uastc' as const, divisor: 2 as const },
      { name: '{sheet}_emissive', ...emissive, format: 'ktx2-etc1s' as const, divisor: 2 as const },
    ],
  },
  {
    name: 'normal-y-down',
    title: 'Extra normal maps, Y down',
    normalY: 'down' as const,
    images: [{ name: '{sheet}_normal', ...normal }],
  },
].map((profile) => Profile.parse(profile));

/** A shipped profile by its name, or one of the project's own. */
export const ProfileChoice = z.union([z.string().min(1).max(40), Profile]);
export type ProfileChoice = z.infer<typeof ProfileChoice>;

/** The profiles that are chosen. @throws Error naming one that there is not, and two of one name */
export function chosenProfiles(choices: readonly ProfileChoice[]): Profile[] {
  const chosen = choices.map((choice) => {
    if (typeof choice !== 'string') return choice;
    const shipped = SHIPPED_PROFILES.find(({ name }) => name === choice);
    if (shipped) return shipped;
    throw new Error(`there is no profile "${choice}"; there are ${SHIPPED_PROFILES.map((p) => p.name).join(', ')}`);
  });
  const twice = chosen.find(({ name }, i) => chosen.findIndex((other) => other.name === name) < i);
  if (twice) throw new Error(`two profiles are called "${twice.name}"`);
  return chosen;
}
