import type { PackedFigures } from '@wembrel/core/plan/predict';
import { useEffect, useMemo, useState } from 'react';
import type { ProjectView } from '../../contract/project.ts';
import { useIslands } from '../uv/use-islands.ts';
import { usePacking } from '../uv/use-packing.ts';
import { type Forecast, forecastOf } from '../workbench/prediction.ts';

/** How long the plan must have stood before it is packed in the background, ms. */
const STILL = 1200;

/** Bays of a sheet that are drawn on the board at the most. */
const MOST_DRAWN = 600;

const placeOf = ({ box: [x, y, width, height] }: { box: number[] }) => ({ x, y, width, height });

/** The forecast with what packing found in place of estimates, once the plan has stood for a moment. */
export function usePackedForecast(
  project: ProjectView,
  estimate: Forecast | null,
): { forecast: Forecast | null; share: number | null } {
  const { survey, decisions, layoutStamp } = project;
  const key = `${layoutStamp} ${JSON.stringify([decisions.sheets, decisions.rotate, decisions.scale, decisions.snap, decisions.effort, decisions.seed])}`;
  const [still, setStill] = useState('');
  useEffect(() => {
    const timer = setTimeout(() => setStill(key), STILL);
    return () => clearTimeout(timer);
  }, [key]);
  const wanted = survey !== null && !decisions.keepAll && still === key;
  const { islands } = useIslands(project, wanted);
  const packing = usePacking(wanted ? islands : null, decisions);
  const packed = packing.share === null && wanted && packing.key === packing.wantedKey ? packing.sheets : null;
  const forecast = useMemo(() => {
    if (!packed || packed.length !== decisions.sheets.length) return estimate;
    const figures = packed.map((s): PackedFigures | null => (s.plots.length === 0 ? null : s.figures));
    const f = forecastOf(survey, decisions, figures);
    // Bays are drawn where packing put them.
    const sheets = f.sheets.map((s, i) => ({ ...s, places: packed[i].plots.slice(0, MOST_DRAWN).map(placeOf) }));
    return { ...f, sheets };
  }, [packed, estimate, survey, decisions]);
  return { forecast, share: packing.share };
}
