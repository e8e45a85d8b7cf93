import type { LevelSet } from '@wembrel/kernels/sample';
import type { RecipeChannel } from '../../decisions/recipe/look.ts';
import type { GaussTables } from './break-up.ts';

/** What a look is read from; positions in `sets`, −1 where it has no picture. */
export interface LookPictures {
  /** R G B A, linear; alpha says where the look is there. */
  color: number;
  /** R */
  occlusion: number;
  /** G and B */
  metallicRoughness: number;
  /** Vectors −1 … 1, Y up. */
  normal: number;
  emissive: number;
  /** R, 0 … 1 */
  height: number;
}

export const NO_PICTURES: LookPictures = {
  color: -1,
  occlusion: -1,
  metallicRoughness: -1,
  normal: -1,
  emissive: -1,
  height: -1,
};

/** A look with everything that is needed to read it; plain data, the pictures in shared memory. */
export interface LookData {
  name: string;
  /** m of one repeat. */
  size: readonly [number, number];
  sets: readonly LevelSet[];
  pictures: LookPictures;
  /** What pictures are multiplied with, or the values where there is none; linear. */
  color: readonly [number, number, number, number];
  occlusionStrength: number;
  /** Where it has no picture of it. */
  occlusion: number;
  roughness: number;
  metallic: number;
  normalScale: number;
  emissive: readonly [number, number, number];
  /** What it has values for. */
  channels: readonly RecipeChannel[];
  /** Read without blending. */
  nearest: boolean;
  /** Stones or boards in one repeat, so that it can be moved by whole ones. */
  courses: { across: number; down: number } | null;
  /** By position of the picture, where repetition is broken up by cells. */
  gauss: readonly (GaussTables | null)[];
}

/** A look of one colour and whatever else is given. */
export const PLAIN_LOOK: LookData = {
  name: 'values',
  size: [1, 1],
  sets: [],
  pictures: NO_PICTURES,
  color: [1, 1, 1, 1],
  occlusionStrength: 1,
  occlusion: 1,
  roughness: 1,
  metallic: 0,
  normalScale: 1,
  emissive: [0, 0, 0],
  channels: [],
  nearest: false,
  courses: null,
  gauss: [],
};
