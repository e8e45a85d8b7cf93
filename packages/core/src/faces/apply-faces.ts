import type { Material } from '@gltf-transform/core';
import { Wrap } from '@wembrel/kernels/sample';
import type { ComingSlot, FaceDecisions, FaceEdit, FaceEditOf } from '../decisions/face-decisions.ts';
import { faceText } from '../decisions/face-list.ts';
import { Cancelled } from '../errors.ts';
import type { Raster } from '../image/raster.ts';
import { linearOf } from '../image/srgb.ts';
import { type PaintedFaces, paintedFaces } from '../palette/faces.ts';
import { IMAGE_CHANNELS, materialLook } from '../scene/material.ts';
import type { Model } from '../scene/model.ts';
import { plainLay, type TextureLay, textureLay } from '../scene/texture-lay.ts';
import { chartFigures, flattenSurface, layCharts } from '../unwrap/unwrap.ts';
import { type Chosen, type FaceTable, faceTables, hasUv, surfaceOfChosen } from './face-table.ts';
import { groupFaces, partsForGroups } from './group-faces.ts';
import { joinIslands } from './join-islands.ts';
import { writeFlat } from './lay-flat.ts';
import { makeNormals } from './make-normals.ts';
import { type Cell, type Edge, edgesBeyond, mapOntoCells } from './map-cells.ts';
import { projectFaces } from './map-project.ts';
import { mapOntoStrip } from './map-strip.ts';
import { moveIslands } from './move-islands.ts';
import { relaxIslands } from './relax-islands.ts';
import { splitIslands } from './split-islands.ts';
import { takeSwatches } from './take-swatches.ts';
import { tilesToSlots } from './tiles-to-slots.ts';
import { writeFaceTable } from './write-face-table.ts';

/** What one edit did to one model. */
export interface FaceEditReport {
  edit: string;
  faces: number;
  /** What came out, in words and figures. */
  said: string;
  /** What is not as it should be, in sentences. */
  faults: string[];
  /** It could not be done, and the faces are as they were. */
  failed: boolean;
  /** Lower edge of a strip as high as its pieces are wide, where that follows from its metres a repeat. */
  bottom?: number;
}

/** Where the faces of a part come from: part of the source → its faces, in the order in which they stand. */
export type PartOrigin = { part: number; faces: string }[];

export interface FaceChanges {
  reports: FaceEditReport[];
  /** By part of the changed model; null where nothing was changed. */
  origins: PartOrigin[] | null;
}

/** What edits need to know of the world around a model. */
export interface FaceSurroundings {
  /** The material of a slot by its name, from another model; null where there is none. */
  elsewhere(name: string): Material | null;
  /** Width and height of the base colour's picture, px; null without one. */
  picture(material: Material | null): [number, number] | null;
  /** Decoded pictures by their keys, for edits that read colours. */
  raster?(key: string): Raster | undefined;
  cancelled?: () => boolean;
}

/** Whether any edit reads what faces show, so that pictures have to be decoded. */
export const readsColours = (decisions: FaceDecisions): boolean =>
  decisions.edits.some((edit) => !edit.off && edit.kind === 'swatches');

/** Slots while edits are applied: those of the model, and those that edits ask for. */
class SlotTable {
  readonly materials: (Material | null)[];
  /** Pictures that there will be, px. */
  private readonly expected = new Map<Material, [number, number]>();

  constructor(
    private readonly model: Model,
    private readonly around: FaceSurroundings,
    private readonly coming: readonly ComingSlot[],
  ) {
    this.materials = model.slots.map((slot) => slot.material);
  }

  numberOf(material: Material | null): number {
    const at = this.materials.indexOf(material);
    return at >= 0 ? at : this.materials.push(material) - 1;
  }

  nameOf(slot: number): string {
    const known = this.model.slots[slot];
    return known?.name ?? this.materials[slot]?.getName() ?? 'no material';
  }

  /** The slot of a name: the model's own, else one of another model, else one that is to come, else a copy of what the faces had. */
  named(name: string, like: number): number {
    for (let s = 0; s < this.materials.length; s++) if (this.nameOf(s) === name) return s;
    return this.materials.push(this.around.elsewhere(name) ?? this.toCome(name) ?? this.copyOf(like, name)) - 1;
  }

  /** Width and height of a slot's picture, px, also of one that there will be. */
  picture(slot: number): [number, number] | null {
    const material = this.materials[slot];
    return (material && this.expected.get(material)) ?? this.around.picture(material);
  }

  /** How the textures of a slot are laid, see `textureLay`. @throws Error where there is no one way */
  lay(slot: number, set: number | null): TextureLay {
    try {
      return textureLay(
        materialLook(this.materials[slot], () => ''),
        set,
      );
    } catch (error) {
      throw new Error(`"${this.nameOf(slot)}" ${(error as Error).message}`);
    }
  }

  /** The same by face. */
  laysOf(set: number | null): (c: Chosen) => (face: number) => TextureLay {
    const known: TextureLay[] = [];
    return ({ table }) =>
      (face) => {
        const slot = table.slots[face];
        known[slot] ??= this.lay(slot, set);
        return known[slot];
      };
  }

  private toCome(name: string): Material | null {
    const c = this.coming.find((x) => x.slot === name);
    if (!c) return null;
    const made = this.model.document
      .createMaterial(name)
      .setBaseColorFactor([...linearOf(c.colour), 1])
      .setMetallicFactor(0);
    this.expected.set(made, [c.width, c.height]);
    return made;
  }

  private copyOf(like: number, name: string): Material {
    const from = this.materials[like];
    return (from ? from.clone() : this.model.document.createMaterial()).setName(name);
  }

  /** A plain slot of its own. */
  plain(faceEditOf: Pick<FaceEditOf<'swatch'>, 'slot' | 'colour' | 'roughness' | 'metallic' | 'emissive'>): number {
    const made = this.model.document
      .createMaterial(faceEditOf.slot)
      .setBaseColorFactor([...linearOf(faceEditOf.colour), 1])
      .setRoughnessFactor(faceEditOf.roughness)
      .setMetallicFactor(faceEditOf.metallic)
      .setEmissiveFactor(linearOf(faceEditOf.emissive));
    return this.materials.push(made) - 1;
  }
}

/**
 * Applies edits of faces to a model, in its document, which is to be read again afterwards. Edits of which the model has no face do nothing;
 * one that cannot be done is reported and left out.
 * @throws Cancelled
 */
export function applyFaceEdits(model: Model, decisions: FaceDecisions, around: FaceSurroundings): FaceChanges {
  const grouped = groupFaces(partsForGroups(model), decisions.groups);
  const table = new SlotTable(model, around, decisions.coming);
  const before = new Set(model.parts.map((part) => model.slots[part.slot].material));
  const tables = faceTables(model, (material) => table.numberOf(material));
  const numberOf = new Map(decisions.groups.map((group, i) => [group.id, i]));
  const paints = readsColours(decisions) ? paintedFaces(model, (key) => around.raster?.(key)) : [];
  const groupOf = (table: FaceTable, face: number): string | null => {
    let p = table.starts.length - 1;
    while (table.starts[p] > face) p--;
    const g = grouped.ofPart[table.parts[p].id][face - table.starts[p]];
    return decisions.groups[g]?.id ?? null;
  };
  const reports: FaceEditReport[] = [];
  for (const edit of decisions.edits) {
    if (edit.off) continue;
    const wanted = new Set(edit.groups.map((group) => numberOf.get(group)));
    const chosen = tables.flatMap((table): Chosen[] => {
      const faces: number[] = [];
      table.parts.forEach((part, p) => {
        grouped.ofPart[part.id].forEach((g, f) => {
          if (wanted.has(g)) faces.push(table.starts[p] + f);
        });
      });
      return faces.length > 0 ? [{ table, faces: Uint32Array.from(faces) }] : [];
    });
    if (chosen.length === 0) continue;
    const faces = chosen.reduce((sum, chosen) => sum + chosen.faces.length, 0);
    const undo = rememberBodies(chosen);
    try {
      reports.push({ edit: edit.id, faces, ...change(chosen, edit, table, around, paints, groupOf), failed: false });
    } catch (error) {
      if (error instanceof Cancelled || !(error instanceof Error)) throw error;
      undo();
      reports.push({ edit: edit.id, faces, said: 'not done', faults: [error.message], failed: true });
    }
  }
  if (reports.length > 0 && grouped.missing.length > 0) reports[0].faults.push(...grouped.missing);
  const changed = tables.filter((table) => table.wroteSlots || table.wroteUv.size > 0 || table.normals);
  if (changed.length === 0) return { reports, origins: null };
  const origins = written(model, changed, table);
  // Slots that were made for nothing go as well.
  dropUnused(model, new Set([...before, ...table.materials.slice(model.slots.length)]));
  return { reports, origins };
}

/** @returns puts the face tables back to what they are now */
function rememberBodies(chosen: readonly Chosen[]): () => void {
  const kept = chosen.map(({ table }) => ({
    table,
    slots: table.slots.slice(),
    plain: table.plain.slice(),
    normals: table.normals?.slice() ?? null,
    uvs: table.uvs.map((uv) => uv?.slice() ?? null),
    wroteUv: new Set(table.wroteUv),
    wroteSlots: table.wroteSlots,
  }));
  return () => {
    for (const { table, ...was } of kept) Object.assign(table, was);
  };
}

/** Writes face tables back. @returns where faces come from, for all parts of the model as it is read afterwards */
function written(model: Model, tables: readonly FaceTable[], slots: SlotTable): PartOrigin[] {
  const from = new Map<unknown, PartOrigin>();
  for (const part of model.parts)
    from.set(part.primitive, wholePart(part.id, part.mode < 4 ? 0 : part.indices.length / 3));
  for (const table of tables) {
    const ids = table.parts.map((part) => part.id);
    for (const writtenPrimitive of writeFaceTable(model.document, table, (s) => slots.materials[s])) {
      const origin: PartOrigin = [];
      for (let i = 0; i < writtenPrimitive.part.length; ) {
        let end = i;
        while (end < writtenPrimitive.part.length && writtenPrimitive.part[end] === writtenPrimitive.part[i]) end++;
        origin.push({ part: ids[writtenPrimitive.part[i]], faces: faceText(writtenPrimitive.face.subarray(i, end)) });
        i = end;
      }
      from.set(writtenPrimitive.primitive, origin);
    }
  }
  return model.document
    .getRoot()
    .listMeshes()
    .flatMap((mesh) => mesh.listPrimitives().map((primitive) => from.get(primitive) ?? []));
}

const wholePart = (part: number, faces: number): PartOrigin =>
  faces > 0 ? [{ part, faces: faces > 1 ? `0-${faces - 1}` : '0' }] : [];

/** Materials that lost their last face, and pictures that only they used. */
function dropUnused({ document }: Model, before: ReadonlySet<Material | null>): void {
  const used = (p: { listParents(): { propertyType: string }[] }) =>
    p.listParents().some((q) => q.propertyType !== 'Root');
  for (const material of before) {
    if (!material || used(material)) continue;
    const textures = document
      .getRoot()
      .listTextures()
      .filter((texture) => texture.listParents().includes(material));
    material.dispose();
    for (const texture of textures) if (!used(texture)) texture.dispose();
  }
}

function change(
  chosen: readonly Chosen[],
  edit: FaceEdit,
  table: SlotTable,
  around: FaceSurroundings,
  paints: readonly PaintedFaces[],
  groupOf: (table: FaceTable, face: number) => string | null,
): Pick<FaceEditReport, 'said' | 'faults' | 'bottom'> {
  const faults: string[] = [];
  if (
    edit.kind !== 'cells' &&
    edit.kind !== 'swatch' &&
    edit.kind !== 'swatches' &&
    'slot' in edit &&
    edit.slot !== null
  )
    giveSlot(chosen, table.named(edit.slot, firstSlot(chosen)));
  switch (edit.kind) {
    case 'slot':
      return { said: `now in ${edit.slot}`, faults };
    case 'swatch': {
      giveSlot(chosen, table.plain(edit));
      for (const { table, faces } of chosen) for (const face of faces) table.plain[face] = 1;
      return { said: `painted ${edit.colour}`, faults };
    }
    case 'swatches': {
      const slots = edit.swatches.map((swatch) => table.plain(swatch));
      const f = takeSwatches(chosen, edit.swatches, paints, slots);
      if (f.left > 0)
        faults.push(
          `${counted(f.left, 'face')} ${f.left === 1 ? 'shows' : 'show'} more than one colour and ${f.left === 1 ? 'stays' : 'stay'} as before`,
        );
      return {
        said: `${counted(f.taken, 'face')} on ${counted(edit.swatches.length, 'colour')}, off by ΔE ${f.worst.toFixed(1)} at most`,
        faults,
      };
    }
    case 'unwrap':
      return { said: unwrapped(chosen, edit, around), faults };
    case 'project':
      return { said: `${counted(projectFaces(chosen, edit, table.laysOf(edit.set)), 'piece')}`, faults };
    case 'strip': {
      const picture = table.picture(firstSlot(chosen)) ?? ([1, 1] as [number, number]);
      const stripFigures = mapOntoStrip(chosen, edit, picture, table.laysOf(null));
      if (stripFigures.flipped > 0)
        faults.push(
          `${counted(stripFigures.flipped, 'face')} came out turned over; lower the bend at which pieces end`,
        );
      if (stripFigures.unmirrored > 0)
        faults.push(
          `${counted(stripFigures.unmirrored, 'piece')} cannot end mirrored: no edge runs across near the middle`,
        );
      const [low, middle, high] = stripFigures.widths.map((width) => `${Number(width.toPrecision(3))}`);
      const widths = low === high ? `${low} m` : `${low} to ${high} m, half of them up to ${middle} m`;
      return {
        said: `${counted(stripFigures.pieces, 'piece')}, ${stripFigures.straight} straightened; ${widths} wide`,
        faults,
        ...(edit.fit === 'metres'
          ? { bottom: edit.top + (stripFigures.widths[1] / edit.amount) * (picture[0] / picture[1]) }
          : {}),
      };
    }
    case 'cells': {
      const slots = edit.mix.map((variant) => table.named(variant.slot, firstSlot(chosen)));
      const cells = slots.map((slot) => cellOf(table, slot));
      const cellFigures = mapOntoCells(chosen, edit, cells, edgeOf(edit, chosen, table, groupOf));
      const mix =
        cellFigures.taken.length > 1 ? `: ${cellFigures.taken.map((t) => `${t.slot} ${t.faces}`).join(', ')}` : '';
      return {
        said: `${counted(cellFigures.quads, 'quad')}, ${counted(cellFigures.triangles, 'single triangle')}${mix}`,
        faults,
      };
    }
    case 'move':
      needUvs(chosen, edit.set);
      return { said: counted(moveIslands(chosen, edit), 'island'), faults };
    case 'relax': {
      needUvs(chosen, edit.set);
      const aspect = (chosen: Chosen, face: number) => {
        const size = table.picture(chosen.table.slots[face]);
        return size ? size[0] / size[1] : 1;
      };
      const relaxFigures = relaxIslands(chosen, edit, aspect);
      if (relaxFigures.kept > 0)
        faults.push(
          `${counted(relaxFigures.kept, 'island')} stayed as ${relaxFigures.kept === 1 ? 'it was' : 'they were'}: nothing better was found`,
        );
      return {
        said: `${counted(relaxFigures.islands, 'island')}; stretch ${relaxFigures.before.toFixed(3)} → ${relaxFigures.after.toFixed(3)}`,
        faults,
      };
    }
    case 'join': {
      needUvs(chosen, edit.set);
      const joinFigures = joinIslands(chosen, edit);
      const apart =
        joinFigures.refused > 0 ? `; ${counted(joinFigures.refused, 'pair')} would not fit and stayed apart` : '';
      return { said: `${joinFigures.before} → ${counted(joinFigures.after, 'island')}${apart}`, faults };
    }
    case 'split': {
      needUvs(chosen, edit.set);
      const splitFigures = splitIslands(chosen, edit, (chosen, face) =>
        periodOf(table, chosen.table.slots[face], edit.set),
      );
      return { said: `${splitFigures.before} → ${counted(splitFigures.after, 'island')}`, faults };
    }
    case 'normals': {
      if (edit.borders !== null) needUvs(chosen, edit.borders);
      const hard = makeNormals(chosen, edit);
      return { said: hard > 0 ? `hard at ${counted(hard, 'point')}` : 'smooth all over', faults };
    }
    case 'tiles': {
      needUvs(chosen, 0);
      const made = tilesToSlots(
        chosen,
        (s) => table.nameOf(s),
        (name, like) => table.named(name, like),
      );
      return { said: made > 0 ? `${counted(made, 'slot')} made` : 'one UV tile only', faults };
    }
  }
}

const counted = (n: number, what: string): string => `${n} ${what}${n === 1 ? '' : 's'}`;

function edgeOf(
  { edge }: FaceEditOf<'cells'>,
  chosen: readonly Chosen[],
  table: SlotTable,
  groupOf: (table: FaceTable, face: number) => string | null,
): Edge | null {
  if (!edge) return null;
  const slot = table.named(edge.slot, firstSlot(chosen));
  const { to } = edge;
  const twin = edgesBeyond(to === null ? null : (table, face) => groupOf(table, face) === to);
  return { ...cellOf(table, slot), beginsBeyond: twin };
}

const cellOf = (table: SlotTable, slot: number): Cell => ({
  slot,
  picture: table.picture(slot) ?? [1, 1],
  lay: table.lay(slot, null),
});

/** What a slot that has to be made is a copy of. */
const firstSlot = ([chosen]: readonly Chosen[]): number => chosen.table.slots[chosen.faces[0]];

function giveSlot(chosen: readonly Chosen[], slot: number): void {
  for (const { table, faces } of chosen)
    for (const face of faces) {
      table.plain[face] = 0;
      if (table.slots[face] === slot) continue;
      table.slots[face] = slot;
      table.wroteSlots = true;
    }
}

/** Repeats to the right after which all pictures of a slot that read a UV set are the same again. @throws Error where one has none */
function periodOf(table: SlotTable, slot: number, set: number): number {
  const material = table.materials[slot];
  const look = materialLook(material, () => '');
  let period = 1;
  for (const channel of IMAGE_CHANNELS) {
    const use = look[channel];
    if (!use || use.uvSet !== set) continue;
    const [a, b] = use.transform;
    // A move by whole numbers is one of whole repeats where the texture is neither turned nor scaled by a fraction.
    if (use.wrapS === Wrap.clamp || b !== 0 || !Number.isInteger(a))
      throw new Error(
        `the texture of "${table.nameOf(slot)}" does not go on beyond its sides, so that its islands cannot come apart`,
      );
    if (use.wrapS === Wrap.mirror) period = 2;
  }
  return period;
}

function needUvs(chosen: readonly Chosen[], set: number): void {
  const bare = chosen.find((chosen) => !hasUv(chosen, set));
  if (bare) throw new Error(`faces of "${bare.table.name}" have no UV set ${set}; unwrap or project them first`);
}

function unwrapped(chosen: readonly Chosen[], edit: FaceEditOf<'unwrap'>, around: FaceSurroundings): string {
  const { cancelled } = around;
  const work = chosen.flatMap((chosen) => {
    // Faces of a slot share its 0–1, and charts do not run over the border of slots.
    const bySlot = new Map<number, number[]>();
    for (const face of chosen.faces) {
      const key = edit.together ? -1 : chosen.table.slots[face];
      const list = bySlot.get(key);
      if (list) list.push(face);
      else bySlot.set(key, [face]);
    }
    return [...bySlot].map(([slot, faces]) => {
      const own = { table: chosen.table, faces: Uint32Array.from(faces) };
      const surface = surfaceOfChosen(own);
      return { own, slot, surface, flats: flattenSurface(surface, { ...edit, cancelled }), scale: chosen.table.scale };
    });
  });
  const groups = new Map<number, typeof work>();
  for (const w of work) groups.set(w.slot, [...(groups.get(w.slot) ?? []), w]);
  let coverage = 0;
  for (const group of groups.values()) {
    const laid = layCharts(group, { size: edit.size, margin: edit.margin, effort: EFFORT, seed: 1, cancelled });
    coverage += laid.coverage / groups.size;
    for (const [w, uvs] of laid.uvs)
      w.flats.forEach((flat, i) => {
        writeFlat(
          w.own,
          { ...flat, uv: uvs[i] },
          () => plainLay(edit.set),
          (u, v) => [u, v],
        );
      });
  }
  const { charts, stretch } = chartFigures(work);
  return `${counted(charts, 'chart')}, stretch ${stretch.toFixed(3)}, ${(coverage * 100).toFixed(0)} % covered`;
}

/** Rounds of packing; what is baked is packed again on its sheet anyway. */
const EFFORT = 2;
