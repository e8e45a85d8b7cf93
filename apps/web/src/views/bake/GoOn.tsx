import { adoptBaked } from '../../project/api.ts';
import { notify } from '../../project/notices.ts';
import { Button } from '../../ui/Button.tsx';

/** What was made goes through all the other stages like any model: as sources of this project, or of one of its own. */
export function GoOn({ job, of, under }: { job: string; of: string; under: string }) {
  const adopt = async (into: 'project' | 'new') => {
    try {
      const made = await adoptBaked(job, into);
      if (into === 'new') window.location.href = `/p/${made.project}/survey`;
      else notify({ tone: 'plain', text: `The ${of} are sources now; see Survey.` });
    } catch (e) {
      notify({ tone: 'fault', text: (e as Error).message });
    }
  };
  return (
    <>
      <Button
        onClick={() => void adopt('project')}
        title={`The ${of} join this project's files, in the folder ${under}; later ones take their place`}
      >
        Use as sources
      </Button>
      <Button onClick={() => void adopt('new')} title={`A project of its own, with nothing but the ${of}`}>
        New project from these results
      </Button>
    </>
  );
}
