import { sheetSides } from '@wembrel/core/decisions/sheets';
import type { JobView, ProjectView, ResultView } from '../../contract/project.ts';
import { failedLast, running } from '../../project/api.ts';
import { newestRays } from '../../project/newest-rays.ts';
import type { Forecast } from '../../project/prediction.ts';
import type { ViewName } from '../../project/stages.ts';
import { counted, decibels, percent } from '../../ui/format.ts';

/** What a stage says on the bill. */
export interface StageLine {
  state: string;
  figure: string;
  tone?: 'stale' | 'fault' | 'busy';
  /** What it takes to run it again. */
  again?: string;
}

const NOTHING: StageLine = { state: '–', figure: '' };
const FAILED: StageLine = { state: 'failed', figure: '', tone: 'fault' };

/** What stages speak of: the project, the merge that was made last, and what the plan will give. */
interface Stages {
  project: ProjectView;
  last: JobView | undefined;
  result: ResultView | undefined;
  forecast: Forecast | null;
  /** Something was decided since the last merge. */
  stale: boolean;
}

/** What each stage has to say for itself. */
export function stageLines(
  project: ProjectView,
  last: JobView | undefined,
  result: ResultView | undefined,
  forecast: Forecast | null,
): Record<ViewName, StageLine> {
  const stages = { project, last, result, forecast, stale: last !== undefined && last.madeFrom !== project.stamp };
  return {
    survey: surveyLine(project),
    plan: planLine(stages),
    uv: uvLine(stages),
    bake: bakeLine(stages),
    compare: compareLine(stages),
    handover: handOverLine(stages),
  };
}

const toneOf = ({ stale }: Stages): StageLine['tone'] => (stale ? 'stale' : undefined);

/** How long stages of the last merge took in all. */
function seconds({ result }: Stages, ...stages: string[]): string | undefined {
  if (!result) return undefined;
  const sum = stages.reduce((total, stage) => total + (result.seconds[stage] ?? 0), 0);
  return `${sum < 10 ? sum.toFixed(1) : Math.round(sum)} s`;
}

function surveyLine(project: ProjectView): StageLine {
  if (running(project, 'survey')) return { state: 'reading', figure: '', tone: 'busy' };
  if (failedLast(project, 'survey')) return FAILED;
  const totals = project.survey?.totals;
  if (!totals) return { state: project.sources.length ? 'not read' : 'empty', figure: '' };
  const figure = counted(totals.files, 'file');
  return totals.failed ? { state: `${totals.failed} not read`, figure, tone: 'fault' } : { state: 'read', figure };
}

function planLine({ project, forecast }: Stages): StageLine {
  // What is merged is known once the files were read.
  if (!project.survey?.totals) return NOTHING;
  const { sheets, keepAll } = project.decisions;
  const apart = forecast?.flows.filter((flow) => flow.sheet < 0).length ?? 0;
  const merged = apart ? `${apart} kept apart` : 'all merged';
  return { state: keepAll ? 'nothing merged' : merged, figure: sizesOf(sheets) };
}

/** Sizes of all sheets, in a few words. */
function sizesOf(sheets: ProjectView['decisions']['sheets']): string {
  const [size, ...others] = new Set(sheets.map((sheet) => [...new Set(sheetSides(sheet))].join(' × ')));
  if (others.length > 0) return `${sheets.length} sheets`;
  if (!size.includes('×')) return `${sheets.length} × ${size} px`;
  return `${sheets.length > 1 ? `${sheets.length}: ` : ''}${size} px`;
}

function uvLine(stages: Stages): StageLine {
  const { project, result, forecast, stale } = stages;
  const fresh = result && !stale ? result : null;
  if (project.decisions.keepAll || fresh?.sheets.length === 0) return { state: 'original', figure: '' };
  if (!forecast) return NOTHING;
  const predicted = forecast.sheets.filter((sheet) => sheet.slots > 0).map((sheet) => sheet.scale);
  const scale = fresh ? Math.min(...fresh.sheets.map((sheet) => sheet.scale)) : Math.min(1, ...predicted);
  const state = fresh || forecast.packed ? 'packed' : 'predicted';
  return { state, figure: percent(scale), again: seconds(stages, 'layout') };
}

function bakeLine(stages: Stages): StageLine {
  const { project, last, result, stale } = stages;
  const busy = running(project, 'proof', 'final');
  if (busy) return { state: busy.kind, figure: 'running', tone: 'busy' };
  const failed = failedLast(project, 'proof', 'final');
  if (failed) return { ...FAILED, state: failed.state };
  if (!last) return rayLine(project);
  return {
    state: stale ? 'out of date' : last.kind,
    figure: result ? `${percent(result.sheets[0]?.coverage ?? 0)} covered` : '',
    tone: toneOf(stages),
    again: seconds(stages, 'read', 'layout', 'bake'),
  };
}

function compareLine(stages: Stages): StageLine {
  const { last, result, stale } = stages;
  if (last?.comparing) return { state: 'comparing', figure: '', tone: 'busy' };
  if (!result) return NOTHING;
  const compared = result.fidelity ? 'worst view' : 'not compared';
  return {
    state: stale ? 'out of date' : compared,
    figure: result.fidelity ? decibels(result.fidelity.psnr) : '',
    tone: toneOf(stages),
    again: seconds(stages, 'compare'),
  };
}

function handOverLine(stages: Stages): StageLine {
  const { last, result, stale } = stages;
  if (!result) return NOTHING;
  const final = stale ? 'out of date' : 'checked';
  return {
    state: last?.kind === 'final' ? final : 'proof only',
    figure: counted(result.written.length, 'file'),
    tone: toneOf(stages),
    again: seconds(stages, 'handover', 'write'),
  };
}

/** What it says where nothing was baked from high to low either: what was made last of stand-ins and recipes. */
function otherLine(project: ProjectView): StageLine {
  const kinds = [
    { figure: 'stand-in', proof: 'stand-in-proof', final: 'stand-in-final', stamp: project.standInStamp },
    { figure: 'recipe', proof: 'recipe-proof', final: 'recipe-final', stamp: project.recipeStamp },
  ] as const;
  for (const { figure, proof, final } of kinds)
    if (running(project, proof, final)) return { state: 'running', figure, tone: 'busy' };
  const made = project.jobs.find(
    ({ kind, state }) => state === 'done' && kinds.some(({ proof, final }) => kind === proof || kind === final),
  );
  const of = kinds.find(({ proof, final }) => made?.kind === proof || made?.kind === final);
  if (!made || !of) return { state: 'not baked', figure: '' };
  const stale = made.madeFrom !== of.stamp;
  return {
    state: stale ? 'out of date' : made.kind === of.final ? 'made' : 'proof',
    figure: of.figure,
    tone: stale ? 'stale' : undefined,
  };
}

/** What the bake's line says while nothing was baked onto sheets. */
function rayLine(project: ProjectView): StageLine {
  const busy = running(project, 'ray-proof', 'ray-final', 'ray-all');
  const last = newestRays(project, null) ?? newestRays(project, project.decisions.rays.pairings[0]?.name ?? null);
  if (busy) return { state: busy.kind === 'ray-proof' ? 'proof' : 'final', figure: 'running', tone: 'busy' };
  if (failedLast(project, 'ray-proof', 'ray-final', 'ray-all')) return { state: 'failed', figure: '', tone: 'fault' };
  if (!last) return otherLine(project);
  const stale = last.madeFrom !== project.rayStamp;
  return {
    state: stale ? 'out of date' : last.kind === 'ray-final' ? 'final' : 'proof',
    figure: 'high to low',
    tone: stale ? 'stale' : undefined,
  };
}
