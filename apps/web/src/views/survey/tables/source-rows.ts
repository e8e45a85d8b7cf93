import type { ProjectView, SurveyView } from '../../../contract/project.ts';

/** One file of the pile and what became of it. */
export interface SourceRow {
  path: string;
  bytes: number;
  kind: string;
  /** What it is used for, or why not. */
  fate: string;
  good: boolean;
}

export function sourceRows(project: ProjectView, survey: SurveyView): SourceRow[] {
  const models = new Map(survey.files.map((f) => [f.path, f]));
  const users = new Map<string, string[]>();
  for (const m of survey.models)
    for (const f of m.sideFiles) users.set(f, [...(users.get(f) ?? []), m.path.split('/').pop() ?? m.path]);
  const loose = new Map(survey.loose.map((l) => [l.path, l]));
  return project.sources.map((s) => {
    const kind = (s.path.split('.').pop() ?? '').toUpperCase();
    const row = { path: s.path, bytes: s.bytes, kind };
    const model = models.get(s.path);
    if (model) return { ...row, fate: model.ok ? 'read as a model' : (model.error ?? 'not read'), good: model.ok };
    const used = users.get(s.path);
    if (used)
      return { ...row, fate: `read with ${used.slice(0, 3).join(', ')}${used.length > 3 ? ' …' : ''}`, good: true };
    const l = loose.get(s.path);
    if (l?.reason === null) return { ...row, fate: `${l.maps.join(', ')} of ${l.to.join('; ')}`, good: true };
    return { ...row, fate: `not used: ${l?.reason ?? 'no model names it'}`, good: false };
  });
}
