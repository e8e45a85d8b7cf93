/** What can be wrong with a texel of a ray bake; bits of `RayMaps.faults`. */
export const FAULT = { missed: 1, stray: 2, skewed: 4, clash: 8, thin: 16 } as const;

const FAULT_KINDS = [
  'missed',
  'stray',
  'skewed',
  'clash',
  'thin margin',
  'steep smooth edge',
  'unsplit hard edge',
  'cage crossing itself',
] as const;
export type FaultKind = (typeof FAULT_KINDS)[number];

/** What each fault means, and what to try. */
export const FAULT_ADVICE: Record<FaultKind, { means: string; tries: string }> = {
  missed: {
    means: 'rays that met no high-poly',
    tries: 'Widen the reaches, or look whether the high-poly has a hole there.',
  },
  stray: {
    means: 'rays that met a part which belongs elsewhere',
    tries: 'Shorten the outward reach, or give the neighbour a pairing of its own.',
  },
  skewed: {
    means: 'details that are displaced because rays come in at a slant',
    tries: 'Cast along blended or faceted normals, or add an edge to the low-poly there.',
  },
  clash: {
    means: 'two faces on one texel',
    tries: 'Move islands apart, or move the mirrored half one tile aside so that it is not baked.',
  },
  'thin margin': {
    means: 'islands nearer to each other than the margin',
    tries: 'Pack with a wider margin, or bake larger.',
  },
  'steep smooth edge': {
    means: 'a turn of 80° or more across one smoothed edge',
    tries: 'Split the normals there, with a UV border, or add a bevel.',
  },
  'unsplit hard edge': {
    means: 'split normals without a UV border',
    tries: 'Cut the UVs along the edge, or smooth it.',
  },
  'cage crossing itself': {
    means: 'faces of the cage that run through each other or are turned over',
    tries: 'Shorten the outward reach, or shape the cage there.',
  },
};

/** A fault with its place. */
export interface RayFault {
  kind: FaultKind;
  /** Name of the pairing. */
  pairing: string;
  /** Texels, or edges and faces of the low-poly. */
  count: number;
  of: 'texels' | 'edges' | 'faces';
  /** m² of texels and faces, m of edges; null where it was not measured. */
  extent: number | null;
  /** The midst of its largest cluster: on the sheet, px, and in the scene, m. */
  sheet: [number, number];
  place: [number, number, number];
}
