import type { ProjectView } from '../../contract/project.ts';
import { newest, useResult } from '../../project/api.ts';
import type { Forecast } from '../../project/prediction.ts';
import { VIEW_TITLES, VIEWS, type ViewName } from '../../project/stages.ts';
import css from './StageNav.module.css';
import { stageLines } from './stage-lines.ts';

export interface StageNavProps {
  project: ProjectView;
  view: ViewName;
  forecast: Forecast | null;
  go: (view: ViewName) => void;
}

/** The stages as lines of the bill, each with its state, its key figure, and what it takes to run it again. */
export function StageNav({ project, view, forecast, go }: StageNavProps) {
  const last = newest(project, 'proof', 'final');
  const { data: result } = useResult(last);
  const lines = stageLines(project, last, result, forecast);
  return (
    <nav className={css.stages} aria-label="Stages">
      {VIEWS.map((stage) => {
        const { state, figure, tone, again } = lines[stage];
        return (
          <a
            key={stage}
            href={`/p/${project.id}/${stage}`}
            className={`${css.stage} ${stage === view ? css.here : ''}`}
            aria-current={stage === view ? 'page' : undefined}
            onClick={(event) => {
              if (event.ctrlKey || event.metaKey || event.shiftKey) return;
              event.preventDefault();
              go(stage);
            }}
          >
            <span className={css.name}>{VIEW_TITLES[stage]}</span>
            <span className={css.figure}>{figure}</span>
            <span className={`${css.state} ${tone ? css[tone] : ''}`}>{state}</span>
            {again && <span className={css.again}>{again}</span>}
          </a>
        );
      })}
    </nav>
  );
}
