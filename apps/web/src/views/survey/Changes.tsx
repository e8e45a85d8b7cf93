import { useState } from 'react';
import type { ProjectView, SourceChanges } from '../../contract/project.ts';
import { orphanRoutes } from '../../project/orphan-routes.ts';
import { Button } from '../../ui/Button.tsx';
import css from './Changes.module.css';

const list = (names: string[]) =>
  names.length > 4 ? `${names.slice(0, 4).join(', ')} and ${names.length - 4} more` : names.join(', ');

/** What came and went when sources were read again; decisions stay as they were. */
export function Changes({ project, changes }: { project: ProjectView; changes: SourceChanges }) {
  const [closed, setClosed] = useState<string | null>(null);
  const { appeared, vanished } = changes;
  const orphans = orphanRoutes(changes, project.decisions.routes);
  const nothing = appeared.length + vanished.length + orphans.length === 0;
  if (nothing || closed === project.surveyJob) return null;
  return (
    <p className={css.strip} role="status" data-testid="changes">
      <b>Read again.</b>
      {appeared.length > 0 && (
        <span title={appeared.join('\n')}>
          {appeared.length} new: {list(appeared)}.
        </span>
      )}
      {vanished.length > 0 && (
        <span title={vanished.join('\n')}>
          {vanished.length} gone: {list(vanished)}.
        </span>
      )}
      {orphans.length > 0 && (
        <span className={css.orphans} title={orphans.join('\n')}>
          Routes without a slot: {list(orphans)}.
        </span>
      )}
      <Button tone="quiet" onClick={() => setClosed(project.surveyJob)}>
        Seen
      </Button>
    </p>
  );
}
