import type { Material } from '@gltf-transform/core';
import type { FaceDecisions, FaceEdit } from '../decisions/face-decisions.ts';
import { faceText } from '../decisions/face-list.ts';
import { Cancelled } from '../errors.ts';
import { paintedFaces } from '../palette/faces.ts';
import type { Model } from '../scene/model.ts';
import { applyEdit, type EditOutcome, type EditScope } from './face-changes.ts';
import { type Chosen, type FaceTable, faceTables } from './face-table.ts';
import { type GroupedFaces, groupFaces, partsForGroups } from './group-faces.ts';
import { type FaceSurroundings, SlotTable } from './slot-table.ts';
import { writeFaceTable } from './write-face-table.ts';

/** What one edit did to one model. */
export interface FaceEditReport extends EditOutcome {
  edit: string;
  faces: number;
  /** It could not be done, and the faces are as they were. */
  failed: boolean;
}

/** Where the faces of a part come from: part of the source → its faces, in the order in which they stand. */
export type PartOrigin = { part: number; faces: string }[];

export interface FaceChanges {
  reports: FaceEditReport[];
  /** By part of the changed model; null where nothing was changed. */
  origins: PartOrigin[] | null;
}

/** Whether any edit reads what faces show, so that pictures have to be decoded. */
export const readsColours = (decisions: FaceDecisions): boolean =>
  decisions.edits.some((edit) => !edit.off && edit.kind === 'swatches');

/**
 * Applies edits of faces to a model, in its document, which is to be read again afterwards. Edits of which the model has no face do nothing;
 * one that cannot be done is reported and left out.
 * @throws Cancelled
 */
export function applyFaceEdits(model: Model, decisions: FaceDecisions, around: FaceSurroundings): FaceChanges {
  const grouped = groupFaces(partsForGroups(model), decisions.groups);
  const slots = new SlotTable(model, around, decisions.coming);
  const before = new Set(model.parts.map((part) => model.slots[part.slot].material));
  const tables = faceTables(model, (material) => slots.numberOf(material));
  const scope = {
    slots,
    around,
    paints: readsColours(decisions) ? paintedFaces(model, (key) => around.raster?.(key)) : [],
    groupOf: (table: FaceTable, face: number) => decisions.groups[groupOfFace(grouped, table, face)]?.id ?? null,
  };
  const numberOf = new Map(decisions.groups.map((group, i) => [group.id, i]));
  const reports: FaceEditReport[] = [];
  for (const edit of decisions.edits) {
    if (edit.off) continue;
    const wanted = new Set(edit.groups.flatMap((id) => numberOf.get(id) ?? []));
    const chosen = tables.flatMap((table) => facesOfGroups(grouped, table, wanted));
    if (chosen.length > 0) reports.push(tried({ ...scope, chosen }, edit));
  }
  if (reports.length > 0 && grouped.missing.length > 0) reports[0].faults.push(...grouped.missing);
  const renamed = slots.settleNames(usedSlots(model, tables, slots));
  if (renamed.length > 0) reports[0].faults.push(...renamed);
  const changed = tables.filter((table) => table.wroteSlots || table.wroteUv.size > 0 || table.normals);
  if (changed.length === 0) return { reports, origins: null };
  const origins = written(model, changed, slots);
  // Slots that were made for nothing go as well.
  dropUnused(model, new Set([...before, ...slots.materials.slice(model.slots.length)]));
  return { reports, origins };
}

/** Slots that faces have after all edits, and those of parts that have no faces. */
function usedSlots(model: Model, tables: readonly FaceTable[], slots: SlotTable): Set<number> {
  const used = new Set<number>();
  const inTables = new Set(tables.flatMap((table) => table.parts));
  for (const part of model.parts) if (!inTables.has(part)) used.add(slots.numberOf(model.slots[part.slot].material));
  for (const table of tables) for (const slot of table.slots) used.add(slot);
  return used;
}

/** Applies one edit, or leaves its faces as they were where it cannot be done. @throws Cancelled */
function tried(scope: EditScope, edit: FaceEdit): FaceEditReport {
  const faces = scope.chosen.reduce((sum, chosen) => sum + chosen.faces.length, 0);
  const undo = rememberFaces(scope.chosen);
  try {
    return { edit: edit.id, faces, ...applyEdit(scope, edit), failed: false };
  } catch (error) {
    if (error instanceof Cancelled || !(error instanceof Error)) throw error;
    undo();
    return { edit: edit.id, faces, said: 'not done', faults: [error.message], failed: true };
  }
}

function groupOfFace(grouped: GroupedFaces, table: FaceTable, face: number): number {
  const part = table.starts.findLastIndex((start) => start <= face);
  return grouped.ofPart[table.parts[part].id][face - table.starts[part]];
}

/** The faces of a table that are in one of the groups. @returns one entry, or none */
function facesOfGroups(grouped: GroupedFaces, table: FaceTable, groups: ReadonlySet<number>): Chosen[] {
  const faces: number[] = [];
  table.parts.forEach((part, i) => {
    grouped.ofPart[part.id].forEach((group, face) => {
      if (groups.has(group)) faces.push(table.starts[i] + face);
    });
  });
  return faces.length > 0 ? [{ table, faces: Uint32Array.from(faces) }] : [];
}

/** @returns puts the face tables back to what they are now */
function rememberFaces(chosen: readonly Chosen[]): () => void {
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
    p.listParents().some((parent) => parent.propertyType !== 'Root');
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
