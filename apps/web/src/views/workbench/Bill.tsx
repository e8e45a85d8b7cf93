import { type BudgetLine, DEVICE_TITLES, overBudget } from '@wembrel/core/decisions/budget';
import { sheetSides } from '@wembrel/core/decisions/sheets';
import { lowestDensity } from '@wembrel/core/survey/measured';
import Redo from 'lucide-react/icons/redo-2';
import Undo from 'lucide-react/icons/undo-2';
import { useMemo, useState } from 'react';
import type { JobView, ProjectView, ResultView } from '../../contract/project.ts';
import { failedLast, type Live, newest, running, useResult } from '../../project/api.ts';
import { startDecided } from '../../project/edits.ts';
import { FORMAT_TITLES } from '../../project/format-titles.ts';
import { newestRays } from '../../project/newest-rays.ts';
import { showPlanPicture } from '../../project/plan-picture.ts';
import type { Forecast } from '../../project/prediction.ts';
import { RunningJob } from '../../project/RunningJob.tsx';
import { VIEW_TITLES, VIEWS, type ViewName } from '../../project/stages.ts';
import type { ViewProps } from '../../project/view-props.ts';
import { Button } from '../../ui/Button.tsx';
import { bytes, count, counted, decibels, percent } from '../../ui/format.ts';
import { KeyCap, KeyCaps } from '../../ui/KeyCap.tsx';
import { ThemeSwitch } from '../../ui/ThemeSwitch.tsx';
import { Tooltip } from '../../ui/Tooltip.tsx';
import css from './Bill.module.css';
import { BudgetDialog } from './BudgetDialog.tsx';
import { OfferLine } from './OfferLine.tsx';
import { useOffer } from './use-offer.ts';

interface Line {
  state: string;
  figure: string;
  tone?: 'stale' | 'fault' | 'busy';
  /** What it takes to run it again. */
  again?: string;
}

export interface BillProps {
  project: ProjectView;
  view: ViewName;
  live: Record<string, Live>;
  forecast: Forecast | null;
  go: (view: ViewName) => void;
  step: (way: 'undo' | 'redo') => void;
  onHelp: () => void;
  onFind: () => void;
  edit: ViewProps['edit'];
}

/** What each stage has to say for itself. */
function lines(
  projectView: ProjectView,
  last: JobView | undefined,
  result: ResultView | undefined,
  forecast: Forecast | null,
): Record<ViewName, Line> {
  const stale = last !== undefined && last.madeFrom !== projectView.stamp;
  const busy = running(projectView, 'proof', 'final');
  const failed = failedLast(projectView, 'proof', 'final');
  const reading = running(projectView, 'survey');
  const totals = projectView.survey?.totals;
  const made: Line['tone'] = stale ? 'stale' : undefined;
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

/** What the bake's line says while nothing was baked onto sheets. */
function rayLine(projectView: ProjectView): Line {
  const busy = running(projectView, 'ray-proof', 'ray-final', 'ray-all');
  const last =
    newestRays(projectView, null) ?? newestRays(projectView, projectView.decisions.rays.pairings[0]?.name ?? null);
  if (busy) return { state: busy.kind === 'ray-proof' ? 'proof' : 'final', figure: 'running', tone: 'busy' };
  if (failedLast(projectView, 'ray-proof', 'ray-final', 'ray-all'))
    return { state: 'failed', figure: '', tone: 'fault' };
  if (!last) return { state: 'not baked', figure: '' };
  const stale = last.madeFrom !== projectView.rayStamp;
  return {
    state: stale ? 'out of date' : last.kind === 'ray-final' ? 'final' : 'proof',
    figure: 'high to low',
    tone: stale ? 'stale' : undefined,
  };
}

/** The running account: before → after, and the stages as its lines. It is also the navigation. */
export function Bill({ project, view, live, forecast, go, step, onHelp, onFind, edit }: BillProps) {
  const [budgeting, setBudgeting] = useState(false);
  const { budget } = project.decisions;
  const { format } = budget;
  const last = newest(project, 'proof', 'final');
  const { data: result } = useResult(last);
  const totals = project.survey?.totals;
  const stage = lines(project, last, result, forecast);
  const job = running(project, 'survey', 'proof', 'final', 'ray-proof', 'ray-final', 'ray-reaches', 'ray-all', 'light');
  const failed = failedLast(project, 'survey', 'proof', 'final');
  const offer = useOffer(project, !job);
  const measured = result && last?.madeFrom === project.stamp ? result : null;
  const a = measured?.after;
  const f = forecast;
  const { survey } = project;
  const lowest = useMemo(() => (survey ? lowestDensity(survey.slots) : null), [survey]);
  // A proof's maps are smaller than those that will be handed over: its memory stays a prediction.
  const sized = last?.kind === 'final' ? a : undefined;
  const rows: {
    label: string;
    /** One of the figures that the work is for. */
    lead?: true;
    before: string | undefined;
    measured: string | undefined;
    predicted: string | undefined;
    /** Line of the budget, and the figures that are held against it. */
    line?: BudgetLine;
    is?: [before: number | null | undefined, after: number | null | undefined];
    limit?: (v: number) => string;
    /** What was predicted and what was measured, to be held against each other. */
    predictedValues?: [predicted: number | null | undefined, measured: number | null | undefined];
  }[] = [
    {
      label: 'Draw calls',
      lead: true,
      before: totals && count(totals.drawCalls),
      measured: a && count(a.drawCalls),
      predicted: f ? count(f.drawCalls) : undefined,
      line: 'drawCalls',
      is: [totals?.drawCalls, a?.drawCalls ?? f?.drawCalls],
      predictedValues: [f?.drawCalls, a?.drawCalls],
      limit: count,
    },
    {
      label: 'Slots',
      before: totals && count(totals.slots),
      measured: a && count(a.slots),
      predicted: f ? count(f.slots) : undefined,
      predictedValues: [f?.slots, a?.slots],
    },
    {
      label: 'Texture memory',
      lead: true,
      before: totals && bytes(totals.textureBytes[format]),
      measured: sized && bytes(sized.textureBytes[format]),
      predicted: f ? bytes(f.bytes[format]) : undefined,
      line: 'textureBytes',
      predictedValues: [f?.bytes[format], sized?.textureBytes[format]],
      is: [totals?.textureBytes[format], sized?.textureBytes[format] ?? f?.bytes[format]],
      limit: bytes,
    },
    {
      label: 'GPU vertices',
      before: totals && count(totals.gpuVertices),
      measured: a && count(a.gpuVertices),
      predicted: f ? `≈ ${count(f.gpuVertices)}` : undefined,
      line: 'gpuVertices',
      is: [totals?.gpuVertices, a?.gpuVertices ?? f?.gpuVertices],
      predictedValues: [f?.gpuVertices, a?.gpuVertices],
      limit: count,
    },
    {
      label: 'Triangles',
      before: totals && count(totals.triangles),
      measured: a && count(a.triangles),
      predicted: f ? count(f.triangles) : undefined,
      line: 'triangles',
      is: [totals?.triangles, a?.triangles ?? f?.triangles],
      predictedValues: [f?.triangles, a?.triangles],
      limit: count,
    },
    {
      label: 'Lowest density',
      before: lowest === null ? undefined : `${Math.round(lowest)} px/m`,
      measured: measured?.density ? `${Math.round(measured.density.p5)} px/m` : undefined,
      predicted: f?.lowestDensity ? `${f.packed ? '' : '≈ '}${Math.round(f.lowestDensity)} px/m` : undefined,
      line: 'density',
      is: [lowest, measured?.density?.p5 ?? f?.lowestDensity],
      // A proof is a quarter as dense as what was predicted.
      predictedValues: [f?.lowestDensity, last?.kind === 'final' ? measured?.density?.p5 : undefined],
      limit: (v) => `${count(v)} px/m`,
    },
  ];
  return (
    <aside className={css.bill} aria-label="The bill">
      <header className={css.top}>
        <a className={css.home} href="/">
          Wembrel
        </a>
        <p className={css.project} title={project.name}>
          {project.name}
        </p>
      </header>
      <table className={css.account}>
        <thead>
          <tr>
            <td />
            <th scope="col">before</th>
            <th scope="col">{measured ? (last?.kind === 'proof' ? 'proof' : 'after') : 'predicted'}</th>
          </tr>
        </thead>
        <tbody>
          {rows.map((row) => {
            const limit = row.line ? budget[row.line] : null;
            const over = (v: number | null | undefined) =>
              row.line &&
              v !== null &&
              v !== undefined &&
              overBudget(budget, { [row.line]: v })[row.line] !== undefined;
            return (
              <tr key={row.label} className={`${limit === null ? '' : css.limited} ${row.lead ? css.lead : ''}`}>
                <th scope="row">
                  {row.label}
                  {limit !== null && (
                    <small>
                      {row.line === 'density' ? 'wanted' : 'of'} {row.limit?.(limit)}
                    </small>
                  )}
                </th>
                <td className={over(row.is?.[0]) ? css.over : ''}>{row.before ?? '–'}</td>
                <td
                  className={`${css.after} ${row.measured ? '' : css.predicted} ${over(row.is?.[1]) ? css.over : ''}`}
                >
                  <Figure text={row.measured ?? row.predicted ?? '–'} />
                  {row.measured && <PredictedMark said={row.predicted} values={row.predictedValues} />}
                </td>
              </tr>
            );
          })}
        </tbody>
      </table>
      <p className={css.unit}>
        Memory as {FORMAT_TITLES[format]} with mips. Budget:{' '}
        <button type="button" className={css.link} onClick={() => setBudgeting(true)}>
          {budget.device === 'own' && Object.values(budget).filter((v) => v !== null).length <= 2
            ? 'none yet'
            : DEVICE_TITLES[budget.device]}
        </button>
      </p>
      {budgeting && <BudgetDialog project={project} edit={edit} onClose={() => setBudgeting(false)} />}
      <div>
        {offer && (
          <OfferLine
            offer={offer}
            format={format}
            edit={edit}
            onReview={() => {
              showPlanPicture('proposal');
              go('plan');
            }}
          />
        )}
      </div>
      <nav className={css.stages} aria-label="Stages">
        {VIEWS.map((v) => (
          <a
            key={v}
            href={`/p/${project.id}/${v}`}
            className={`${css.stage} ${v === view ? css.here : ''}`}
            aria-current={v === view ? 'page' : undefined}
            onClick={(event) => {
              if (event.ctrlKey || event.metaKey || event.shiftKey) return;
              event.preventDefault();
              go(v);
            }}
          >
            <span className={css.name}>{VIEW_TITLES[v]}</span>
            <span className={css.figure}>{stage[v].figure}</span>
            <span className={`${css.state} ${stage[v].tone ? css[stage[v].tone] : ''}`}>{stage[v].state}</span>
            {stage[v].again && <span className={css.again}>{stage[v].again}</span>}
          </a>
        ))}
      </nav>
      <div className={css.foot}>
        {job ? (
          <RunningJob job={job} live={live} />
        ) : failed ? (
          <p className={css.failed}>
            The {failed.kind} {failed.state === 'interrupted' ? 'was interrupted' : 'failed'}: {failed.message}{' '}
            <button type="button" className={css.link} onClick={() => void startDecided(project.id, failed.kind)}>
              Run it again
            </button>
          </p>
        ) : (
          <span>Idle</span>
        )}
        <div className={css.steps}>
          <Tooltip text={project.undo ? `Undo: ${project.undo}` : 'Nothing to undo'}>
            <Button
              tone="quiet"
              aria-label="Undo"
              aria-disabled={!project.undo}
              onClick={() => project.undo && step('undo')}
            >
              <Undo size={16} aria-hidden />
            </Button>
          </Tooltip>
          <Tooltip text={project.redo ? `Redo: ${project.redo}` : 'Nothing to redo'}>
            <Button
              tone="quiet"
              aria-label="Redo"
              aria-disabled={!project.redo}
              onClick={() => project.redo && step('redo')}
            >
              <Redo size={16} aria-hidden />
            </Button>
          </Tooltip>
          <span className={css.gap} />
          <Button tone="quiet" onClick={onFind}>
            Find <KeyCaps keys="Ctrl K" />
          </Button>
        </div>
        <div className={css.steps}>
          <Button tone="quiet" onClick={onHelp}>
            Shortcuts <KeyCap>?</KeyCap>
          </Button>
          <span className={css.gap} />
          <ThemeSwitch />
        </div>
      </div>
    </aside>
  );
}

/** A figure whose unit may be smaller than its number. */
function Figure({ text }: { text: string }) {
  const [, number, unit] = /^(.*\d)( [^\d ]+)$/.exec(text) ?? [null, text, ''];
  return (
    <>
      {number}
      <i>{unit}</i>
    </>
  );
}

/** Below a measured figure: what was predicted, where that was not quite it, and by how much it was off. */
function PredictedMark({
  said,
  values,
}: {
  said: string | undefined;
  values: [predicted: number | null | undefined, measured: number | null | undefined] | undefined;
}) {
  const [predicted, measured] = values ?? [];
  if (!said || !predicted || !measured) return null;
  const off = measured / predicted - 1;
  if (Math.abs(off) < 0.0005) return null;
  return (
    <small title="The prediction beside what was measured.">
      predicted {said.replace('≈ ', '')}, {percent(Math.abs(off), 1)} off
    </small>
  );
}
