import type { MergeDecisions } from '@wembrel/core/decisions/decisions';
import { protectedMip } from '@wembrel/core/decisions/sheets';
import type { Layout } from '@wembrel/core/layout/layout';
import type { ReadFiles } from '../stages/read.ts';

export interface Fault {
  code: string;
  subject: string;
  message: string;
}

/** How the layout of a sheet fell short, in words. */
export function layoutFaults(layout: Layout): Fault[] {
  const out: Fault[] = [];
  for (const s of layout.sheets) {
    if (s.plots.length === 0) continue;
    if (protectedMip(s.margin) < 0)
      out.push({
        code: 'thin margin',
        subject: s.name,
        message: `a margin of ${s.margin} px does not even keep mip 0 clean; 3 px does`,
      });
    if (s.scale < 0.25)
      out.push({
        code: 'starved sheet',
        subject: s.name,
        message: `its islands keep ${(s.scale * 100).toFixed(0)} % of their resolution along each side; take a larger sheet or more sheets`,
      });
  }
  return out;
}

/** Changes of faces that found nothing to change in any model. */
export function faceFaults(read: ReadFiles, { faces }: MergeDecisions): Fault[] {
  const found = new Set(read.models.flatMap((m) => m.edited?.reports.map((r) => r.edit) ?? []));
  const groupName = (id: string) => faces.groups.find((g) => g.id === id)?.name ?? id;
  return faces.edits
    .filter((e) => !e.off && !found.has(e.id))
    .map((e) => ({
      code: 'no faces',
      subject: e.groups.map(groupName).join(', '),
      message: `no model has faces that this change (${e.kind}) could find`,
    }));
}
