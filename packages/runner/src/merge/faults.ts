import { type Fidelity, isWorse } from '@wembrel/core/compare/fidelity';
import type { MergeDecisions } from '@wembrel/core/decisions/decisions';
import { protectedMip } from '@wembrel/core/decisions/sheets';
import type { PlacedPlot, SheetLayout } from '@wembrel/core/layout/layout';
import type { LaidOut } from '../stages/lay-out.ts';
import type { ReadFiles } from '../stages/read.ts';

export interface Fault {
  code: string;
  subject: string;
  message: string;
}

/** Code of the fault of a result that is not valid since its source is not. */
export const INVALID_SOURCE = 'invalid source';

/** Without a bay that starves its sheet, the others are at least so much sharper; reference, "Worth it". */
const STARVED = 1.25;

/** A bay that holds back a whole sheet, and about how much sharper everything else would be without it. */
function starvingBay({ plots, scale }: SheetLayout): { plot: PlacedPlot; sharper: number } | null {
  if (scale >= 1 || plots.length < 2) return null;
  const room = (plot: PlacedPlot) => plot.boxWidth * plot.boxHeight;
  const total = plots.reduce((sum, plot) => sum + room(plot), 0);
  const largest = plots.reduce((a, b) => (room(b) > room(a) ? b : a));
  // The room that it leaves is shared by the others; none becomes sharper than its source.
  const sharper = Math.min(1 / scale, Math.sqrt(total / (total - room(largest))));
  return sharper > STARVED ? { plot: largest, sharper } : null;
}

/** How the layout of a sheet fell short, in words. */
export function layoutFaults({ layout, routing }: Pick<LaidOut, 'layout' | 'routing'>): Fault[] {
  const out: Fault[] = [];
  for (const sheet of layout.sheets) {
    if (sheet.plots.length === 0) continue;
    if (protectedMip(sheet.margin) < 0)
      out.push({
        code: 'thin margin',
        subject: sheet.name,
        message: `a margin of ${sheet.margin} px does not even keep mip 0 clean; 3 px does`,
      });
    if (sheet.scale < 1 && sheet.plots.some((plot) => plot.exact))
      out.push({
        code: 'resampled texels',
        subject: sheet.name,
        message: `it holds textures that are read without blending at ${(sheet.scale * 100).toFixed(0)} % of their size, so that their texels are not copied exactly; take a larger sheet or more sheets`,
      });
    const starving = starvingBay(sheet);
    if (starving)
      out.push({
        code: 'starved',
        subject: sheet.name,
        message: `one bay of "${routing.materials[starving.plot.material].name}" takes so much of it that everything else would be about ${starving.sharper.toFixed(1)} times as sharp without it; keep that slot apart, cut it at its repeats, or bake fewer of them`,
      });
    if (sheet.scale < 0.25)
      out.push({
        code: 'starved sheet',
        subject: sheet.name,
        message: `its islands keep ${(sheet.scale * 100).toFixed(0)} % of their resolution along each side; take a larger sheet or more sheets`,
      });
  }
  return out;
}

/** From where a result is seen to differ from its original, more than the original does from its own truth. */
export function fidelityFaults({ distances }: Pick<Fidelity, 'distances'>): Fault[] {
  return distances.filter(isWorse).map(({ distance, worstView, truth }) => ({
    code: 'looks different',
    subject: worstView,
    message: `seen from ${distance} times the distance that frames the models it comes to ${truth?.result.toFixed(1)} dB of what the original's textures hold, the original itself to ${truth?.original.toFixed(1)} dB; where its sheets keep fewer texels than the sources, larger sheets help`,
  }));
}

/** Changes of faces that found nothing to change in any model. */
export function faceFaults(read: ReadFiles, { faces }: MergeDecisions): Fault[] {
  const found = new Set(read.models.flatMap((model) => model.edited?.reports.map((report) => report.edit) ?? []));
  const groupName = (id: string) => faces.groups.find((group) => group.id === id)?.name ?? id;
  return faces.edits
    .filter((edit) => !edit.off && !found.has(edit.id))
    .map((edit) => ({
      code: 'no faces',
      subject: edit.groups.map(groupName).join(', '),
      message: `no model has faces that this change (${edit.kind}) could find`,
    }));
}
