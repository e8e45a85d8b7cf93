import { InputError } from '../errors.ts';
import type { RecipeNeeds } from './inputs/needs.ts';

/** Bytes of a texel: the maps of the sheet with their owners. */
const SHEET = 4 + 3 + 3 + 3 + 4;
/** Of each map of 16 bits that a condition reads, of heights and distances, of IDs with the picture they come from. */
const VALUE = 2;
const LENGTH = 4;
const IDS = 4 + 3;
/** Bytes of a triangle: corners on the sheet and in space, normals, frames, steps of a px, levels. */
const TRIANGLE = 48 + 36 + 36 + 48 + 48 + 20;

/**
 * Bytes that laying a recipe reserves, beside pictures of looks and what rays take, told before anything is taken.
 * @throws InputError with the numbers when it is more than there is @param available bytes
 */
export function planRecipeMemory(
  path: string,
  { side, triangles, needs }: { side: number; triangles: number; needs: RecipeNeeds },
  available: number,
): number {
  const ids = needs.idPictures.length + Number(needs.bakedIds);
  const heights = Number(needs.maps.includes('height'));
  const texel = SHEET + (needs.maps.length - heights) * VALUE + (heights + needs.distances.length) * LENGTH + ids * IDS;
  const bytes = side * side * texel + triangles * TRIANGLE;
  if (bytes <= available) return bytes;
  const gib = (v: number) => (v / 1024 ** 3).toFixed(1);
  throw new InputError(
    path,
    `its recipe needs ${gib(bytes)} GiB at ${side} px, and the machine has ${gib(available)}; take a smaller size`,
  );
}
