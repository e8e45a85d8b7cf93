import type { Budget, Measured } from '../decisions/budget.ts';
import { densityOfBin } from './density.ts';
import type { SurveyFacts } from './facts.ts';
import type { Totals } from './figures.ts';

/** Area-weighted 5 % of the texel density over all slots, px/m, to a quarter octave; null without any. */
export function lowestDensity(slots: SurveyFacts['slots']): number | null {
  const areas = densityHistogram(slots);
  const total = areas.reduce((a, b) => a + b, 0);
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
  for (const s of slots)
    s.densityAreas.forEach((a, i) => {
      out[i] = (out[i] ?? 0) + a;
    });
  return out;
}

/** The figures that a budget limits, before anything is done. */
export function measuredTotals(
  t: Totals,
  s: Pick<SurveyFacts, 'slots' | 'pictures'>,
  budget: Pick<Budget, 'format'>,
): Measured {
  return {
    drawCalls: t.drawCalls,
    textureBytes: t.textureBytes[budget.format],
    triangles: t.triangles,
    gpuVertices: t.gpuVertices,
    largestTexture: s.pictures.reduce((n, p) => Math.max(n, p.width, p.height), 0),
    density: lowestDensity(s.slots),
  };
}
