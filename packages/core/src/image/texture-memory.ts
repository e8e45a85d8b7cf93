/** Bytes of a texture on the GPU with its full mip chain, per format ("Counts and sizes", Texture memory). */
export interface TextureBytes {
  rgba8: number;
  bc7: number;
  bc1: number;
  astc6x6: number;
  /** One channel. */
  bc4: number;
  /** Two channels. */
  bc5: number;
  astc4x4: number;
  rgba16f: number;
}

export type TextureFormat = keyof TextureBytes;

const TEXTURE_FORMATS: readonly TextureFormat[] = [
  'rgba8',
  'bc7',
  'bc1',
  'astc6x6',
  'bc4',
  'bc5',
  'astc4x4',
  'rgba16f',
];

export const NO_TEXTURE_BYTES: Readonly<TextureBytes> = {
  rgba8: 0,
  bc7: 0,
  bc1: 0,
  astc6x6: 0,
  bc4: 0,
  bc5: 0,
  astc4x4: 0,
  rgba16f: 0,
};

/** @param width px @param height px; the chain goes down to 1×1 */
export function textureBytes(width: number, height: number): TextureBytes {
  const out = { ...NO_TEXTURE_BYTES };
  for (let w = width, h = height; ; w = Math.max(1, w >> 1), h = Math.max(1, h >> 1)) {
    const blocks4 = Math.ceil(w / 4) * Math.ceil(h / 4);
    out.rgba8 += w * h * 4;
    out.rgba16f += w * h * 8;
    out.bc7 += blocks4 * 16;
    out.bc5 += blocks4 * 16;
    out.astc4x4 += blocks4 * 16;
    out.bc1 += blocks4 * 8;
    out.bc4 += blocks4 * 8;
    out.astc6x6 += Math.ceil(w / 6) * Math.ceil(h / 6) * 16;
    if (w === 1 && h === 1) return out;
  }
}

export function addTextureBytes(textureBytes: TextureBytes, b: TextureBytes): TextureBytes {
  const out = { ...textureBytes };
  for (const f of TEXTURE_FORMATS) out[f] += b[f];
  return out;
}
