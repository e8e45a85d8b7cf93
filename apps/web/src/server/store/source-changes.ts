import type { SourceChanges, SurveyView } from '../../contract/project.ts';

/** Slots, parts and textures of the models that were read both times, as `file: kind name`. */
function things(s: SurveyView, models: ReadonlySet<string>): Set<string> {
  const out = new Set<string>();
  const path = (m: number) => s.models[m]?.path ?? '';
  for (const slot of s.slots) {
    if (!models.has(path(slot.model))) continue;
    out.add(`${path(slot.model)}: slot ${slot.name}`);
    for (const part of slot.parts) out.add(`${path(slot.model)}: part ${part.name}`);
  }
  for (const p of s.pictures)
    for (const { model, name } of p.places) if (models.has(path(model))) out.add(`${path(model)}: texture ${name}`);
  return out;
}

/**
 * What came and went in models that were read before and are read again; models that are new or taken out speak for themselves.
 * Null when nothing did.
 */
export function sourceChanges(before: SurveyView, now: SurveyView): SourceChanges | null {
  const known = new Set(before.models.map((m) => m.path));
  const both = new Set(now.models.flatMap((m) => (known.has(m.path) ? [m.path] : [])));
  const [a, b] = [things(before, both), things(now, both)];
  const lost = (from: SurveyView, to: SurveyView) =>
    from.models.filter((m) => !to.models.some((x) => x.path === m.path) && to.errors.some((e) => e.path === m.path));
  const appeared = [...b].filter((t) => !a.has(t));
  const vanished = [
    ...[...a].filter((t) => !b.has(t)),
    ...lost(before, now).map((m) => `${m.path}: cannot be read any more`),
  ];
  const names = new Set(now.slots.map((s) => s.name));
  const had = new Set(before.slots.map((s) => s.name));
  const goneSlots = [...had].filter((name) => !names.has(name));
  return appeared.length + vanished.length + goneSlots.length > 0 ? { appeared, vanished, goneSlots } : null;
}
