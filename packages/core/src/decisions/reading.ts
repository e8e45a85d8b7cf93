import { z } from 'zod';

/** How one source is to be read where its format does not say. */
export const SourceOptions = z.object({
  /** Metres of one unit; null: the habit of the format. glTF is always in metres. */
  unit: z.number().min(1e-6, 'at least 0.000001 m').max(1e6, 'at most 1 000 000 m').nullable().default(null),
  /** Null: the habit of the format. */
  up: z.enum(['y', 'z']).nullable().default(null),
  /** Direction of Y in its normal maps. */
  normalY: z.enum(['up', 'down']).default('up'),
  /** Its roughness maps hold gloss: white is smooth. */
  gloss: z.boolean().default(false),
  /** How its colour maps are stored. */
  colour: z.enum(['srgb', 'linear']).default('srgb'),
});
export type SourceOptions = z.infer<typeof SourceOptions>;

/** What a channel of a picture may hold. */
export const MapName = z.enum([
  'baseColor',
  'opacity',
  'metallic',
  'roughness',
  'gloss',
  'normal',
  'occlusion',
  'emissive',
]);
export type MapName = z.infer<typeof MapName>;

const Ending = z.string().trim().min(1).max(40);
const Channel = MapName.nullable().default(null);

/** How loose textures find their slots: patterns of file names, endings for each map, pictures with packed channels. */
export const TextureNaming = z.object({
  /** `{model}`, `{slot}` and `{map}` stand for the names; case, blanks, `.`, `-` and `_` do not matter. */
  patterns: z
    .array(z.string().max(120).includes('{map}', { message: 'a pattern needs {map}' }))
    .max(20)
    .default(['{slot}_{map}', '{model}_{slot}_{map}', '{model}_{map}']),
  endings: z.partialRecord(MapName, z.array(Ending).max(40)).default({
    baseColor: ['basecolor', 'base_color', 'basecolour', 'base_colour', 'albedo', 'diffuse', 'color', 'colour', 'col'],
    opacity: ['opacity', 'alpha', 'mask'],
    metallic: ['metallic', 'metalness', 'metal'],
    roughness: ['roughness', 'rough'],
    gloss: ['gloss', 'glossiness', 'smoothness'],
    normal: ['normal', 'normals', 'normalmap', 'nrm', 'nor'],
    occlusion: ['ao', 'occlusion', 'ambient_occlusion', 'ambientocclusion'],
    emissive: ['emissive', 'emission', 'glow'],
  }),
  /** Pictures that hold several maps, one a channel. */
  packed: z
    .array(z.object({ ending: Ending, r: Channel, g: Channel, b: Channel, a: Channel }))
    .max(20)
    .default([
      { ending: 'orm', r: 'occlusion', g: 'roughness', b: 'metallic', a: null },
      { ending: 'arm', r: 'occlusion', g: 'roughness', b: 'metallic', a: null },
      { ending: 'mra', r: 'metallic', g: 'roughness', b: 'occlusion', a: null },
      { ending: 'metallicroughness', r: null, g: 'roughness', b: 'metallic', a: null },
    ]),
});
export type TextureNaming = z.infer<typeof TextureNaming>;

/** All that changes how sources are read. */
export const ReadingDecisions = z.object({
  /** Logical path → options. */
  sources: z.record(z.string(), SourceOptions).default({}),
  naming: TextureNaming.prefault({}),
});
export type ReadingDecisions = z.infer<typeof ReadingDecisions>;
