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
  const models = new Map(survey.files.map((file) => [file.path, file]));
  const users = new Map<string, string[]>();
  for (const model of survey.models)
    for (const sideFile of model.sideFiles)
      users.set(sideFile, [...(users.get(sideFile) ?? []), model.path.split('/').pop() ?? model.path]);
  const loose = new Map(survey.loose.map((looseTexture) => [looseTexture.path, looseTexture]));
  return project.sources.map((source) => {
    const kind = (source.path.split('.').pop() ?? '').toUpperCase();
    const row = { path: source.path, bytes: source.bytes, kind };
    const model = models.get(source.path);
    if (model) return { ...row, fate: model.ok ? 'read as a model' : (model.error ?? 'not read'), good: model.ok };
    const used = users.get(source.path);
    if (used)
      return { ...row, fate: `read with ${used.slice(0, 3).join(', ')}${used.length > 3 ? ' …' : ''}`, good: true };
    const looseTexture = loose.get(source.path);
    if (looseTexture?.reason === null)
      return { ...row, fate: `${looseTexture.maps.join(', ')} of ${looseTexture.to.join('; ')}`, good: true };
    return { ...row, fate: `not used: ${looseTexture?.reason ?? 'no model names it'}`, good: false };
  });
}
