import type { ProjectSummary } from '../../contract/project.ts';

/** How far a project is, in the words of the bill. */
export function projectState({ sources, before, result }: ProjectSummary): string {
  if (sources === 0) return 'empty';
  if (!before) return 'not read';
  if (!result) return 'not baked';
  return result.stale ? `${result.kind}, out of date` : result.kind;
}
