import type { Budget, Measured } from '../decisions/budget.ts';
import { densityOfBin } from './density.ts';
import type { SurveyFacts } from './facts.ts';
import type { Totals } from './figures.ts';

/** Area-weighted 5 % of the texel density over all slots, px/m, to a quarter octave; null without any. */
export function lowestDensity(slots: SurveyFacts['slots']): number | null {
  const areas = densityHistogram(slots);
  const total = areas.reduce((sum, b) => sum + b, 0);
  if (total === 0) return null;
  let seen = 0;
  for (let i = 0; i < areas.length; i++) {
    seen += areas[i];
    if (seen >= 0.05 * total) return densityOfBin(i);
  }
  return densityOfBin(areas.length - 1);
}

/** Surface in m² by density, over all slots; see `DENSITY_BINS`. */
export function densityHistogram(slots: SurveyFacts['slots']): number[] {
  const out: number[] = [];
  for (const slot of slots)
    slot.densityAreas.forEach((a, i) => {
      out[i] = (out[i] ?? 0) + a;
    });
  return out;
}

/** The figures that a budget limits, before anything is done. */
export function measuredTotals(
  totals: Totals,
  facts: Pick<SurveyFacts, 'slots' | 'pictures'>,
  budget: Pick<Budget, 'format'>,
): Measured {
  return {
    drawCalls: totals.drawCalls,
    textureBytes: totals.textureBytes[budget.format],
    triangles: totals.triangles,
    gpuVertices: totals.gpuVertices,
    largestTexture: facts.pictures.reduce((greatest, picture) => Math.max(greatest, picture.width, picture.height), 0),
    density: lowestDensity(facts.slots),
  };
}
