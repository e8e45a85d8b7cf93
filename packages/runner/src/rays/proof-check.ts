import { PROOF_DIVISOR } from '@wembrel/core/decisions/decisions';
import type { RaySettings } from '@wembrel/core/decisions/ray-decisions';
import type { RayBake } from './bake-rays.ts';

/** Share of a pairing's texels that may be wrong in one way before a proof stops what comes after it. */
const BEARABLE = 0.02;
const STOPPING: ReadonlySet<string> = new Set(['missed', 'stray', 'clash']);
/** Least side of a proof, px: along borders small pictures miss more than large ones. */
const LEAST_PROOF = 256;

/** What a proof bakes that only says whether the final is worth it: at a quarter of the side, one sample a texel. */
export const checkSettings = (settings: RaySettings): RaySettings => ({
  ...settings,
  maps: settings.maps.includes('opacity') ? ['normal', 'opacity'] : ['normal'],
  samples: 1,
  size: Math.min(settings.size, Math.max(LEAST_PROOF, settings.size / PROOF_DIVISOR)),
  margin: Math.ceil(settings.margin / PROOF_DIVISOR),
});

/** Faults of a proof that are more than bearable: missed, stray or clashing texels. */
export function stoppingFaults({ faults, pairings }: Pick<RayBake, 'faults' | 'pairings'>): RayBake['faults'] {
  const texels = new Map(pairings.map((one) => [one.name, one.texels]));
  return faults.filter(
    (fault) => STOPPING.has(fault.kind) && fault.count > BEARABLE * (texels.get(fault.pairing) ?? 0),
  );
}
