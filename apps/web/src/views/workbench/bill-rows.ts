import type { BudgetLine } from '@wembrel/core/decisions/budget';
import { lowestDensity } from '@wembrel/core/survey/measured';
import { useMemo } from 'react';
import type { ProjectView, ResultView } from '../../contract/project.ts';
import { newest, useResult } from '../../project/api.ts';
import type { Forecast } from '../../project/prediction.ts';
import { bytes, count } from '../../ui/format.ts';
import { BILL_FORMULAS } from './bill-formulas.ts';

/** A figure as a number, where it is known. */
type Value = number | null | undefined;

/** A line of the account. */
export interface BillRow {
  label: string;
  /** How the figure is found. */
  formula: string;
  /** One of the figures that the work is for. */
  lead?: true;
  before: string | undefined;
  measured: string | undefined;
  predicted: string | undefined;
  /** Line of the budget. */
  line?: BudgetLine;
  /** What is held against the budget. */
  is: [before: Value, after: Value];
  /** How the budget's line is written. */
  limit: (value: number) => string;
  /** How far the prediction was off, as a share; null where it was right, or nothing was measured. */
  off: number | null;
}

/** What the figures are taken from. */
export interface BillSources {
  project: Pick<ProjectView, 'survey' | 'decisions'>;
  forecast: Forecast | null;
  /** The newest result, where it is up to date. */
  result: Pick<ResultView, 'after' | 'density'> | null;
  /** The result's pictures have the size that will be handed over. */
  final: boolean;
}

/** How far a prediction was off, from half a thousandth on. */
export function offBy(predicted: Value, measured: Value): number | null {
  if (!predicted || !measured) return null;
  const off = Math.abs(measured / predicted - 1);
  return off < 0.0005 ? null : off;
}

/** The lines of the account, in their order. @param lowest lowest density before, px/m */
export function billRows({ project, forecast, result, final }: BillSources, lowest: number | null): BillRow[] {
  const { format } = project.decisions.budget;
  const totals = project.survey?.totals;
  const after = result?.after;
  const counts = (
    label: string,
    key: 'drawCalls' | 'slots' | 'gpuVertices' | 'triangles',
    estimated = false,
  ): BillRow => ({
    label,
    formula: BILL_FORMULAS[key],
    before: totals && count(totals[key]),
    measured: after && count(after[key]),
    predicted: forecast ? `${estimated ? '≈ ' : ''}${count(forecast[key])}` : undefined,
    line: key === 'slots' ? undefined : key,
    is: [totals?.[key], after?.[key] ?? forecast?.[key]],
    limit: count,
    off: offBy(forecast?.[key], after?.[key]),
  });
  // A proof's maps are smaller than those that will be handed over: its memory stays a prediction.
  const sized = final ? after : undefined;
  const memory: BillRow = {
    label: 'Texture memory',
    formula: BILL_FORMULAS.textureBytes,
    lead: true,
    before: totals && bytes(totals.textureBytes[format]),
    measured: sized && bytes(sized.textureBytes[format]),
    predicted: forecast ? bytes(forecast.bytes[format]) : undefined,
    line: 'textureBytes',
    is: [totals?.textureBytes[format], sized?.textureBytes[format] ?? forecast?.bytes[format]],
    limit: bytes,
    off: offBy(forecast?.bytes[format], sized?.textureBytes[format]),
  };
  const density = result?.density?.p5;
  return [
    { ...counts('Draw calls', 'drawCalls'), lead: true },
    counts('Slots', 'slots'),
    memory,
    counts('GPU vertices', 'gpuVertices', true),
    counts('Triangles', 'triangles'),
    {
      label: 'Lowest density',
      formula: BILL_FORMULAS.density,
      before: lowest === null ? undefined : `${Math.round(lowest)} px/m`,
      measured: density ? `${Math.round(density)} px/m` : undefined,
      predicted: forecast?.lowestDensity
        ? `${forecast.packed ? '' : '≈ '}${Math.round(forecast.lowestDensity)} px/m`
        : undefined,
      line: 'density',
      is: [lowest, density ?? forecast?.lowestDensity],
      limit: (value) => `${count(value)} px/m`,
      // A proof is a quarter as dense as what was predicted.
      off: final ? offBy(forecast?.lowestDensity, density) : null,
    },
  ];
}

/** The account of a project, and what its second column holds. */
export function useBillRows(project: ProjectView, forecast: Forecast | null) {
  const last = newest(project, 'proof', 'final');
  const { data } = useResult(last);
  const { survey } = project;
  const lowest = useMemo(() => (survey ? lowestDensity(survey.slots) : null), [survey]);
  const result = data && last?.madeFrom === project.stamp ? data : null;
  const final = last?.kind === 'final';
  return {
    rows: billRows({ project, forecast, result, final }, lowest),
    column: result ? (final ? 'after' : 'proof') : 'predicted',
  };
}
