/** What a file may ask of us. More than this is refused with the number, before memory is taken. */
export const LIMITS = {
  /** Vertices or indices in one accessor. */
  accessorCount: 60_000_000,
  /** Entries of any array in a glTF document. */
  arrayLength: 200_000,
  /** Width or height of a texture, px. */
  textureSide: 16_384,
  /** Pixels of one texture. */
  texturePixels: 16_384 * 16_384,
  /** Bytes of one uploaded file. */
  fileBytes: 4 * 1024 ** 3 - 1,
  /** Bytes that an archive may expand to, and how many entries it may hold. */
  archiveBytes: 8 * 1024 ** 3,
  archiveEntries: 20_000,
  /** Depth of the node tree. */
  nodeDepth: 512,
} as const;
