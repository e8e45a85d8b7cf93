import type { FaceDecisions } from '@wembrel/core/decisions/face-decisions';
import { hasGrouped } from '@wembrel/core/faces/group-faces';
import type { SwatchOrder } from '@wembrel/core/palette/palette';
import type { SurveyView } from '../../../contract/project.ts';
import type { GatherAnswer, GatherRequest } from '../../../workers/preview.worker.ts';

export type Gathered = Extract<GatherAnswer, { type: 'gathered' }>['found'];

export interface ColoursToGather {
  faces: FaceDecisions;
  groups: string[];
  most: number;
  by: SwatchOrder;
  name: string;
}

/**
 * Gathers what the faces of groups show, over all models that have any, in a worker of its own.
 * @param job survey that the models were read by
 * @throws Error with a sentence
 */
export async function gatherColours(
  survey: SurveyView,
  job: string,
  { faces, groups, most, by, name }: ColoursToGather,
): Promise<Gathered> {
  const probe: FaceDecisions = {
    groups: faces.groups,
    edits: [{ kind: 'tiles', id: 'probe', groups, off: false }],
    coming: [],
  };
  const models = survey.models
    .filter((model) => hasGrouped(model, probe))
    .map((model) => ({
      path: model.path,
      url: `/api/jobs/${job}/files/views/${model.file}${model.edited ? '.source' : ''}.glb`,
    }));
  const worker = new Worker(new URL('../../../workers/preview.worker.ts', import.meta.url), { type: 'module' });
  return new Promise<Gathered>((resolve, reject) => {
    worker.onmessage = ({ data }: MessageEvent<GatherAnswer>) =>
      data.type === 'gathered' ? resolve(data.found) : reject(new Error(data.message));
    worker.onerror = (event) => reject(new Error(event.message || 'the colours could not be gathered'));
    worker.postMessage({ id: 1, gather: { models, faces, groups, most, by, name } } satisfies GatherRequest);
  }).finally(() => worker.terminate());
}
