import type { FaceEditReport, PartOrigin } from '../faces/apply-faces.ts';
import type { GroupablePart } from '../faces/group-faces.ts';
import type { PictureSense } from '../image/near-duplicate.ts';
import type { TextureBytes } from '../image/texture-memory.ts';
import type { ObjectFacts } from '../rays/pairing/object-facts.ts';
import type { Totals } from './figures.ts';
import type { SlotFacts } from './slot-facts.ts';

/** One texture of the pile as plain data; duplicates are one row. */
export interface PictureFacts {
  /** Hash of the decoded pixels. */
  key: string;
  /** Of the first copy. */
  name: string;
  width: number;
  height: number;
  bits: 8 | 16;
  /** Read as sRGB. */
  colour: boolean;
  sense: PictureSense;
  /** Every texel is the same. */
  flat: boolean;
  /** No channel varies by more than 2/255. */
  nearlyFlat: boolean;
  bytes: TextureBytes;
  /** How many textures of the files are this one, and in how many models. */
  copies: number;
  models: number;
  /** Each copy: position of the model and name of the texture there. */
  places: { model: number; name: string }[];
  /** Mean of R, G and B as stored, 0 … 255. */
  mean: [number, number, number];
  /** Least and greatest value of each channel, 0 … 1. */
  min: [number, number, number, number];
  max: [number, number, number, number];
  /** R, G and B agree everywhere. */
  grey: boolean;
  /** Longest side at which it shows all that it has, px. */
  usefulSide: number;
  /** Share of it that UVs cover. */
  used: number;
  /** Normal maps: see `checkNormals`. */
  normals: { yUp: number; middle: [number, number]; crooked: number } | null;
}

/** One model that was read. */
export interface ModelFacts {
  path: string;
  /** Position among the files that were given. */
  file: number;
  format: 'gltf' | 'obj' | 'ply' | 'stl';
  /** Longest side of its box, m. */
  span: number;
  /** Triangles as drawn; heavy ones have a reduced copy for looking at. */
  triangles: number;
  reduced: boolean;
  /** Names of textures that no material reads. */
  unused: string[];
  /** Files that it names and that are not there. */
  missing: string[];
  /** Files beside it that were read, by the keys of the pile. */
  sideFiles: string[];
  /** GPU vertices that exist because one place is used by several slots. */
  slotSplits: number;
  /** Names of its meshes, in order. */
  meshes: string[];
  /** Parts of the source, whose numbers and faces face groups name. */
  parts: GroupablePart[];
  /** Its placed meshes, which pairings name. */
  bodies: ObjectFacts[];
  /** What edits of faces did to it, and where the faces of its parts were in the source; null: nothing. */
  edited: { reports: FaceEditReport[]; origins: PartOrigin[] | null } | null;
}

/** Two pictures that differ only slightly. */
export interface NearDuplicates {
  a: string;
  b: string;
  ssim: number;
  mean: number;
  worst: number;
}

/** A loose texture and what it was taken for, or why not. */
export interface LooseTexture {
  path: string;
  /** Slots it was given to, as `model: slot`. */
  to: string[];
  maps: string[];
  /** Why it was not used; null when it was. */
  reason: string | null;
}

/** Everything that the survey knows, as plain data; findings and charts are made of it. */
export interface SurveyFacts {
  models: ModelFacts[];
  slots: SlotFacts[];
  pictures: PictureFacts[];
  nearDuplicates: NearDuplicates[];
  loose: LooseTexture[];
  totals: Totals;
  errors: { path: string; message: string }[];
}
