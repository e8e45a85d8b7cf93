import type { Lay } from '../../decisions/recipe/look.ts';
import { mulberry32 } from '../../math/random.ts';
import { measuresOf, type RecipeSurface } from '../surface.ts';

export type Scatter = Extract<Lay, { by: 'scatter' }>;

/** One copy: where its middle lies, the normal there, its width in m, and its turn in degrees. */
export interface Copy {
  at: [number, number, number];
  normal: [number, number, number];
  width: number;
  turn: number;
}

/**
 * Spreads copies over a surface by chance, as many on each stretch as its area asks for. The seed alone decides, whatever is evaluated when. On a cell, copies that lie
 * over an edge come in at the opposite one.
 * @param aspect height over width of the picture
 */
export function scatteredCopies(surface: RecipeSurface, lay: Scatter, aspect: number): Copy[] {
  const random = mulberry32(lay.seed);
  const areas = new Float64Array(surface.count);
  let total = 0;
  for (let t = 0; t < surface.count; t++) {
    total += measuresOf(surface, t).world;
    areas[t] = total;
  }
  if (total === 0) return [];
  const copies: Copy[] = [];
  for (let n = 0; n < lay.count; n++) {
    const triangle = firstAbove(areas, random() * total);
    let b = random();
    let c = random();
    if (b + c > 1) [b, c] = [1 - b, 1 - c];
    const width = lay.metres[0] + (lay.metres[1] - lay.metres[0]) * random();
    const turn = (random() * 2 - 1) * lay.turned;
    copies.push({ ...pointOn(surface, triangle, b, c), width, turn });
  }
  return surface.wraps ? wrappedCopies(copies, surface.wraps, aspect) : copies;
}

/** The first position whose sum exceeds a value. */
function firstAbove(sums: Float64Array, v: number): number {
  let [low, high] = [0, sums.length - 1];
  while (low < high) {
    const middle = (low + high) >> 1;
    if (sums[middle] > v) high = middle;
    else low = middle + 1;
  }
  return low;
}

function pointOn(
  { positions: p, normals: n }: RecipeSurface,
  t: number,
  b: number,
  c: number,
): Pick<Copy, 'at' | 'normal'> {
  const mix = (values: Float32Array, k: number) =>
    (1 - b - c) * values[t * 9 + k] + b * values[t * 9 + 3 + k] + c * values[t * 9 + 6 + k];
  return { at: [mix(p, 0), mix(p, 1), mix(p, 2)], normal: [mix(n, 0), mix(n, 1), mix(n, 2)] };
}

/** The copies with those of all neighbours of a cell that reach into it; a copy and its images follow each other. */
function wrappedCopies(copies: readonly Copy[], [w, h]: readonly [number, number], aspect: number): Copy[] {
  return copies.flatMap((copy) => {
    const reach = (copy.width / 2) * Math.sqrt(1 + aspect * aspect);
    const out: Copy[] = [];
    for (const dy of [-h, 0, h])
      for (const dx of [-w, 0, w]) {
        const [x, y] = [copy.at[0] + dx, copy.at[1] + dy];
        if (x + reach >= 0 && x - reach <= w && y + reach >= 0 && y - reach <= h)
          out.push({ ...copy, at: [x, y, copy.at[2]] });
      }
    return out;
  });
}
