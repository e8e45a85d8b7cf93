import type { SurveyView } from '../../contract/project.ts';
import type { Forecast } from '../workbench/prediction.ts';

/** What the width of a flow stands for. */
export type Carried = 'drawCalls' | 'memory' | 'texels';

/** Height of a slot's row and of a model's heading, px; the flows start at the middle of the rows. */
export const ROW = 26;
export const HEADING = 24;

/** Rows of the slot list: slots grouped by model. Top of each slot's row, px. */
export function rowTops(survey: SurveyView): { tops: number[]; height: number } {
  const tops: number[] = [];
  let y = 0;
  let model = -1;
  for (const s of survey.slots) {
    if (s.model !== model) {
      y += HEADING;
      model = s.model;
    }
    tops.push(y);
    y += ROW;
  }
  return { tops, height: y };
}

/** How much each slot carries, in draw calls, bytes (BC7, each texture counted where it is read) or texels. */
export function carriedBy(survey: SurveyView, forecast: Forecast, carried: Carried): number[] {
  if (carried === 'drawCalls') return survey.slots.map((s) => s.parts.reduce((n, p) => n + p.drawCalls, 0));
  if (carried === 'texels')
    return survey.slots.map((s, i) => {
      const f = forecast.flows[i];
      const k = f.sheet >= 0 ? forecast.sheets[f.sheet].scale ** 2 : 1;
      return s.islands.reduce((n, i) => n + i.area * k, 0);
    });
  const sizes = new Map(survey.pictures.map((p) => [p.key, p.bytes.bc7]));
  return survey.slots.map((s) =>
    [...new Set(Object.values(s.images))].reduce((n, key) => n + (sizes.get(key) ?? 0), 0),
  );
}
