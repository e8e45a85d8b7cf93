import type { Condition } from '../../decisions/recipe/condition.ts';
import type { RecipeInputs } from '../inputs/input-maps.ts';
import type { Samples } from '../samples.ts';
import type { RecipeSurface } from '../surface.ts';
import type { TriangleValues } from './by-triangle.ts';

/**
 * Fills `out` with a value from 0 to 1 for each sample. Where `needed` is given and 0, nobody asks: what takes long is left out there, and any value may stand.
 */
export type Field = (samples: Samples, out: Float32Array, needed?: Float32Array) => void;

/** What conditions are compiled for. */
export interface ConditionContext {
  surface: RecipeSurface;
  inputs: RecipeInputs;
  shared: Readonly<Record<string, Condition>>;
  /** Of the worker among those that read the same pictures. */
  slot: number;
}

/** A value for each triangle. */
export const ofTriangle =
  (values: TriangleValues): Field =>
  ({ count, triangle }, out) => {
    for (let i = 0; i < count; i++) out[i] = values[triangle[i]];
  };
