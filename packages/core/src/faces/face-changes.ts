import { Wrap } from '@wembrel/kernels/sample';
import type { FaceEdit, FaceEditOf } from '../decisions/face-decisions.ts';
import { surfaceArea } from '../mesh/surface.ts';
import type { PaintedFaces } from '../palette/faces.ts';
import { IMAGE_CHANNELS, materialLook } from '../scene/material.ts';
import { plainLay } from '../scene/texture-lay.ts';
import { chartFigures, flattenSurface, layCharts } from '../unwrap/unwrap.ts';
import { type Chosen, type FaceTable, hasUv, surfaceOfChosen } from './face-table.ts';
import { layOnGradient } from './gradients.ts';
import { joinIslands } from './join-islands.ts';
import { writeFlat } from './lay-flat.ts';
import { makeNormals } from './make-normals.ts';
import { type Cell, type Edge, edgesBeyond, mapOntoCells } from './map-cells.ts';
import { projectFaces } from './map-project.ts';
import { mapOntoStrip } from './map-strip.ts';
import { moveIslands } from './move-islands.ts';
import { relaxIslands } from './relax-islands.ts';
import type { FaceSurroundings, SlotTable } from './slot-table.ts';
import { splitIslands } from './split-islands.ts';
import { takeSwatches } from './take-swatches.ts';
import { tilesToSlots } from './tiles-to-slots.ts';

/** What one edit came to. */
export interface EditOutcome {
  /** What came out, in words and figures. */
  said: string;
  /** What is not as it should be, in sentences. */
  faults: string[];
  /** Lower edge of a strip as high as its pieces are wide, where that follows from its metres a repeat. */
  bottom?: number;
}

/** What an edit is applied to, and what it may read. */
export interface EditScope {
  chosen: readonly Chosen[];
  slots: SlotTable;
  around: FaceSurroundings;
  /** What the faces show, for edits that read colours; empty otherwise. */
  paints: readonly PaintedFaces[];
  /** Id of the group that a face is in. */
  groupOf: (table: FaceTable, face: number) => string | null;
}

type Change<K extends FaceEdit['kind']> = (scope: EditScope, edit: FaceEditOf<K>) => EditOutcome;

/**
 * Applies one edit to its faces.
 * @throws Error saying why it cannot be done; the faces may be half changed by then
 * @throws Cancelled
 */
export function applyEdit(scope: EditScope, edit: FaceEdit): EditOutcome {
  const named = edit.kind !== 'cells' && edit.kind !== 'swatch' && edit.kind !== 'swatches' && 'slot' in edit;
  if (named && edit.slot !== null) giveSlot(scope.chosen, scope.slots.named(edit.slot, firstSlot(scope.chosen)));
  return (CHANGES[edit.kind] as Change<FaceEdit['kind']>)(scope, edit as never);
}

const done = (said: string, ...faults: string[]): EditOutcome => ({ said, faults });

const CHANGES: { [K in FaceEdit['kind']]: Change<K> } = {
  slot: (_, edit) => done(`now in ${edit.slot}`),
  swatch: ({ chosen, slots }, edit) => {
    giveSlot(chosen, slots.painted(edit));
    for (const { table, faces } of chosen) for (const face of faces) table.plain[face] = 1;
    if (edit.upper === null) return done(`painted ${edit.colour}`);
    layOnGradient(chosen, edit.axis);
    return done(`painted from ${edit.colour} to ${edit.upper}`);
  },
  swatches: paintSwatches,
  unwrap: ({ chosen, around }, edit) => done(unwrapped(chosen, edit, around)),
  project: ({ chosen, slots }, edit) => done(counted(projectFaces(chosen, edit, slots.laysOf(edit.set)), 'piece')),
  strip: mapStrip,
  cells: mapCells,
  move: ({ chosen }, edit) => {
    needUvs(chosen, edit.set);
    return done(counted(moveIslands(chosen, edit), 'island'));
  },
  relax,
  join: ({ chosen }, edit) => {
    needUvs(chosen, edit.set);
    const { before, after, refused } = joinIslands(chosen, edit);
    const apart = refused > 0 ? `; ${counted(refused, 'pair')} would not fit and stayed apart` : '';
    return done(`${before} → ${counted(after, 'island')}${apart}`);
  },
  split: ({ chosen, slots }, edit) => {
    needUvs(chosen, edit.set);
    const period = (part: Chosen, face: number) => periodOf(slots, part.table.slots[face], edit.set);
    const { before, after } = splitIslands(chosen, edit, period);
    return done(`${before} → ${counted(after, 'island')}`);
  },
  normals: ({ chosen }, edit) => {
    if (edit.borders !== null) needUvs(chosen, edit.borders);
    const hard = makeNormals(chosen, edit);
    return done(hard > 0 ? `hard at ${counted(hard, 'point')}` : 'smooth all over');
  },
  tiles: ({ chosen, slots }) => {
    needUvs(chosen, 0);
    const made = tilesToSlots(
      chosen,
      (slot) => slots.nameOf(slot),
      (name, like) => slots.named(name, like),
    );
    return done(made > 0 ? `${counted(made, 'slot')} made` : 'one UV tile only');
  },
};

function paintSwatches({ chosen, slots, paints }: EditScope, edit: FaceEditOf<'swatches'>): EditOutcome {
  const { taken, left, worst } = takeSwatches(
    chosen,
    edit.swatches,
    paints,
    edit.swatches.map((swatch) => slots.painted(swatch)),
  );
  const said = `${counted(taken, 'face')} on ${counted(edit.swatches.length, 'colour')}, off by ΔE ${worst.toFixed(1)} at most`;
  if (left === 0) return done(said);
  const [show, stay] = left === 1 ? ['shows', 'stays'] : ['show', 'stay'];
  return done(said, `${counted(left, 'face')} ${show} more than one colour and ${stay} as before`);
}

function mapStrip({ chosen, slots }: EditScope, edit: FaceEditOf<'strip'>): EditOutcome {
  const picture = slots.picture(firstSlot(chosen)) ?? ([1, 1] as [number, number]);
  const { flipped, unmirrored, thin, turned, widths, pieces, straight } = mapOntoStrip(
    chosen,
    edit,
    picture,
    slots.laysOf(null),
  );
  const faults: string[] = [];
  if (flipped > 0) faults.push(`${counted(flipped, 'face')} came out turned over; lower the bend at which pieces end`);
  if (unmirrored > 0)
    faults.push(`${counted(unmirrored, 'piece')} cannot end mirrored: no edge runs across near the middle`);
  if (thin > 0)
    faults.push(`${counted(thin, 'piece')} ${thin === 1 ? 'shows' : 'show'} less than 4 texels of the strip`);
  if (turned > 0)
    faults.push(
      `${counted(turned, 'piece')} ${turned === 1 ? 'runs' : 'run'} across their neighbours (turned by 45° or more)`,
    );
  const [low, middle, high] = widths.map((width) => `${Number(width.toPrecision(3))}`);
  const wide = low === high ? `${low} m` : `${low} to ${high} m, half of them up to ${middle} m`;
  const outcome = done(`${counted(pieces, 'piece')}, ${straight} straightened; ${wide} wide`, ...faults);
  if (edit.fit !== 'metres') return outcome;
  return { ...outcome, bottom: edit.top + (widths[1] / edit.amount) * (picture[0] / picture[1]) };
}

function mapCells(scope: EditScope, edit: FaceEditOf<'cells'>): EditOutcome {
  const { chosen, slots } = scope;
  const cells = edit.mix.map((variant) => cellOf(slots, slots.named(variant.slot, firstSlot(chosen))));
  const { taken, quads, triangles } = mapOntoCells(chosen, edit, cells, edgeOf(scope, edit));
  const mix = taken.length > 1 ? `: ${taken.map((variant) => `${variant.slot} ${variant.faces}`).join(', ')}` : '';
  return done(`${counted(quads, 'quad')}, ${counted(triangles, 'single triangle')}${mix}`);
}

function relax({ chosen, slots }: EditScope, edit: FaceEditOf<'relax'>): EditOutcome {
  needUvs(chosen, edit.set);
  const aspect = (part: Chosen, face: number) => {
    const size = slots.picture(part.table.slots[face]);
    return size ? size[0] / size[1] : 1;
  };
  const { islands, kept, before, after } = relaxIslands(chosen, edit, aspect);
  const said = `${counted(islands, 'island')}; stretch ${before.toFixed(3)} → ${after.toFixed(3)}`;
  if (kept === 0) return done(said);
  const was = kept === 1 ? 'it was' : 'they were';
  return done(said, `${counted(kept, 'island')} stayed as ${was}: nothing better was found`);
}

const counted = (n: number, what: string): string => `${n} ${what}${n === 1 ? '' : 's'}`;

function edgeOf({ chosen, slots, groupOf }: EditScope, { edge }: FaceEditOf<'cells'>): Edge | null {
  if (!edge) return null;
  const { to } = edge;
  const beginsBeyond = edgesBeyond(to === null ? null : (table, face) => groupOf(table, face) === to);
  return { ...cellOf(slots, slots.named(edge.slot, firstSlot(chosen))), beginsBeyond };
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
  const pieces = chosen.flatMap((chosen) => {
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
      return { own, slot, surface: surfaceOfChosen(own), scale: chosen.table.scale };
    });
  });
  const areas = new Map<number, number>();
  for (const { slot, surface, scale } of pieces)
    areas.set(slot, (areas.get(slot) ?? 0) + surfaceArea(surface) * scale ** 2);
  const work = pieces.map((piece) => {
    const whole = (areas.get(piece.slot) as number) / piece.scale ** 2;
    return { ...piece, flats: flattenSurface(piece.surface, { ...edit, whole, cancelled }) };
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
