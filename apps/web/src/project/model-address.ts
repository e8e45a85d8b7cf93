import { create } from 'zustand';
import type { ProjectView } from '../contract/project.ts';

/** Heavy models are shown reduced until the exact ones are asked for. */
export const useExact = create<{ exact: boolean }>(() => ({ exact: false }));

/** Address of a model for the 3D picture; `model` is a position in the survey's models. */
export function modelAddress(project: ProjectView, model: number, exact: boolean): string | null {
  const facts = project.survey?.models[model];
  if (!facts || !project.surveyJob) return null;
  return `/api/jobs/${project.surveyJob}/files/views/${facts.file}${facts.reduced && !exact ? '.reduced' : ''}.glb`;
}
