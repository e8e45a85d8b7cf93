import type { FaceGroup } from '../../decisions/face-decisions.ts';
import { groupFaces, partsForGroups } from '../../faces/group-faces.ts';
import type { Model } from '../../scene/model.ts';

/** Face groups as a ray bake sees them: their names, and for each model by its path the group of every face of every part (−1: none). */
export interface GroupIds {
  names: string[];
  ofFile: ReadonlyMap<string, readonly Int16Array[]>;
}

/**
 * Groups of models as they were read.
 * @param edited paths of models whose faces were changed: their faces have other numbers, so that only whole slots and parts of a group count there
 */
export function groupIds(
  models: readonly Model[],
  groups: readonly FaceGroup[],
  edited: ReadonlySet<string>,
): GroupIds {
  const whole = groups.map((group) => ({ ...group, faces: {} }));
  return {
    names: groups.map((group) => group.name),
    ofFile: new Map(
      models.map(
        (model) =>
          [model.path, groupFaces(partsForGroups(model), edited.has(model.path) ? whole : groups).ofPart] as const,
      ),
    ),
  };
}
