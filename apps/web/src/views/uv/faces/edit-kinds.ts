import { FaceEdit, type FaceEditKind, type FaceGroup } from '@wembrel/core/decisions/face-decisions';
import { freeName } from '@wembrel/core/decisions/free-name';

/** What can be done to faces, in the order in which it is offered. */
export const KINDS: Record<FaceEditKind, { title: string; about: string }> = {
  slot: {
    title: 'Assign slot',
    about: 'The faces go to a slot, with their UVs as they are. A name that no model has makes a new one.',
  },
  strip: {
    title: 'Lay along a strip',
    about: 'Long sides run along a strip of a texture; rows of quads become exact rectangles, also around corners.',
  },
  cells: { title: 'Give whole cells', about: 'Every face takes a whole texture. Several are mixed by their shares.' },
  swatch: { title: 'Paint one colour', about: 'The faces get a slot without pictures, for a palette.' },
  swatches: {
    title: 'Map to palette',
    about: 'Each face takes the nearest of a few plain colours. Another colour replaces one everywhere.',
  },
  project: {
    title: 'Project for tiling',
    about: 'UVs seen along axes, in metres, so that a tiling texture goes on from piece to piece.',
  },
  unwrap: {
    title: 'Unwrap',
    about: 'New charts that lie flat, packed into 0–1. Textures do not follow: for what is to be baked.',
  },
  move: { title: 'Move, turn, scale UVs', about: 'Each island about its middle, or all about one point.' },
  relax: { title: 'Relax', about: 'Islands come nearer to the shape of the surface, and stay where they are.' },
  join: { title: 'Join islands', about: 'Islands torn apart are sewn along the edges that they share.' },
  split: {
    title: 'Split islands',
    about:
      'They come apart where the groups end, and where the surface bends. Pieces move by whole repeats of the texture, and show what they showed.',
  },
  normals: {
    title: 'Recompute normals',
    about:
      'Hard where the surface bends, and at borders of islands if asked; large faces stay flat beside narrow bevels.',
  },
  tiles: { title: 'A slot for each UV tile', about: 'Every tile becomes a slot of its own in 0–1.' },
};

/**
 * A change with all at its usual value.
 * @param wanted what a slot that it makes may be called @param taken names of slots that are there: no two get one name by default
 */
export function freshEdit(
  kind: FaceEditKind,
  id: string,
  groups: string[],
  wanted: string,
  taken: ReadonlySet<string> = new Set(),
): FaceEdit {
  const slot = kind === 'slot' || kind === 'swatch' ? freeName(wanted, taken) : wanted;
  return FaceEdit.parse({
    kind,
    id,
    groups,
    ...(kind === 'slot' || kind === 'swatch' ? { slot } : {}),
    ...(kind === 'swatch' ? { colour: '#7a8c8a' } : {}),
    ...(kind === 'swatches' ? { swatches: [{ slot: `${slot} 1`, from: '#7a8c8a', colour: '#7a8c8a' }] } : {}),
    ...(kind === 'cells' ? { mix: [{ slot, share: 1 }] } : {}),
  });
}

/** A new id among those that are there. */
export function freshId(letter: string, taken: readonly { id: string }[]): string {
  const used = new Set(taken.map((t) => t.id));
  for (let i = 1; ; i++) if (!used.has(`${letter}${i}`)) return `${letter}${i}`;
}

/** "Lay along a strip: Rails → HandrailSteel" */
export function titleOf(edit: FaceEdit, groups: readonly FaceGroup[]): string {
  const names = edit.groups.map((id) => groups.find((group) => group.id === id)?.name ?? id);
  const to =
    edit.kind === 'cells'
      ? edit.mix.map((variant) => variant.slot).join(', ')
      : 'slot' in edit && edit.slot !== null
        ? edit.slot
        : null;
  return `${KINDS[edit.kind].title}: ${names.join(', ')}${to === null ? '' : ` → ${to}`}`;
}

/** A hue for a new group: the golden angle from the last. */
export const freshHue = (groups: readonly FaceGroup[]): number => Math.round((groups.length * 137.508 + 20) % 360);

export const groupColour = (hue: number): string => `oklch(0.72 0.13 ${hue})`;
