import type { SurveyView } from '../../contract/project.ts';
import type { Forecast } from '../../project/prediction.ts';

/** What the width of a flow stands for. */
export type Carried = 'drawCalls' | 'memory' | 'texels';

/** How much each slot carries, in draw calls, bytes (BC7, each texture counted where it is read) or texels. */
export function carriedBy(survey: SurveyView | null, forecast: Forecast, carried: Carried): number[] {
  if (carried === 'drawCalls')
    return forecast.planSlots.map((planSlot) => planSlot.parts.reduce((sum, part) => sum + part.drawCalls, 0));
  if (carried === 'texels')
    return forecast.planSlots.map((planSlot, i) => {
      const k = forecast.flows[i].sheet >= 0 ? forecast.flows[i].sharpness ** 2 : 1;
      return planSlot.islands.reduce((sum, x) => sum + x.area * k, 0);
    });
  const sizes = new Map(survey?.pictures.map((picture) => [picture.key, picture.bytes.bc7]));
  return forecast.planSlots.map((planSlot) =>
    [...new Set(Object.values(planSlot.images))].reduce((sum, key) => sum + (sizes.get(key) ?? 0), 0),
  );
}
