import type { FaceEditOf } from '../decisions/face-decisions.ts';
import { bytesOfHex, hexOf } from '../image/hex.ts';
import { difference, type Lab, toLab } from '../image/oklab.ts';
import type { PaintedFaces } from '../palette/faces.ts';
import { gatherPalette, orderSwatches, type Painted, ramp, type SwatchOrder } from '../palette/palette.ts';
import type { Chosen } from './face-table.ts';

type Wanted = FaceEditOf<'swatches'>['swatches'];

/** What a full step of roughness or metallic counts as, in ΔE OK × 100. */
const VALUE_STEP = 40;

const labOf = (rgb: readonly number[]): Lab => toLab([rgb[0] / 255, rgb[1] / 255, rgb[2] / 255]);

/**
 * Gives each face the swatch nearest to what it shows: by colour in OKLab, then by roughness and metallic.
 * @param paints what faces of the source show @param slots number of each swatch's slot
 * @returns how many faces took one, how many show more than one colour and stayed, and the greatest ΔE OK × 100
 */
export function takeSwatches(
  chosen: readonly Chosen[],
  wanted: Wanted,
  paints: readonly PaintedFaces[],
  slots: readonly number[],
): { taken: number; left: number; worst: number } {
  const ofPart = new Map(paints.map((paint) => [paint.part.id, paint.faces]));
  const targets = wanted.map((w) => ({
    lab: labOf(bytesOfHex(w.from)),
    rough: w.roughness * 255,
    metal: w.metallic * 255,
  }));
  const out = { taken: 0, left: 0, worst: 0 };
  for (const { table, faces } of chosen) {
    const paintOf = (f: number): Painted | null => {
      let p = table.starts.length - 1;
      while (table.starts[p] > f) p--;
      return ofPart.get(table.parts[p].id)?.[f - table.starts[p]] ?? null;
    };
    for (const face of faces) {
      const paint = paintOf(face);
      if (!paint) {
        out.left++;
        continue;
      }
      const lab = labOf(paint.colour);
      const cost = (t: (typeof targets)[number]) =>
        difference(lab, t.lab) +
        (VALUE_STEP / 255) * (Math.abs(t.rough - paint.roughness) + Math.abs(t.metal - paint.metallic));
      const costs = targets.map(cost);
      const best = costs.indexOf(Math.min(...costs));
      out.taken++;
      out.worst = Math.max(out.worst, difference(lab, targets[best].lab));
      table.slots[face] = slots[best];
      table.plain[face] = 1;
      table.wroteSlots = true;
    }
  }
  return out;
}

/**
 * Puts steps from dark to light in place of a swatch, itself in the middle: faces take the step that they show, and get that of its new colour.
 * Their slots are called after its own, with the number of steps that they are darker or lighter.
 * @param steps odd, 3 … 9
 */
export function withRamp(swatches: Wanted, at: number, steps: number): Wanted {
  const swatch = swatches[at];
  const shades = (hex: string) => ramp(bytesOfHex(hex), steps).map(hexOf);
  const [from, to] = [shades(swatch.from), shades(swatch.colour)];
  const middle = (steps - 1) / 2;
  const made = from.map((_, i) => {
    const by = i - middle;
    return by === 0
      ? swatch
      : { ...swatch, slot: `${swatch.slot} ${by < 0 ? '−' : '+'}${Math.abs(by)}`, from: from[i], colour: to[i] };
  });
  // Steps that are there already stay as they are.
  const names = new Set(swatches.map((x) => x.slot));
  return swatches.flatMap((x, i) => (i === at ? made.filter((m) => m === swatch || !names.has(m.slot)) : [x]));
}

/**
 * Swatches for what some faces show, each with a slot of its own.
 * @param name beginning of the slots' names @param by order of the swatches
 * @throws Error with a sentence when no face shows one colour alone, or looks that must stay apart are too many
 */
export function swatchesOf(
  paints: readonly Painted[],
  most: number,
  name: string,
  by: SwatchOrder = 'hue',
): { swatches: Wanted; maxError: number; meanError: number } {
  if (paints.length === 0) throw new Error('no face of these groups shows one colour alone');
  const { swatches, maxError, meanError } = gatherPalette(paints, most);
  const order = orderSwatches(swatches, by);
  return {
    swatches: order.map((s, i) => {
      const { colour, roughness, metallic, emissive } = swatches[s];
      const hex = hexOf(colour);
      return {
        slot: `${name} ${i + 1}`,
        from: hex,
        colour: hex,
        roughness: Number((roughness / 255).toFixed(4)),
        metallic: Number((metallic / 255).toFixed(4)),
        emissive: hexOf(emissive),
      };
    }),
    maxError,
    meanError,
  };
}
