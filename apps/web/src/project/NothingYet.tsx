import { Button } from '../ui/Button.tsx';
import { EmptyState } from '../ui/Notice.tsx';
import { type Live, running } from './api.ts';
import { startDecided } from './edits.ts';
import { RunningJob } from './RunningJob.tsx';
import type { ViewName } from './stages.ts';
import { ViewSketch } from './ViewSketch.tsx';
import type { ViewProps } from './view-props.ts';
import { type Missing, missingText, type WayOut } from './view-state.ts';

const WAYS: Record<WayOut, string> = {
  add: 'Go to Survey',
  read: 'Read the files again',
  proof: 'Bake a proof',
  final: 'Bake the final',
};

interface NothingYetProps extends Pick<ViewProps, 'project' | 'go'> {
  live: Readonly<Record<string, Live>>;
  view: ViewName;
  missing: Missing;
}

/** What stands in the place of a view's picture while there is none: why, how far it is, and the way to it. */
export function NothingYet({ project, live, go, view, missing }: NothingYetProps) {
  const { title, text, way } = missingText(view, missing);
  const job =
    missing === 'reading'
      ? running(project, 'survey')
      : missing === 'baking'
        ? running(project, 'proof', 'final')
        : undefined;
  const take = () => {
    if (way === 'add') go('survey');
    else if (way === 'read') void startDecided(project.id, 'survey');
    else if (way) void startDecided(project.id, way);
  };
  return (
    <EmptyState title={title} picture={<ViewSketch view={view} />}>
      <p>{text}</p>
      {job && <RunningJob job={job} live={live} />}
      {way && (
        <Button tone="main" onClick={take}>
          {WAYS[way]}
        </Button>
      )}
    </EmptyState>
  );
}
