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

/** What each stage has to say for itself. */
export function stageLines(
  projectView: ProjectView,
  last: JobView | undefined,
  result: ResultView | undefined,
  forecast: Forecast | null,
): Record<ViewName, StageLine> {
  const stale = last !== undefined && last.madeFrom !== projectView.stamp;
  const busy = running(projectView, 'proof', 'final');
  const failed = failedLast(projectView, 'proof', 'final');
  const reading = running(projectView, 'survey');
  const totals = projectView.survey?.totals;
  const made: StageLine['tone'] = stale ? 'stale' : undefined;
  const seconds = (...keys: string[]) => {
    const s = keys.reduce((sum, k) => sum + (result?.seconds[k] ?? 0), 0);
    return result ? `${s < 10 ? s.toFixed(1) : Math.round(s)} s` : undefined;
  };
  const apart = forecast?.flows.filter((flow) => flow.sheet < 0).length ?? 0;
  const sheets = projectView.decisions.sheets;
  const sizes = new Set(sheets.map((sheet) => [...new Set(sheetSides(sheet))].join(' × ')));
  const [size] = sizes;
  return {
    survey: reading
      ? { state: 'reading', figure: '', tone: 'busy' }
      : failedLast(projectView, 'survey')
        ? { state: 'failed', figure: '', tone: 'fault' }
        : totals
          ? {
              state: totals.failed ? `${totals.failed} not read` : 'read',
              figure: counted(totals.files, 'file'),
              tone: totals.failed ? 'fault' : undefined,
            }
          : { state: projectView.sources.length ? 'not read' : 'empty', figure: '' },
    // What is merged is known once the files were read.
    plan: !totals
      ? { state: '–', figure: '' }
      : {
          state: projectView.decisions.keepAll ? 'nothing merged' : apart ? `${apart} kept apart` : 'all merged',
          figure:
            sizes.size > 1
              ? `${sheets.length} sheets`
              : size.includes('×')
                ? `${sheets.length > 1 ? `${sheets.length}: ` : ''}${size} px`
                : `${sheets.length} × ${size} px`,
        },
    uv:
      projectView.decisions.keepAll || (result && !stale && result.sheets.length === 0)
        ? { state: 'original', figure: '' }
        : forecast
          ? {
              state: (result && !stale) || forecast.packed ? 'packed' : 'predicted',
              figure: percent(
                result && !stale
                  ? Math.min(...result.sheets.map((sheet) => sheet.scale))
                  : Math.min(1, ...forecast.sheets.filter((sheet) => sheet.slots > 0).map((sheet) => sheet.scale)),
              ),
              again: seconds('layout'),
            }
          : { state: '–', figure: '' },
    bake: busy
      ? { state: busy.kind, figure: 'running', tone: 'busy' }
      : failed
        ? { state: failed.state, figure: '', tone: 'fault' }
        : last
          ? {
              state: stale ? 'out of date' : last.kind,
              figure: result ? `${percent(result.sheets[0]?.coverage ?? 0)} covered` : '',
              tone: made,
              again: seconds('read', 'layout', 'bake'),
            }
          : rayLine(projectView),
    compare: last?.comparing
      ? { state: 'comparing', figure: '', tone: 'busy' }
      : result
        ? {
            state: stale ? 'out of date' : result.fidelity ? 'worst view' : 'not compared',
            figure: result.fidelity ? decibels(result.fidelity.psnr) : '',
            tone: made,
            again: seconds('compare'),
          }
        : { state: '–', figure: '' },
    handover: result
      ? {
          state: last?.kind === 'final' ? (stale ? 'out of date' : 'checked') : 'proof only',
          figure: counted(result.written.length, 'file'),
          tone: made,
          again: seconds('handover', 'write'),
        }
      : { state: '–', figure: '' },
  };
}

/** What it says where nothing was baked from high to low either: what was made last of stand-ins and recipes. */
function otherLine(projectView: ProjectView): StageLine {
  const kinds = [
    { figure: 'stand-in', proof: 'stand-in-proof', final: 'stand-in-final', stamp: projectView.standInStamp },
    { figure: 'recipe', proof: 'recipe-proof', final: 'recipe-final', stamp: projectView.recipeStamp },
  ] as const;
  for (const { figure, proof, final } of kinds)
    if (running(projectView, proof, final)) return { state: 'running', figure, tone: 'busy' };
  const made = projectView.jobs.find(
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
function rayLine(projectView: ProjectView): StageLine {
  const busy = running(projectView, 'ray-proof', 'ray-final', 'ray-all');
  const last =
    newestRays(projectView, null) ?? newestRays(projectView, projectView.decisions.rays.pairings[0]?.name ?? null);
  if (busy) return { state: busy.kind === 'ray-proof' ? 'proof' : 'final', figure: 'running', tone: 'busy' };
  if (failedLast(projectView, 'ray-proof', 'ray-final', 'ray-all'))
    return { state: 'failed', figure: '', tone: 'fault' };
  if (!last) return otherLine(projectView);
  const stale = last.madeFrom !== projectView.rayStamp;
  return {
    state: stale ? 'out of date' : last.kind === 'ray-final' ? 'final' : 'proof',
    figure: 'high to low',
    tone: stale ? 'stale' : undefined,
  };
}
