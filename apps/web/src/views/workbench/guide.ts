import type { ProjectView } from '../../contract/project.ts';
import { newest, running } from '../../project/api.ts';
import type { ViewName } from '../../project/stages.ts';

/** A step of the way through a first project. */
export interface GuideStep {
  /** What is done in it, as an order. */
  title: string;
  /** What it is good for. */
  text: string;
  /** Where it is done. */
  view: ViewName;
}

export const GUIDE: readonly GuideStep[] = [
  { title: 'Add models', text: 'Drop files anywhere, with the textures that lie beside them.', view: 'survey' },
  {
    title: 'See what can be gained',
    text: 'The bill says what merging saves; apply it, or route slots by hand.',
    view: 'plan',
  },
  { title: 'Bake a proof', text: 'A few seconds at a quarter of the size; it shows every fault.', view: 'bake' },
  { title: 'Compare, then bake the final', text: 'Original and result side by side.', view: 'compare' },
  { title: 'Download', text: 'Models, textures and the proof that they look the same.', view: 'handover' },
];

/** Step that a project is at, from 0; the last one once a final is there. */
export function guideStep(project: ProjectView): number {
  if (project.sources.length === 0) return 0;
  const baked = newest(project, 'proof', 'final');
  if (baked?.kind === 'final') return 4;
  if (baked) return 3;
  // A plan that merges nothing has nothing to bake yet.
  return running(project, 'proof', 'final') || (project.survey && !project.decisions.keepAll) ? 2 : 1;
}
