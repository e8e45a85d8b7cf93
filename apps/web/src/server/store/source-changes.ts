import type { SourceChanges, SurveyView } from '../../contract/project.ts';

/** Slots, parts and textures of the models that were read both times, as `file: kind name`. */
function things(surveyView: SurveyView, models: ReadonlySet<string>): Set<string> {
  const out = new Set<string>();
  const path = (m: number) => surveyView.models[m]?.path ?? '';
  for (const slot of surveyView.slots) {
    if (!models.has(path(slot.model))) continue;
    out.add(`${path(slot.model)}: slot ${slot.name}`);
    for (const part of slot.parts) out.add(`${path(slot.model)}: part ${part.name}`);
  }
  for (const picture of surveyView.pictures)
    for (const { model, name } of picture.places)
      if (models.has(path(model))) out.add(`${path(model)}: texture ${name}`);
  return out;
}

/**
 * What came and went in models that were read before and are read again; models that are new or taken out speak for themselves.
 * Null when nothing did.
 */
export function sourceChanges(before: SurveyView, now: SurveyView): SourceChanges | null {
  const known = new Set(before.models.map((model) => model.path));
  const both = new Set(now.models.flatMap((model) => (known.has(model.path) ? [model.path] : [])));
  const [a, b] = [things(before, both), things(now, both)];
  const lost = (from: SurveyView, to: SurveyView) =>
    from.models.filter(
      (model) => !to.models.some((x) => x.path === model.path) && to.errors.some((error) => error.path === model.path),
    );
  const appeared = [...b].filter((text) => !a.has(text));
  const vanished = [
    ...[...a].filter((text) => !b.has(text)),
    ...lost(before, now).map((facts) => `${facts.path}: cannot be read any more`),
  ];
  const names = new Set(now.slots.map((slot) => slot.name));
  const had = new Set(before.slots.map((slot) => slot.name));
  const goneSlots = [...had].filter((name) => !names.has(name));
  return appeared.length + vanished.length + goneSlots.length > 0 ? { appeared, vanished, goneSlots } : null;
}
