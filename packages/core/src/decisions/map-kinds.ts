/** Maps that a ray bake makes. */
export const MAP_KINDS = [
  'normal',
  'object-normal',
  'ao',
  'curvature',
  'convex',
  'concave',
  'thickness',
  'height',
  'position',
  'id',
  'vertex-color',
  'opacity',
  'color',
  'metallic',
  'roughness',
  'occlusion',
  'emissive',
] as const;
export type MapKind = (typeof MAP_KINDS)[number];

export interface MapForm {
  channels: 1 | 3;
  /** `vector`: −1 … 1 of length 1; `unit`: 0 … 1; `srgb`: linear light, stored as sRGB; `exact`: whole colours, never mixed; `metres`: signed lengths. */
  holds: 'vector' | 'unit' | 'srgb' | 'exact' | 'metres';
  /** Smooth enough for banding to show, so that 8 bit are dithered. */
  dithered: boolean;
  /** What it shows, in a few words. */
  about: string;
  /** Value where nothing was baked. */
  background: readonly number[];
}

const form = (
  channels: 1 | 3,
  holds: MapForm['holds'],
  dithered: boolean,
  background: readonly number[],
  about: string,
): MapForm => ({ channels, holds, dithered, background, about });

export const MAP_FORMS: Record<MapKind, MapForm> = {
  normal: form(3, 'vector', true, [0, 0, 1], 'normals in tangent space (MikkTSpace)'),
  'object-normal': form(3, 'vector', true, [0, 0, 0], 'normals in object space'),
  ao: form(1, 'unit', true, [1], 'how much of the sky is seen'),
  curvature: form(1, 'unit', true, [0.5], 'convex above a half, concave below'),
  convex: form(1, 'unit', true, [0], 'convex edges alone'),
  concave: form(1, 'unit', true, [0], 'concave corners alone'),
  thickness: form(1, 'unit', true, [1], 'how thick the body is behind the surface'),
  height: form(1, 'metres', true, [0], 'how far the high-poly lies above the low-poly'),
  position: form(3, 'unit', true, [0, 0, 0], 'place in the box of the low-poly'),
  id: form(
    3,
    'exact',
    false,
    [0, 0, 0],
    'a colour for each material, part, island, vertex colour, face group or piece',
  ),
  'vertex-color': form(3, 'srgb', false, [0, 0, 0], 'vertex colours of the high-poly'),
  opacity: form(1, 'unit', false, [0], 'where there is any high-poly'),
  color: form(3, 'srgb', false, [0, 0, 0], 'base colour of the high-poly'),
  metallic: form(1, 'unit', false, [0], 'metallic of the high-poly'),
  roughness: form(1, 'unit', false, [1], 'roughness of the high-poly'),
  occlusion: form(1, 'unit', false, [1], 'occlusion maps of the high-poly'),
  emissive: form(3, 'srgb', false, [0, 0, 0], 'emissive of the high-poly'),
};
