import { z } from 'zod';

const PictureKey = z.string().regex(/^[0-9a-f]{8,64}$/);

/**
 * What is mended on the way from the sources to everything that is made of them. Sources stay as they are. Pictures are named by
 * the hash of their pixels, slots by their names.
 */
export const Repairs = z.object({
  /** Duplicates of textures and materials become one copy. */
  shareDuplicates: z.boolean().default(false),
  /** This picture → the near-duplicate that takes its place. */
  shareNear: z.record(PictureKey, PictureKey).default({}),
  /** Longest side at which a picture is stored, px. */
  storeAt: z.record(PictureKey, z.number().int().min(1).max(16384)).default({}),
  /** Flat pictures that become plain factors. */
  flatToFactor: z.array(PictureKey).default([]),
  /** Meshes with the same contents become one mesh with several placings. */
  makeInstances: z.boolean().default(false),
  /** Faces without area, and faces that are there twice, are left out. */
  dropFaces: z.boolean().default(false),
  /** Vertices that differ only by a normal turned less than 1° become one. */
  weldNormals: z.boolean().default(false),
  /** Slots whose normals are made again: smooth inside UV islands, hard at their borders. */
  harden: z.array(z.string()).default([]),
  /** Slots whose normals are made again, weighted by area → degrees of bend up to which they are smooth. */
  normals: z.record(z.string(), z.number().min(0).max(180)).default({}),
  /** UVs at one place that differ by no more than this, in UV units, are brought together; null: none. */
  weldUvs: z.number().gt(0).max(0.1).nullable().default(null),
  /** Alpha-blended slots without any transparency, drawn opaque. */
  opaque: z.array(z.string()).default([]),
  /** Meshes by exact name → triangles that one copy has at the most. */
  reduce: z.record(z.string(), z.number().int().min(1).max(1e8)).default({}),
});
export type Repairs = z.infer<typeof Repairs>;

const NO_REPAIRS: Repairs = Repairs.parse({});

/** True when nothing is mended. */
export function isUnrepaired(repairs: Repairs): boolean {
  return JSON.stringify(repairs) === JSON.stringify(NO_REPAIRS);
}
