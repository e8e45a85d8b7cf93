import type { FaceEditReport } from '@wembrel/core/faces/apply-faces';
import { openSurfaces } from '@wembrel/core/predict/planned';
import type { MergeDecisions, SurveyView } from '../../../contract/project.ts';
import { count } from '../../../ui/format.ts';

/** What cutting all slots of a model that can be cut would cost, in words. */
export function cutPrice(survey: SurveyView, model: number, strip: boolean): string {
  const cuts = survey.slots.flatMap((slot) => (slot.model === model ? ((strip ? slot.stripCut : slot.cut) ?? []) : []));
  if (cuts.length === 0) return 'no slot needs it, or can be cut';
  const more = cuts.reduce((sum, cut) => sum + cut.triangles, 0);
  return `${count(more)} triangles more for ${cuts.length === 1 ? 'one slot' : `${cuts.length} slots`}; chosen in Plan`;
}

/** What each edit did, over all models; the one in sight comes first, as it is now. */
export function reportsOf(
  survey: SurveyView,
  modelAt: number,
  now: readonly FaceEditReport[],
): Map<string, FaceEditReport[]> {
  const out = new Map<string, FaceEditReport[]>();
  const others = survey.models.filter((_, i) => i !== modelAt).flatMap((model) => model.edited?.reports ?? []);
  for (const report of [...now, ...others]) out.set(report.edit, [...(out.get(report.edit) ?? []), report]);
  return out;
}

/** Names that a slot may be given: required ones first, without those that stand for many, then planned surfaces. */
export function slotNames(survey: SurveyView, { requiredNames, planned }: MergeDecisions): string[] {
  const names = new Set(requiredNames.filter((requiredName) => !requiredName.includes('*')));
  for (const surface of openSurfaces(planned)) names.add(surface.name);
  for (const slot of survey.slots) names.add(slot.name);
  return [...names];
}
