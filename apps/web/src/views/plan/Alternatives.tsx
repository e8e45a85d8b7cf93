import { planOf } from '@wembrel/core/decisions/decisions';
import { sheetSides } from '@wembrel/core/decisions/sheets';
import { overPlan, sharesOf } from '@wembrel/core/predict/propose/propose';
import { leastShare } from '@wembrel/core/predict/propose/score';
import { useEffect, useMemo, useState } from 'react';
import type { MergeDecisions, SurveyView } from '../../contract/project.ts';
import { forecastOf, pictureSizes } from '../../project/prediction.ts';
import type { ViewProps } from '../../project/view-props.ts';
import { Button } from '../../ui/Button.tsx';
import { Chart } from '../../ui/Chart.tsx';
import { TYPE, tip, useInk } from '../../ui/chart-ink.ts';
import { bytes, count, counted, indexColour, percent } from '../../ui/format.ts';
import css from './Alternatives.module.css';

const MIB = 1024 ** 2;

interface Column {
  /** Null: the plan itself. */
  id: string | null;
  name: string;
  decisions: MergeDecisions;
}

/** Up to four versions of the plan side by side, and what each trades for what. */
export function Alternatives({
  survey,
  decisions,
  edit,
}: {
  survey: SurveyView | null;
  decisions: MergeDecisions;
  edit: ViewProps['edit'];
}) {
  const columns = useMemo<Column[]>(
    () => [
      { id: null, name: 'The plan', decisions },
      ...decisions.alternatives.map((alternative) => ({
        id: alternative.id,
        name: alternative.name,
        decisions: { ...decisions, ...alternative.plan },
      })),
    ],
    [decisions],
  );
  const rows = useMemo(() => {
    const sizes = pictureSizes(survey);
    return columns.map((column) => {
      const forecast = forecastOf(survey, column.decisions);
      const share = leastShare(sharesOf(forecast.planSlots, forecast, column.decisions, sizes));
      return { f: forecast, share, over: overPlan(forecast.planSlots, forecast, column.decisions, sizes) };
    });
  }, [columns, survey]);
  const { format } = decisions.budget;
  const keep = () =>
    edit('Keep a copy of the plan', (decisions) => {
      let n = 1;
      while (decisions.alternatives.some((alternative) => alternative.id === String(n))) n++;
      const plan = structuredClone(planOf(decisions));
      return { ...decisions, alternatives: [...decisions.alternatives, { id: String(n), name: `Copy ${n}`, plan }] };
    });
  const adopt = (id: string, name: string) =>
    edit(`Use ${name}`, (decisions) => {
      const chosen = decisions.alternatives.find((alternative) => alternative.id === id);
      if (!chosen) return decisions;
      const ids = new Set(['apart', ...chosen.plan.sheets.map((sheet) => sheet.id)]);
      return {
        ...decisions,
        ...chosen.plan,
        planned: decisions.planned.map((planned) =>
          planned.to !== null && !ids.has(planned.to) ? { ...planned, to: null } : planned,
        ),
        // The plan that stood takes its place, so that nothing is lost.
        alternatives: decisions.alternatives.map((alternative) =>
          alternative.id === id ? { ...alternative, name: 'The plan before', plan: planOf(decisions) } : alternative,
        ),
      };
    });
  const line = (title: string, of: (i: number) => string, is?: (i: number) => boolean) => (
    <tr key={title}>
      <th scope="row">{title}</th>
      {columns.map((column, i) => (
        <td key={column.id ?? 'plan'} className={is?.(i) ? css.over : ''}>
          {of(i)}
        </td>
      ))}
    </tr>
  );
  return (
    <section className={css.box} aria-label="Alternatives">
      <div className={css.table}>
        <table>
          <thead>
            <tr>
              <td />
              {columns.map((column, i) => (
                <th key={column.id ?? 'plan'} scope="col">
                  <span className={css.chip} style={{ background: indexColour(i) }}>
                    {i + 1}
                  </span>
                  {column.id === null ? column.name : <Name id={column.id} name={column.name} edit={edit} />}
                </th>
              ))}
            </tr>
          </thead>
          <tbody>
            {line(
              'Draw calls',
              (i) => count(rows[i].f.drawCalls),
              (i) => rows[i].over.drawCalls !== undefined,
            )}
            {line(
              'Texture memory',
              (i) => bytes(rows[i].f.bytes[format]),
              (i) => rows[i].over.textureBytes !== undefined,
            )}
            {line('Textures', (i) => count(rows[i].f.textures))}
            {line(
              'Largest texture',
              (i) => `${rows[i].f.largestTexture} px`,
              (i) => rows[i].over.largestTexture !== undefined,
            )}
            {line('Lowest density', (i) =>
              rows[i].f.lowestDensity === null ? '–' : `≈ ${count(rows[i].f.lowestDensity as number)} px/m`,
            )}
            {line(
              'Share of target density',
              (i) => `≈ ${percent(rows[i].share)} at the least`,
              (i) => rows[i].over.density !== undefined,
            )}
            {line('Slots kept apart', (i) => count(rows[i].f.flows.filter((flow) => flow.sheet < 0).length))}
            {line('Sheets', (i) =>
              columns[i].decisions.sheets
                .map((sheet, k) => `${sheetSides(sheet).join('×')} (${percent(rows[i].f.sheets[k].coverage)})`)
                .join(', '),
            )}
            <tr>
              <th scope="row" />
              {columns.map((column) => (
                <td key={column.id ?? 'plan'}>
                  {column.id === null ? (
                    <Button onClick={keep} aria-disabled={decisions.alternatives.length >= 3}>
                      Keep a copy
                    </Button>
                  ) : (
                    <span className={css.actions}>
                      <Button tone="main" onClick={() => adopt(column.id as string, column.name)}>
                        Use this plan
                      </Button>
                      <Button
                        tone="quiet"
                        onClick={() =>
                          edit(`Delete ${column.name}`, (decisions) => ({
                            ...decisions,
                            alternatives: decisions.alternatives.filter((alternative) => alternative.id !== column.id),
                          }))
                        }
                      >
                        Delete
                      </Button>
                    </span>
                  )}
                </td>
              ))}
            </tr>
          </tbody>
        </table>
        <p className={css.about}>
          {decisions.alternatives.length === 0
            ? 'Keep a copy of the plan, change the plan, and compare. Using a copy puts the plan in its place, so that none is lost.'
            : 'Changes go to the plan; copies stay as they were kept. Use one to change it.'}
        </p>
      </div>
      <Trade columns={columns} rows={rows} format={format} budget={decisions.budget} />
    </section>
  );
}

function Name({ id, name, edit }: { id: string; name: string; edit: ViewProps['edit'] }) {
  const [text, setText] = useState(name);
  useEffect(() => setText(name), [name]);
  const set = () => {
    const to = text.trim();
    if (to === '' || to.length > 60) return setText(name);
    if (to !== name)
      edit(`Rename ${name} to ${to}`, (decisions) => ({
        ...decisions,
        alternatives: decisions.alternatives.map((alternative) =>
          alternative.id === id ? { ...alternative, name: to } : alternative,
        ),
      }));
  };
  return (
    <input
      className={css.name}
      aria-label={`Name of ${name}`}
      value={text}
      onChange={(event) => setText(event.target.value)}
      onBlur={set}
      onKeyDown={(event) => event.key === 'Enter' && set()}
    />
  );
}

/** Memory against the density that is kept; the more draw calls, the larger the mark. */
function Trade({
  columns,
  rows,
  format,
  budget,
}: {
  columns: Column[];
  rows: { f: ReturnType<typeof forecastOf>; share: number }[];
  format: MergeDecisions['budget']['format'];
  budget: MergeDecisions['budget'];
}) {
  const ink = useInk();
  const option = useMemo(() => {
    const most = Math.max(1, ...rows.map((row) => row.f.drawCalls));
    const axis = (name: string, gap: number) => ({
      type: 'value',
      name,
      nameLocation: 'middle',
      nameGap: gap,
      nameTextStyle: { ...TYPE, color: ink.ink2 },
      min: 0,
      axisLabel: { ...TYPE, color: ink.ink2 },
      axisLine: { show: true, lineStyle: { color: ink.quiet } },
      splitLine: { lineStyle: { color: ink.rule } },
    });
    const limits = [...(budget.textureBytes === null ? [] : [{ xAxis: budget.textureBytes / MIB }])];
    return {
      animation: false,
      grid: { left: 56, right: 32, top: 32, bottom: 44 },
      tooltip: { ...tip(ink), formatter: (e: { name: string }) => e.name },
      xAxis: axis('texture memory, MiB', 28),
      yAxis: { ...axis('sharpness kept, % of what is wanted', 40), max: 100 },
      series: [
        {
          type: 'scatter',
          data: rows.map((row, i) => ({
            name: `${columns[i].name}: ${counted(row.f.drawCalls, 'draw call')}, ${bytes(row.f.bytes[format])}, ${percent(row.share)} of the sharpness wanted`,
            value: [row.f.bytes[format] / MIB, row.share * 100],
            symbolSize: 16 + 28 * Math.sqrt(row.f.drawCalls / most),
            itemStyle: { color: indexColour(i), borderColor: ink.ink, borderWidth: 1, opacity: 0.9 },
            label: { show: true, formatter: String(i + 1), ...TYPE, color: '#12201f' },
          })),
          markLine: {
            silent: true,
            symbol: 'none',
            label: { ...TYPE, color: ink.ink2, formatter: 'budget' },
            lineStyle: { color: ink.fault, type: 'dashed' },
            data: limits,
          },
        },
      ],
    };
  }, [ink, rows, columns, format, budget]);
  return (
    <div className={css.chart}>
      <h2>Memory against sharpness</h2>
      <Chart label="Memory against sharpness of each alternative; larger marks take more draw calls" option={option} />
    </div>
  );
}
