import { readText } from '@wembrel/core/decisions/reads';
import type { PackedFigures } from '@wembrel/core/layout/coverage';
import { useMemo } from 'react';
import { create } from 'zustand';
import type { PackedSheet } from '../contract/plots.ts';
import type { MergeDecisions, ProjectView } from '../contract/project.ts';
import { type Forecast, forecastOf } from './prediction.ts';

type Packable = Pick<ProjectView, 'id' | 'layoutStamp' | 'survey' | 'decisions'>;

/** What packing found last, and for which project, islands and decisions. */
const usePacked = create<{ key: string; figures: readonly (PackedFigures | null)[] }>(() => ({ key: '', figures: [] }));

const texts = new WeakMap<MergeDecisions, string>();

/** Equal for what is packed alike: decisions come again, though equal, with every answer of the server. */
function keyOf({ id, layoutStamp, decisions }: Packable): string {
  const text = texts.get(decisions) ?? readText('layout', decisions) + readText('packing', decisions);
  texts.set(decisions, text);
  return `${id} ${layoutStamp} ${text}`;
}

/** A view has packed all sheets of a project as it stands. */
export function publishPacked(project: Packable, sheets: readonly PackedSheet[]): void {
  if (sheets.length !== project.decisions.sheets.length) return;
  const figures = sheets.map((sheet) => (sheet.plots.length === 0 ? null : sheet.figures));
  const key = keyOf(project);
  usePacked.setState((known) =>
    known.key === key && figures.every((figure, i) => figure === known.figures[i]) ? known : { key, figures },
  );
}

/** The forecast with what packing found in place of estimates, wherever it has been packed as it stands. */
export function useWithPacked(project: Packable | undefined, estimate: Forecast | null): Forecast | null {
  const { key, figures } = usePacked();
  const known = project !== undefined && estimate !== null && key === keyOf(project);
  const [survey, decisions] = [project?.survey ?? null, project?.decisions];
  return useMemo(
    () => (known && decisions ? forecastOf(survey, decisions, figures) : estimate),
    [known, survey, decisions, figures, estimate],
  );
}
