import type { FaceDecisions, FaceEdit, FaceEditOf, FaceGroup } from '@wembrel/core/decisions/face-decisions';
import { freeName } from '@wembrel/core/decisions/free-name';
import { hexOf } from '@wembrel/core/image/hex';
import { toRgb } from '@wembrel/core/image/oklab';
import { freshEdit, freshHue, freshId } from './edit-kinds.ts';

/** What a colour of the palette looks like; it is known by its slot, whichever changes give it to faces. */
export type PaletteColour = Pick<
  FaceEditOf<'swatch'>,
  'slot' | 'colour' | 'upper' | 'axis' | 'roughness' | 'metallic' | 'emissive'
>;

type Faces = Pick<FaceDecisions, 'groups' | 'edits'>;

/** The colours that changes in force give to faces, each once. */
export function paletteColours({ edits }: Pick<Faces, 'edits'>): PaletteColour[] {
  const out = new Map<string, PaletteColour>();
  for (const edit of edits) {
    if (edit.off) continue;
    if (edit.kind === 'swatch') out.set(edit.slot, edit);
    if (edit.kind === 'swatches')
      for (const { slot, colour, roughness, metallic, emissive } of edit.swatches)
        if (!out.has(slot)) out.set(slot, { slot, colour, upper: null, axis: 'y', roughness, metallic, emissive });
  }
  return [...out.values()];
}

/** The change by which a colour is painted by hand, and its group. */
export function paintEdit({ edits }: Pick<Faces, 'edits'>, slot: string): FaceEditOf<'swatch'> | null {
  return (
    edits.find((edit): edit is FaceEditOf<'swatch'> => edit.kind === 'swatch' && edit.slot === slot && !edit.off) ??
    null
  );
}

/** A group of its own, with a name that no other one has. */
export function freshGroup(groups: readonly FaceGroup[], name: string): FaceGroup {
  const fits = freeName(name.slice(0, 50), new Set(groups.map((group) => group.name)));
  return {
    id: freshId('g', groups),
    name: fits,
    hue: freshHue(groups),
    note: '',
    faces: {},
    parts: [],
    slots: [],
  };
}

/** With a change that paints a colour by hand, where there was none. */
export function withPaint(faces: Faces, colour: PaletteColour): { faces: Faces; paint: FaceEditOf<'swatch'> } {
  const known = paintEdit(faces, colour.slot);
  if (known) return { faces, paint: known };
  const group = freshGroup(faces.groups, colour.slot);
  const fresh = freshEdit('swatch', freshId('e', faces.edits), [group.id], colour.slot);
  const { slot, colour: hex, upper, axis, roughness, metallic, emissive } = colour;
  const paint = { ...fresh, slot, colour: hex, upper, axis, roughness, metallic, emissive } as FaceEditOf<'swatch'>;
  return { faces: { groups: [...faces.groups, group], edits: [...faces.edits, paint] }, paint };
}

/** OKLab lightness and chroma of new colours, which go around by the golden angle. */
const [LIGHTNESS, CHROMA, ANGLE] = [0.66, 0.11, 137.508];

/** One colour more, unlike the last ones. @param taken names of slots */
export function withNewColour(faces: Faces, taken: ReadonlySet<string>): { faces: Faces; slot: string } {
  const known = paletteColours(faces);
  const slot = freeName('Colour 1', new Set([...taken, ...known.map((one) => one.slot)]));
  const hue = (known.length * ANGLE * Math.PI) / 180;
  const rgb = toRgb([LIGHTNESS, CHROMA * Math.cos(hue), CHROMA * Math.sin(hue)]);
  const colour = hexOf(rgb.map((v) => Math.round(v * 255)));
  const plain = { slot, colour, upper: null, axis: 'y', roughness: 0.8, metallic: 0, emissive: '#000000' } as const;
  return { faces: withPaint(faces, plain).faces, slot };
}

/** Replaces a colour everywhere: in what was painted by hand and in what was gathered. */
export function recoloured(edits: readonly FaceEdit[], slot: string, part: Partial<PaletteColour>): FaceEdit[] {
  const { upper, axis, ...plain } = part;
  return edits.map((edit) => {
    if (edit.kind === 'swatch' && edit.slot === slot) return { ...edit, ...part };
    if (edit.kind !== 'swatches') return edit;
    return { ...edit, swatches: edit.swatches.map((one) => (one.slot === slot ? { ...one, ...plain } : one)) };
  });
}

/** Without a colour: faces that were painted with it by hand show again what they showed. What was gathered keeps one at least. */
export function withoutColour(faces: Faces, slot: string): Faces {
  const paint = paintEdit(faces, slot);
  const edits = faces.edits
    .filter((edit) => edit.id !== paint?.id)
    .map((edit) => {
      if (edit.kind !== 'swatches') return edit;
      const swatches = edit.swatches.filter((one) => one.slot !== slot);
      return swatches.length > 0 ? { ...edit, swatches } : edit;
    });
  const used = new Set(edits.flatMap((edit) => edit.groups));
  const gone = new Set(paint?.groups.filter((id) => !used.has(id)));
  return { groups: faces.groups.filter((group) => !gone.has(group.id)), edits };
}
