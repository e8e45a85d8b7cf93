import type { JobView } from '../contract/project.ts';
import { Button } from '../ui/Button.tsx';
import type { ViewProps } from './view-props.ts';

/** Takes the result of a bake away: the one before it, if there is one, is shown again. Undo brings it back. */
export function RemoveResult({ job, edit }: { job: Pick<JobView, 'id' | 'kind'>; edit: ViewProps['edit'] }) {
  const what = job.kind.endsWith('final') ? 'final' : job.kind.endsWith('proof') ? 'proof' : 'result';
  return (
    <Button
      tone="quiet"
      title="Undo brings it back"
      onClick={() =>
        edit(`Remove the ${what}`, (decisions) => ({
          ...decisions,
          removedResults: [...decisions.removedResults, job.id],
        }))
      }
    >
      Remove this {what}
    </Button>
  );
}
