/** Triangles of one part that keep together in UV space. Coordinates are texels of the material's reference size. */
export interface Island {
  model: number;
  part: number;
  /** Triangles of the part, ascending. */
  triangles: Uint32Array;
  /** Whole-tile move in texels: layout coordinate = source texel coordinate − shift. */
  shiftX: number;
  shiftY: number;
}

/** A place on a sheet for one island or a stack of islands that sample the same texels. */
export interface Plot {
  id: number;
  material: number;
  /**
   * `plot`: true shape; `swatch`: one colour, all vertices at its middle; `strip` and `cell`: the whole texture, until it is the same
   * again, for a strip side by side over the sheet's width.
   */
  kind: 'plot' | 'swatch' | 'strip' | 'cell';
  islands: Island[];
  /** Triangles to be placed, six numbers each, in layout coordinates. Empty for a swatch. */
  shape: Float64Array;
  /** Which island and which of its triangles each triangle of `shape` is; identical islands are listed once. */
  shapeIsland: Uint32Array;
  shapeTriangle: Uint32Array;
  /** Layout coordinates of the shape's origin, whole texels. */
  originX: number;
  originY: number;
  /** False where a turn would make stacked faces with a normal map disagree. */
  mayTurn: boolean;
  /** The islands that the shape shows, each once: a key that is equal for islands that sample the same texels, and px². */
  shown: { key: string; area: number }[];
  /** Texel area of the shape at factor 1, and its surface in m². */
  texelArea: number;
  worldArea: number;
  /** By what it is known again on a sheet that grows; see `plotKeys`. */
  keys: string[];
  /** Its texels are copied exactly: it is read without blending, and stands on whole texels at the size of its source. */
  exact: boolean;
  /** Importance of its material. */
  weight: number;
  /** Side at which its material's pictures show all that they have, as a share of their longest. */
  useful: number;
}
