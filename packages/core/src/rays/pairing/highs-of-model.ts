import type { PairingDecision } from '../../decisions/ray-decisions.ts';

/** Files with the high-polys that are baked onto a model, by its pairings; those that stand in its own file are not among them. @param path of the model */
export function highsOfModel(pairings: readonly Pick<PairingDecision, 'high' | 'low'>[], path: string): Set<string> {
  const own = pairings.filter(({ low }) => low.some((object) => object.path === path));
  return new Set(own.flatMap(({ high }) => high.map((object) => object.path)).filter((file) => file !== path));
}
