import { z } from 'zod';
import { parseFaceText } from './face-list.ts';
import { faceSetHash } from './face-sets.ts';

const Id = z.string().regex(/^[a-z0-9]{1,8}$/, 'small letters and digits, at most 8');
const SlotName = z.string().trim().min(1, 'a slot needs a name').max(120);
const HexColour = z.string().regex(/^#[0-9a-f]{6}$/, 'a colour as #rrggbb');
const UvSet = z.number().int().min(0).max(3);
const Axis = z.enum(['x', 'y', 'z']);

/** Faces as text, or a reference to a text that is kept apart; see `face-sets.ts`. */
const FaceText = z
  .string()
  .max(4_000_000, 'too many pieces of selected faces for one part')
  .refine((text) => {
    if (faceSetHash(text) !== null) return true;
    try {
      parseFaceText(text);
      return true;
    } catch {
      return false;
    }
  }, 'faces are numbers and ranges, as 0-11,15');

/**
 * Faces that are treated alike. Faces belong to one group at most: those that are named belong to the first group that names them, others to
 * the first that has their part or slot. Numbers are those of the source, before anything is changed.
 */
export const FaceGroup = z.object({
  id: Id,
  name: z.string().trim().min(1, 'a name is needed').max(60),
  /** Hue that shows it, degrees. */
  hue: z.number().min(0).max(360),
  note: z.string().max(2000).default(''),
  /** Path of a model, or the end of it → number of a part (primitives of all meshes in order) → its faces. */
  faces: z.record(z.string(), z.record(z.string().regex(/^\d+$/), FaceText)).default({}),
  /** Whole parts and whole slots, by exact name, in all models. */
  parts: z.array(z.string().max(400)).max(200).default([]),
  slots: z.array(z.string().max(400)).max(200).default([]),
});
export type FaceGroup = z.infer<typeof FaceGroup>;

const common = {
  id: Id,
  /** Ids of the groups whose faces it changes. */
  groups: z.array(Id).min(1, 'a change needs a face group').max(200),
  off: z.boolean().default(false),
};
/** Slot that the faces go to, which is made where it is not there; null: they keep theirs. */
const slot = SlotName.nullable().default(null);

/** Faces get another slot, with their UVs as they are. */
const ToSlot = z.object({ kind: z.literal('slot'), ...common, slot: SlotName });

/** Faces get one plain colour, a slot without pictures, or a gradient. */
const Swatch = z.object({
  kind: z.literal('swatch'),
  ...common,
  slot: SlotName,
  colour: HexColour,
  /** The colour at the upper end, where `colour` is that of the lower one; null: one colour. */
  upper: HexColour.nullable().default(null),
  /** What the gradient runs along, from low to high, over the painted faces of each mesh. */
  axis: Axis.default('y'),
  roughness: z.number().min(0).max(1).default(0.8),
  metallic: z.number().min(0).max(1).default(0),
  emissive: HexColour.default('#000000'),
});

/** Plain colours: each face takes the nearest to the one that it shows; what shows more than one stays as it is. */
const Swatches = z.object({
  kind: z.literal('swatches'),
  ...common,
  swatches: z
    .array(
      z.object({
        slot: SlotName,
        /** Colour for which faces take it, and the one that they get: another one replaces it everywhere. */
        from: HexColour,
        colour: HexColour,
        roughness: z.number().min(0).max(1).default(0.8),
        metallic: z.number().min(0).max(1).default(0),
        emissive: HexColour.default('#000000'),
      }),
    )
    .min(1, 'a palette needs a colour')
    .max(256, 'at most 256 colours'),
});

/** New UVs: charts that lie flat, packed into 0–1. */
const Unwrap = z.object({
  kind: z.literal('unwrap'),
  ...common,
  slot,
  set: UvSet.default(0),
  method: z.enum(['charts', 'strips', 'box', 'planar', 'cylindrical']).default('charts'),
  axis: Axis.default('y'),
  stretch: z.number().min(1.0001).max(10).default(1.05),
  spread: z.number().min(1.0001).max(100).default(1.25),
  /** Always cut where the surface bends by more degrees. */
  cutAngle: z.number().min(1).max(180).default(180),
  /** All slots in one 0–1. */
  together: z.boolean().default(false),
  size: z.number().int().min(16).max(8192).default(1024),
  margin: z.number().min(0).max(256).default(12),
});

/** New UVs for a tiling texture: seen along axes, at so many metres a repeat. */
const Project = z.object({
  kind: z.literal('project'),
  ...common,
  slot,
  set: UvSet.default(0),
  method: z.enum(['box', 'planar', 'cylindrical']).default('box'),
  axis: Axis.default('y'),
  /** Metres that one repeat of the texture covers. */
  repeat: z.number().min(1e-4).max(1e5).default(1),
});

/** Rows of faces laid along a strip of a texture. */
const Strip = z.object({
  kind: z.literal('strip'),
  ...common,
  slot,
  /** Upper and lower edge of the strip in its texture, V down. */
  top: z.number().min(0).max(1).default(0),
  bottom: z.number().min(0).max(1).default(1),
  /** Pieces end where the surface bends by more degrees. */
  bend: z.number().min(1).max(180).default(40),
  /** Rows of quads become exact rectangles. */
  straight: z.boolean().default(true),
  /** `proportion`: no stretching, the strip's height sets the density; `metres`: so many a repeat; `repeats`: so many over the whole length. */
  fit: z.enum(['proportion', 'metres', 'repeats']).default('proportion'),
  amount: z.number().min(1e-4).max(1e5).default(1),
  /** Where along the strip pieces begin, in repeats. */
  offset: z.number().min(-1000).max(1000).default(0),
  /** `mirrored`: the second half runs back, so that both ends look alike. */
  ends: z.enum(['run', 'mirrored']).default('run'),
  /** Along the long side of a piece, or across it. */
  along: z.enum(['long', 'short']).default('long'),
  /** Upside down. */
  flip: z.boolean().default(false),
});

/** Every face takes a whole texture; several slots are mixed by their shares. */
const Cells = z.object({
  kind: z.literal('cells'),
  ...common,
  mix: z
    .array(z.object({ slot: SlotName, share: z.number().min(0).max(1000).default(1) }))
    .min(1, 'a mix needs a slot')
    .max(64),
  /** Turns that are dealt out by the seed. */
  turns: z.enum(['none', 'half', 'quarter']).default('none'),
  /** Some are mirrored, by the seed. */
  mirror: z.boolean().default(false),
  /** `whole`: corner to corner; `proportion`: what fits without stretching. */
  fit: z.enum(['whole', 'proportion']).default('whole'),
  /**
   * A transition: quads that border on faces of a group take this slot, its lower edge there; `to` null: quads at the border of the surface.
   * Where two sides border, the first one counts.
   */
  edge: z
    .object({ slot: SlotName, to: Id.nullable().default(null) })
    .nullable()
    .default(null),
  seed: z.number().int().min(0).max(0x7fffffff).default(1),
});

/** UVs moved, turned and scaled, around the middle of each island or around 0. */
const Move = z.object({
  kind: z.literal('move'),
  ...common,
  set: UvSet.default(0),
  u: z.number().min(-1e4).max(1e4).default(0),
  v: z.number().min(-1e4).max(1e4).default(0),
  turn: z.number().min(-360).max(360).default(0),
  scaleU: z.number().min(-1000).max(1000).default(1),
  scaleV: z.number().min(-1000).max(1000).default(1),
  about: z.enum(['island', 'all', 'origin']).default('island'),
});

/** Islands are brought nearer to the shape of the surface, in place. */
const Relax = z.object({
  kind: z.literal('relax'),
  ...common,
  set: UvSet.default(0),
  rounds: z.number().int().min(1).max(200).default(20),
});

/** Islands that have been torn apart along edges that they share are brought together again. */
const Join = z.object({
  kind: z.literal('join'),
  ...common,
  set: UvSet.default(0),
  /** Only over edges at which the surface bends by no more degrees. */
  bend: z.number().min(0).max(180).default(60),
});

/** Islands come apart where the groups end and where the surface bends by more; pieces move by whole repeats, and show what they showed. */
const Split = z.object({
  kind: z.literal('split'),
  ...common,
  set: UvSet.default(0),
  /** Cuts where the surface bends by more degrees; 180: nowhere but at the borders of the groups. */
  bend: z.number().min(0).max(180).default(180),
});

/** Normals made again: hard where the surface bends by more, and at borders of islands if asked; large faces stay flat beside narrow bevels. */
const Normals = z.object({
  kind: z.literal('normals'),
  ...common,
  /** Edges that bend by more degrees are hard. */
  angle: z.number().min(0).max(180).default(40),
  /** So are borders of islands of this UV set; null: they do not matter. */
  borders: UvSet.nullable().default(null),
});

/** Every UV tile becomes a slot of its own in 0–1. */
const TilesApart = z.object({ kind: z.literal('tiles'), ...common });

export const FaceEdit = z.discriminatedUnion('kind', [
  ToSlot,
  Swatch,
  Swatches,
  Unwrap,
  Project,
  Strip,
  Cells,
  Move,
  Relax,
  Join,
  Split,
  Normals,
  TilesApart,
]);
export type FaceEdit = z.infer<typeof FaceEdit>;
export type FaceEditKind = FaceEdit['kind'];
export type FaceEditOf<K extends FaceEditKind> = Extract<FaceEdit, { kind: K }>;

/** A slot that no model has yet: edits may lay faces on it, in the proportion that its picture will have. */
const ComingSlot = z.object({
  slot: SlotName,
  colour: HexColour.default('#808080'),
  /** Px of its picture, when there is one. */
  width: z.number().int().min(1).max(16384),
  height: z.number().int().min(1).max(16384),
});
export type ComingSlot = z.infer<typeof ComingSlot>;

/** Face groups, and what is done to their faces, in this order, before everything else. */
export const FaceDecisions = z
  .object({
    groups: z.array(FaceGroup).max(200, 'at most 200 face groups').default([]),
    edits: z.array(FaceEdit).max(200, 'at most 200 changes of faces').default([]),
    coming: z.array(ComingSlot).max(200, 'at most 200 slots that no model has').default([]),
  })
  .superRefine((decisions, context) => {
    const fail = (path: (string | number)[], message: string) => context.addIssue({ code: 'custom', path, message });
    const ids = new Set<string>();
    const names = new Set<string>();
    decisions.groups.forEach((group, i) => {
      if (ids.has(group.id)) fail(['groups', i, 'id'], `two face groups have the id "${group.id}"`);
      if (names.has(group.name.toLowerCase()))
        fail(['groups', i, 'name'], `two face groups are called "${group.name}"`);
      ids.add(group.id);
      names.add(group.name.toLowerCase());
    });
    const edits = new Set<string>();
    decisions.edits.forEach((edit, i) => {
      if (edits.has(edit.id)) fail(['edits', i, 'id'], `two changes of faces have the id "${edit.id}"`);
      edits.add(edit.id);
      for (const group of edit.groups)
        if (!ids.has(group))
          fail(['edits', i, 'groups'], `a change names the face group "${group}", which does not exist`);
      if (edit.kind === 'cells' && edit.edge?.to && (!ids.has(edit.edge.to) || edit.groups.includes(edit.edge.to)))
        fail(
          ['edits', i, 'edge'],
          `a transition names the face group "${edit.edge.to}", which does not exist or is changed itself`,
        );
      if (edit.kind === 'strip' && !(edit.bottom > edit.top))
        fail(['edits', i, 'bottom'], 'the lower edge of a strip lies below its upper edge');
      if (edit.kind === 'swatches' && new Set(edit.swatches.map((swatch) => swatch.slot)).size < edit.swatches.length)
        fail(['edits', i, 'swatches'], 'two colours have one slot');
      if (edit.kind === 'cells' && !edit.mix.some((variant) => variant.share > 0))
        fail(['edits', i, 'mix'], 'one slot of a mix at least needs a share');
    });
  });
export type FaceDecisions = z.infer<typeof FaceDecisions>;

/** Slots that edits give to faces, by name. */
export function slotsNamedBy(edits: readonly FaceEdit[]): Set<string> {
  return new Set(
    edits.flatMap((edit) => {
      if (edit.kind === 'cells')
        return [...edit.mix.map((variant) => variant.slot), ...(edit.edge ? [edit.edge.slot] : [])];
      return 'slot' in edit && edit.slot !== null ? [edit.slot] : [];
    }),
  );
}

/** What changes models: edits that are on, and the groups that they name. Others change nothing. */
export function facesInForce(decisions: FaceDecisions): FaceDecisions {
  const edits = decisions.edits.filter((edit) => !edit.off);
  if (edits.length === 0) return { groups: [], edits: [], coming: [] };
  // Groups before one that is named may take faces from it.
  const last = Math.max(
    ...edits
      .flatMap((edit) => (edit.kind === 'cells' && edit.edge?.to ? [...edit.groups, edit.edge.to] : edit.groups))
      .map((id) => decisions.groups.findIndex((group) => group.id === id)),
  );
  const named = slotsNamedBy(edits);
  return {
    groups: decisions.groups.slice(0, last + 1),
    edits,
    coming: decisions.coming.filter((c) => named.has(c.slot)),
  };
}

/** The same without names, notes and hues, which change nothing: what results depend on. */
export function facesRead(decisions: FaceDecisions): unknown {
  const { groups, edits, coming } = facesInForce(decisions);
  return { groups: groups.map(({ id, faces, parts, slots }) => ({ id, faces, parts, slots })), edits, coming };
}
