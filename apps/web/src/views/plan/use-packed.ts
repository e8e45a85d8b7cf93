import { readText } from '@wembrel/core/decisions/reads';
import { useEffect, useMemo, useState } from 'react';
import type { PackedSheet } from '../../contract/plots.ts';
import type { ProjectView } from '../../contract/project.ts';
import { publishPacked } from '../../project/packed.ts';
import type { GatheredIslands } from '../../project/packing/use-islands.ts';
import { useIslands } from '../../project/packing/use-islands.ts';
import { usePacking } from '../../project/packing/use-packing.ts';
import type { Forecast } from '../../project/prediction.ts';

/** How long the plan must have stood before it is packed in the background, ms. */
const STILL = 1200;

/** Bays of a sheet that are drawn on the board at the most. */
const MOST_DRAWN = 600;

const placeOf = ({ box: [x, y, width, height] }: { box: number[] }) => ({ x, y, width, height });

/** Packs the plan once it has stood for a moment: the forecast is that of packing then, with the places of bays. */
export function usePackedForecast(
  project: ProjectView,
  estimate: Forecast | null,
): { forecast: Forecast | null; packed: readonly PackedSheet[] | null; islands: GatheredIslands | null } {
  const { decisions, layoutStamp } = project;
  const key = `${layoutStamp} ${readText('packing', decisions)}`;
  const [still, setStill] = useState('');
  useEffect(() => {
    const timer = setTimeout(() => setStill(key), STILL);
    return () => clearTimeout(timer);
  }, [key]);
  const wanted = project.survey !== null && !decisions.keepAll && still === key;
  const { islands } = useIslands(project, wanted);
  const packing = usePacking(wanted ? islands : null, decisions);
  const packed = packing.share === null && wanted && packing.key === packing.wantedKey ? packing.sheets : null;
  useEffect(() => {
    if (packed) publishPacked(project, packed);
  }, [packed, project]);
  const forecast = useMemo(() => {
    if (!packed || !estimate?.packed || packed.length !== estimate.sheets.length) return estimate;
    // Bays are drawn where packing put them.
    const sheets = estimate.sheets.map((sheet, i) => ({
      ...sheet,
      places: packed[i].plots.slice(0, MOST_DRAWN).map(placeOf),
    }));
    return { ...estimate, sheets };
  }, [packed, estimate]);
  return { forecast, packed, islands: wanted ? islands : null };
}
