import type { sign } from '../broken.ts';
import { type GltfEdit, type GltfJson, signWith } from './changes.ts';

/** What reading or merging an awkward model must come to. */
export type Expected =
  /** It is delivered, with nothing to say. */
  | { kind: 'delivered' }
  /** It is delivered, with a fault of its source that is put right. */
  | { kind: 'mended'; says: RegExp }
  /** It is refused in a sentence. */
  | { kind: 'refused'; says: RegExp };

/** A small model with one awkwardness that real files have. */
export interface Awkward {
  /** File name. */
  name: string;
  build: () => Uint8Array;
  expected: Expected;
  /** Least PSNR of the worst view against the original, dB, where it is less than usual, and why. */
  likeness?: { least: number; why: string };
}

export const DELIVERED: Expected = { kind: 'delivered' };
export const mended = (says: RegExp): Expected => ({ kind: 'mended', says });
export const refused = (says: RegExp): Expected => ({ kind: 'refused', says });

export const awkward = (
  name: string,
  expected: Expected,
  change: (json: GltfJson, edit: GltfEdit) => void,
  options?: Parameters<typeof sign>[0],
): Awkward => ({
  name: `${name}.glb`,
  expected,
  build: () => signWith((edit) => change(edit.json, edit), options),
});
