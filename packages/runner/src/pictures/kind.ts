export type ImageKind = 'png' | 'jpeg' | 'webp' | 'tiff' | 'exr' | 'ktx2' | 'tga';

/** Kinds that a glTF file may hold as they are. */
export const GLTF_KINDS: ReadonlySet<ImageKind> = new Set(['png', 'jpeg', 'webp']);

/** Picture files that are read, by their ending. */
export const PICTURE = /\.(png|jpe?g|webp|tiff?|exr|ktx2|tga)$/i;

const starts = (bytes: Uint8Array, ...head: number[]) => head.every((v, i) => bytes[i] === v);

/**
 * The kind of an image by its first bytes. TGA has no mark of its own: a header that makes sense is taken for one.
 */
export function imageKind(bytes: Uint8Array): ImageKind | null {
  if (bytes.length < 12) return null;
  if (starts(bytes, 0x89, 0x50, 0x4e, 0x47)) return 'png';
  if (starts(bytes, 0xff, 0xd8, 0xff)) return 'jpeg';
  if (starts(bytes, 0x52, 0x49, 0x46, 0x46) && starts(bytes.subarray(8), 0x57, 0x45, 0x42, 0x50)) return 'webp';
  if (starts(bytes, 0x49, 0x49, 0x2a, 0) || starts(bytes, 0x4d, 0x4d, 0, 0x2a)) return 'tiff';
  if (starts(bytes, 0x76, 0x2f, 0x31, 0x01)) return 'exr';
  if (starts(bytes, 0xab, 0x4b, 0x54, 0x58, 0x20, 0x32, 0x30, 0xbb)) return 'ktx2';
  const type = bytes[2];
  const depth = bytes[16];
  if (bytes.length > 18 && bytes[1] <= 1 && [1, 2, 3, 9, 10, 11].includes(type) && [8, 16, 24, 32].includes(depth))
    return 'tga';
  return null;
}
