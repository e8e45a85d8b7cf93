import type { PackedFigures } from '@wembrel/core/plan/predict';
import { useEffect, useMemo, useState } from 'react';
import type { ProjectView } from '../../contract/project.ts';
import { useIslands, usePacking } from '../uv/use-layout.ts';
import { type Forecast, forecastOf } from '../workbench/prediction.ts';

/** How long the plan must have stood before it is packed in the background, ms. */
const STILL = 1200;

/** The forecast with what packing found in place of estimates, once the plan has stood for a moment. */
export function usePackedForecast(
  project: ProjectView,
  estimate: Forecast | null,
): { forecast: Forecast | null; share: number | null } {
  const { survey, decisions, layoutStamp } = project;
  const key = `${layoutStamp} ${JSON.stringify([decisions.sheets, decisions.rotate, decisions.scale, decisions.effort])}`;
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
    return forecastOf(survey, decisions, figures);
  }, [packed, estimate, survey, decisions]);
  return { forecast, share: packing.share };
}
