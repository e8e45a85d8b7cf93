import { IMAGE_CHANNELS, type MaterialLook, type TextureUse } from './material.ts';

/** How the textures of a material are laid: in which UV set, and where a place on the texture is in it. */
export interface TextureLay {
  set: number;
  /** @param s, t place on the texture, in repeats from its upper left @returns its UVs, V down */
  uv(s: number, t: number): [number, number];
}

/** UVs of a set as they are. */
export const plainLay = (set: number): TextureLay => ({ set, uv: (s, t) => [s, t] });

/** The one way in which all maps of a look are laid, or null when there is none or several. */
export function singleUse(look: MaterialLook): TextureUse | null {
  const uses = usesOf(look);
  const alike = (u: TextureUse) =>
    u.uvSet === uses[0].uvSet && u.wrapS === uses[0].wrapS && u.wrapT === uses[0].wrapT && movedAlike(u, uses[0]);
  return uses.length > 0 && uses.every(alike) ? uses[0] : null;
}

const usesOf = (look: MaterialLook): TextureUse[] => IMAGE_CHANNELS.flatMap((channel) => look[channel] ?? []);

/** Whether two uses move, turn and scale their textures by the same. */
const movedAlike = (textureUse: TextureUse, b: TextureUse): boolean =>
  textureUse.transform.every((v, i) => v === b.transform[i]);

/** Where places on a texture are in the UVs that it reads: its transform, turned round. @throws Error where it flattens the texture */
export function layOfUse({ uvSet, transform: [a, b, c, d, e, f] }: TextureUse): TextureLay {
  const det = a * d - b * c;
  if (det === 0) throw new Error('has a texture transform that flattens its texture');
  return {
    set: uvSet,
    uv: (s, t) => [(d * (s - e) - c * (t - f)) / det, (a * (t - f) - b * (s - e)) / det],
  };
}

/**
 * How a look's textures are laid: its base colour, and all that read the same UVs. Those that read another set (as baked occlusion does) keep
 * their own. Without textures UVs are places on the texture.
 * @param set only textures that read this UV set count; null: the base colour's
 * @throws Error in words that follow the slot's name, when maps that read the same UVs are laid in different ways, or flattened
 */
export function textureLay(look: MaterialLook, set: number | null): TextureLay {
  const [first, ...others] = usesOf(look).filter((u) => set === null || u.uvSet === set);
  if (!first) return plainLay(set ?? 0);
  if (others.some((u) => u.uvSet === first.uvSet && !movedAlike(u, first)))
    throw new Error('has maps that are laid in different ways');
  return layOfUse(first);
}
