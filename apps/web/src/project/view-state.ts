import type { JobView, ProjectView } from '../contract/project.ts';
import { newest, running } from './api.ts';
import type { ViewName } from './stages.ts';

/** Why a view has nothing to show yet. */
export type Missing =
  /** The project has no file. */
  | 'empty'
  /** Files are being read. */
  | 'reading'
  /** Reading failed, was cancelled or interrupted. */
  | 'unread'
  /** What the plan costs is being predicted. */
  | 'predicting'
  /** A first proof or final is being baked. */
  | 'baking'
  /** The last bake failed or was interrupted. */
  | 'failed'
  /** The last bake was cancelled. */
  | 'cancelled'
  /** Nobody has baked anything. */
  | 'unbaked';

/** What the one button does. */
export type WayOut = 'add' | 'read' | 'proof' | 'final';

interface Text {
  title: string;
  text: string;
  way?: WayOut;
}

const SHARED: Record<Missing, Text> = {
  empty: { title: 'No models yet', text: 'Add models on Survey, or drop them anywhere in this window.', way: 'add' },
  reading: { title: 'Reading the files …', text: 'Models appear on Survey as each is read.' },
  unread: {
    title: 'Not read',
    text: 'The files were not read to the end; the foot of the bill says why.',
    way: 'read',
  },
  predicting: { title: 'Predicting …', text: 'Draw calls, memory and density are found for every slot.' },
  baking: { title: 'Baking …', text: 'Texels appear on Bake as they are made.' },
  failed: { title: 'The bake failed', text: 'The foot of the bill says why.', way: 'proof' },
  cancelled: { title: 'The bake was cancelled', text: 'Nothing was changed.', way: 'proof' },
  unbaked: { title: 'Nothing baked yet', text: 'A proof takes a few seconds.', way: 'proof' },
};

/** What a view says in a state where it differs from the others. */
const OWN: Partial<Record<ViewName, Partial<Record<Missing, Text>>>> = {
  plan: {
    empty: {
      title: 'No slots yet',
      text: 'Add models on Survey; their slots are routed here. Surfaces can be planned before there is any model.',
      way: 'add',
    },
    reading: { title: 'Reading the files …', text: 'Their slots are routed here as soon as all are read.' },
  },
  uv: {
    empty: { title: 'No islands yet', text: 'Add models on Survey; their islands are packed here.', way: 'add' },
    reading: { title: 'Reading the files …', text: 'Their islands are packed here as soon as all are read.' },
  },
  // Its head has the buttons.
  bake: {
    unbaked: {
      title: 'Nothing baked yet',
      text: 'A proof is baked at a quarter of the side and shows the same layout as the final.',
    },
    failed: { title: 'The bake failed', text: 'The foot of the bill says why.' },
    cancelled: { title: 'The bake was cancelled', text: 'Nothing was changed.' },
    baking: { title: 'Baking …', text: 'The sheet appears here as soon as its first texels are baked.' },
  },
  compare: {
    unbaked: {
      title: 'Nothing to compare yet',
      text: 'Original and result stand side by side here once a proof is baked.',
      way: 'proof',
    },
    baking: { title: 'Baking …', text: 'Original and result stand side by side here when it is done.' },
  },
  handover: {
    unbaked: {
      title: 'Nothing to hand over yet',
      text: 'A proof shows which files there will be; the final makes them.',
      way: 'final',
    },
    baking: { title: 'Baking …', text: 'The files are listed here when it is done.' },
    failed: { title: 'The bake failed', text: 'The foot of the bill says why.', way: 'final' },
    cancelled: { title: 'The bake was cancelled', text: 'Nothing was changed.', way: 'final' },
  },
};

/** What a view says while something is missing. */
export const missingText = (view: ViewName, missing: Missing): Text => OWN[view]?.[missing] ?? SHARED[missing];

/** What keeps a view that shows files, or results, from showing them; null: nothing does. */
export function missingIn(project: ProjectView, needs: 'survey' | 'result'): Missing | null {
  if (needs === 'result') {
    if (newest(project, 'proof', 'final')) return null;
    if (running(project, 'proof', 'final')) return 'baking';
  }
  if (project.sources.length === 0) return 'empty';
  if (!project.survey) return running(project, 'survey') ? 'reading' : 'unread';
  if (needs === 'survey') return null;
  return ended(project.jobs.find((job) => job.kind === 'proof' || job.kind === 'final'));
}

function ended(last: JobView | undefined): Missing {
  if (last?.state === 'failed' || last?.state === 'interrupted') return 'failed';
  return last?.state === 'cancelled' ? 'cancelled' : 'unbaked';
}
