import { CONVENTIONS, type Manifest } from '@wembrel/core/handover/manifest';
import type { WrittenProfile } from '../stages/write-profiles.ts';
import type { Delivery } from '../write/delivery.ts';
import type { StandInReport } from './report.ts';

/** What code needs to know; there are no bays. */
export function manifestOf(
  report: StandInReport,
  delivery: Pick<Delivery, 'hashes'>,
  profiles: ReadonlyMap<string, WrittenProfile>,
): Manifest {
  const profiled = [...profiles.values()];
  return {
    format: 'wembrel-manifest',
    version: 1,
    conventions: CONVENTIONS,
    models: report.models.flatMap(({ source, lods }) => lods.map(({ path }) => ({ file: path, name: source }))),
    sheets: [],
    slots: [],
    keptApart: report.models.flatMap(({ source, apart }) =>
      apart.map((slot) => ({ model: source, slot, code: 'kept-apart', reason: 'it stays apart from the stand-in' })),
    ),
    files: delivery.hashes(),
    ...(profiled.length > 0 ? { profiles: profiled } : {}),
  };
}
