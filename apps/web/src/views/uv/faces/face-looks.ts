import type { CutAxes } from '@wembrel/core/cut/cut-repeats';
import { repeatLines } from '@wembrel/core/cut/repeat-lines';
import type { FaceGroup } from '@wembrel/core/decisions/face-decisions';
import type { FaceLayer } from '../../../stage/placed.ts';
import { divergingRamp, sequentialRamp } from '../../../ui/ramps.ts';
import { groupColour } from './edit-kinds.ts';
import { type FaceTable, layOfFaces, litBy } from './face-table.ts';

/** What faces are coloured by. */
export const LOOKS = {
  own: 'original',
  groups: 'face groups',
  checker: 'UV checker',
  density: 'density',
  stretch: 'stretch',
  repeats: 'cuts at repeats',
  stripRepeats: 'cuts at repeats, for a strip',
} as const;
export type Look = keyof typeof LOOKS;

/** Looks that draw where faces would be cut, and along which axes. */
export const CUTS: Partial<Record<Look, CutAxes>> = { repeats: 'both', stripRepeats: 'v' };

/** Steps of a scale. */
const STEPS = 9;

/** Each face's step on a scale as so many layers. */
function scaled(
  table: FaceTable,
  hidden: Uint8Array | null,
  value: (face: number) => number,
  colour: (share: number) => string,
): FaceLayer[] {
  const step = Int8Array.from({ length: table.faces }, (_, f) => {
    const v = hidden?.[f] ? Number.NaN : value(f);
    return Number.isNaN(v) ? -1 : Math.round(Math.min(1, Math.max(0, v)) * (STEPS - 1));
  });
  return Array.from({ length: STEPS }, (_, s) => ({
    faces: litBy(table, (f) => step[f] === s),
    colour: colour(s / (STEPS - 1)),
    opacity: 0.85,
  }));
}

/** Lines where the textures begin again, by shown part, and how many there are. */
export function repeatsOf(
  table: FaceTable,
  hidden: Uint8Array | null,
  axes: CutAxes,
): { lines: Map<number, Float32Array>; count: number } {
  const lines = new Map<number, Float32Array>();
  let count = 0;
  for (const { part, faces } of table.shown) {
    const seen = faces.filter((face) => !hidden?.[face]);
    const found = repeatLines(table.positions, table.indices, table.uv, { faces: seen, axes });
    count += found.length / 6;
    if (found.length > 0) lines.set(part, found);
  }
  return { lines, count };
}

/** Layers of a look over the faces that are not hidden, and the ends of its scale in words. */
export function layersOf(
  look: Look,
  table: FaceTable,
  groups: readonly FaceGroup[],
  groupOf: Int16Array,
  hidden: Uint8Array | null,
  sizeOf: (slot: number) => readonly [number, number],
): { layers: FaceLayer[]; ends: [string, string] | null } {
  if (look === 'groups')
    return {
      layers: groups.map((group, i) => ({
        faces: litBy(table, (f) => groupOf[f] === i && !hidden?.[f]),
        colour: groupColour(group.hue),
        opacity: 0.7,
      })),
      ends: null,
    };
  if (look === 'density' || look === 'stretch') {
    const { density, stretch } = layOfFaces(table, sizeOf);
    if (look === 'stretch')
      return {
        layers: scaled(table, hidden, (f) => stretch[f] - 1, sequentialRamp),
        ends: ['texels square', '2 × as long and more'],
      };
    const known = density.filter((d) => d > 0).sort();
    const middle = known[known.length >> 1] ?? 1;
    return {
      layers: scaled(
        table,
        hidden,
        (f) => 0.5 + Math.log2(density[f] / middle) / 6,
        (s) => divergingRamp(2 * s - 1),
      ),
      ends: [`⅛ of ${middle.toPrecision(3)} px/m`, '8 ×'],
    };
  }
  return { layers: [], ends: null };
}
