import type { RayMaps } from '@wembrel/core/rays/maps/baked-maps';

/** How many texels of a pairing lie how far above or below: counts of equal steps from `from` to `to`, m. */
export function distanceHistogram(
  maps: RayMaps,
  pairing: number,
  reaches: { outward: number; inward: number },
  steps = 64,
): { from: number; to: number; counts: number[] } {
  const from = -reaches.inward * 1.25;
  const to = reaches.outward * 1.25;
  const counts = new Array<number>(steps).fill(0);
  for (let i = 0; i < maps.distance.length; i++) {
    if (maps.pairing[i] !== pairing + 1 || !maps.hit[i]) continue;
    const k = Math.floor(((maps.distance[i] - from) / (to - from)) * steps);
    if (k >= 0 && k < steps) counts[k]++;
  }
  return { from, to, counts };
}
