import { posix } from 'node:path';
import type { FaceDecisions } from '@wembrel/core/decisions/face-decisions';
import { PLANNED_PICTURE, type PlannedPicture, plannedPictures } from '@wembrel/core/decisions/planned-surface';
import { PICTURE } from '@wembrel/runner/pictures/kind';
import type { InputFile } from '@wembrel/runner/read/collect';
import { MODEL } from '@wembrel/runner/read/endings';
import { withFaceTexts } from '../store/face-sets.ts';
import { blobPath } from '../store/paths.ts';
import type { ProjectState } from '../store/state.ts';

/** The sources of a project as the core reads them, in the order of their names. */
export interface ProjectFiles {
  models: InputFile[];
  /** Pictures, those of planned surfaces as well. */
  textures: InputFile[];
  /** With faces as texts. */
  faces: FaceDecisions;
}

/** @throws Problem when a face set is not there */
export async function projectFiles({ sources, decisions }: ProjectState): Promise<ProjectFiles> {
  const list = Object.entries(sources)
    .map(([path, { hash }]) => ({ path, hash }))
    .sort((a, b) => (a.path < b.path ? -1 : 1));
  const siblings = Object.fromEntries(list.map((source) => [posix.normalize(source.path), blobPath(source.hash)]));
  const inputs = (wanted: RegExp) =>
    list
      .filter((source) => wanted.test(source.path))
      .map((source) => ({ name: source.path, path: blobPath(source.hash), siblings }));
  return {
    models: inputs(MODEL),
    textures: [...inputs(PICTURE), ...plannedPictures(decisions.planned).map(pictureInput)],
    faces: await withFaceTexts(decisions.faces),
  };
}

/** A picture of a planned surface, for the slot that has taken its place. */
const pictureInput = ({ slot, picture }: PlannedPicture) => ({
  name: `${PLANNED_PICTURE}${slot}`,
  path: blobPath(picture),
  slot,
});
