import type { ProjectView, RayResultView } from '../../../contract/project.ts';
import type { Live } from '../../../project/api.ts';
import { RunningJob } from '../../../project/RunningJob.tsx';
import { EmptyState, ErrorLine } from '../../../ui/Notice.tsx';
import { BeforeBake } from './BeforeBake.tsx';
import { DistanceChart } from './DistanceChart.tsx';
import css from './RaysView.module.css';
import { SectionPicture } from './SectionPicture.tsx';
import { addReachHere, type RaysState } from './use-rays-view.ts';

export interface RaysMiddleProps {
  project: ProjectView;
  live: Readonly<Record<string, Live>>;
  state: RaysState;
}

/** The big picture of the step: the section over the histogram of distances. */
export function RaysMiddle({ project, live, state }: RaysMiddleProps) {
  const { job, failed, result } = state;
  return (
    <div className={css.middle}>
      {failed && !job && <ErrorLine>{failed.message}</ErrorLine>}
      {job && <RunningJob job={job} live={live} />}
      {!job && result && result.stopped?.length > 0 && <ErrorLine>{stoppedText(result.stopped)}</ErrorLine>}
      <Picture project={project} live={live} state={state} />
      <Reaches state={state} />
    </div>
  );
}

function Picture({ project, live, state }: RaysMiddleProps) {
  const { job, section, turn, setTurn, chosen } = state;
  const painting = job ? live[job.id]?.preview : undefined;
  if (job && painting)
    return (
      <div className={css.painting}>
        <img src={`/api/jobs/${job.id}/preview?n=${painting.count}`} alt="what is baked so far" />
      </div>
    );
  if (section) return <SectionPicture section={section} turn={turn} onTurn={setTurn} onReach={addReachHere(state)} />;
  if (section === null)
    return (
      <EmptyState title="Beside the islands">No island covers that texel. Click on an island of the map.</EmptyState>
    );
  if (chosen && chosen.high.length + chosen.low.length > 0 && !job)
    return <BeforeBake project={project} pairing={chosen} />;
  return (
    <EmptyState title={job ? 'Baking …' : 'No pairing yet'}>
      {state.objects.length === 0
        ? 'Drop a high-poly and a low-poly with UVs, or open the sample with the ticket post.'
        : 'Pair a high-poly and a low-poly at the left: by their names, by their places, or by hand.'}
    </EmptyState>
  );
}

/** The histogram of the chosen pairing, with its two reaches. */
function Reaches({ state: { figures, chosen, changeChosen } }: { state: RaysState }) {
  if (!figures || !chosen) return null;
  return (
    <DistanceChart
      histogram={figures.histogram}
      outward={chosen.outward ?? figures.outward}
      inward={chosen.inward ?? figures.inward}
      onReach={(which, metres) =>
        changeChosen(`${which === 'outward' ? 'Outward' : 'Inward'} reach of ${chosen.name}`, { [which]: metres })
      }
      onMeasured={
        chosen.outward === null && chosen.inward === null
          ? null
          : () => changeChosen(`Measured reaches for ${chosen.name}`, { outward: null, inward: null })
      }
    />
  );
}

/** Why a proof was not followed by the final. */
function stoppedText(faults: RayResultView['stopped']): string {
  const names = [...new Set(faults.map((fault) => fault.pairing))];
  const said = names.length > 3 ? `${names.slice(0, 3).join(', ')} and ${names.length - 3} more` : names.join(', ');
  return `Stopped after the proof: more than 2 % of the texels of ${said} are wrong. See Faults, or bake the final all the same.`;
}
