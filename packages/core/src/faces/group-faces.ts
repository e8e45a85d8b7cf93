import type { FaceDecisions, FaceGroup } from '../decisions/face-decisions.ts';
import { parseFaceText } from '../decisions/face-list.ts';
import type { Model } from '../scene/model.ts';

/** The group of every face of a model. */
export interface GroupedFaces {
  /** For each part the position of the group of each of its faces; −1 for none. */
  ofPart: Int16Array[];
  /** What groups name that is not there, in sentences. */
  missing: string[];
}

/** A part as groups see it. */
export interface GroupablePart {
  name: string;
  slot: string;
  /** Triangles; 0 for points and lines. */
  faces: number;
}

type FacesOf = Pick<Model, 'path'> & { parts: readonly GroupablePart[] };

/** Parts of a model as groups see them. */
export const partsForGroups = (model: Model): { path: string; parts: GroupablePart[] } => ({
  path: model.path,
  parts: model.parts.map((part) => ({
    name: part.name,
    slot: model.slots[part.slot].name,
    faces: part.mode < 4 ? 0 : part.indices.length / 3,
  })),
});

/** Faces that a group names of a model: by its path, or by the end of it, as when a folder is given on the command line. */
export function namedFaces(faceGroup: Pick<FaceGroup, 'faces'>, path: string): Record<string, string> {
  const key = Object.hasOwn(faceGroup.faces, path)
    ? path
    : Object.keys(faceGroup.faces).find((k) => path.endsWith(`/${k}`));
  return key === undefined ? {} : faceGroup.faces[key];
}

/** Whether any edit finds faces in a model. */
export function hasGrouped(model: FacesOf, decisions: Pick<FaceDecisions, 'groups' | 'edits'>): boolean {
  const used = new Set(decisions.edits.flatMap((edit) => (edit.off ? [] : edit.groups)));
  const { ofPart } = groupFaces(model, decisions.groups);
  return ofPart.some((part) => part.some((g) => g >= 0 && used.has(decisions.groups[g].id)));
}

/** Gives each face its group, see `FaceGroup`. */
export function groupFaces(model: FacesOf, groups: readonly FaceGroup[]): GroupedFaces {
  const ofPart = model.parts.map((part) => new Int16Array(part.faces).fill(-1));
  const missing: string[] = [];
  groups.forEach((group, i) => {
    for (const [part, text] of Object.entries(namedFaces(group, model.path))) {
      const to = ofPart[Number(part)];
      if (!to) {
        missing.push(`"${group.name}" names part ${part} of ${model.path}, which has ${ofPart.length} parts`);
        continue;
      }
      let twin = 0;
      for (const f of parseFaceText(text)) {
        if (f >= to.length) twin++;
        else if (to[f] < 0) to[f] = i;
      }
      if (twin > 0)
        missing.push(
          `"${group.name}" names ${twin} faces that "${model.parts[Number(part)].name}" in ${model.path} does not have`,
        );
    }
  });
  groups.forEach((group, i) => {
    if (group.parts.length === 0 && group.slots.length === 0) return;
    const parts = new Set(group.parts);
    const slots = new Set(group.slots);
    model.parts.forEach((part, k) => {
      if (!parts.has(part.name) && !slots.has(part.slot)) return;
      const to = ofPart[k];
      for (let f = 0; f < to.length; f++) if (to[f] < 0) to[f] = i;
    });
  });
  return { ofPart, missing };
}
