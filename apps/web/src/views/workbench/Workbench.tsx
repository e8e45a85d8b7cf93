import { QueryClientProvider } from '@tanstack/react-query';
import type { ProjectView } from '../../contract/project.ts';
import { ErrorLine } from '../../ui/Notice.tsx';
import { BakeView } from '../bake/BakeView.tsx';
import { CompareView } from '../compare/CompareView.tsx';
import { HandOverView } from '../handover/HandOverView.tsx';
import { PlanView } from '../plan/PlanView.tsx';
import { SurveyView } from '../survey/SurveyView.tsx';
import { type Live, queryClient, useProject } from './api.ts';
import { Bill } from './Bill.tsx';
import { usePendingEdits } from './edits.ts';
import type { ViewName } from './stages.ts';
import css from './Workbench.module.css';

export interface ViewProps {
  project: ProjectView;
  live: Record<string, Live>;
}

const SHOWN: Record<ViewName, (p: ViewProps) => React.ReactNode> = {
  survey: (p) => <SurveyView {...p} />,
  plan: (p) => <PlanView {...p} />,
  bake: (p) => <BakeView {...p} />,
  compare: (p) => <CompareView {...p} />,
  handover: (p) => <HandOverView {...p} />,
};

function Inside({ id, view }: { id: string; view: ViewName }) {
  const { data: stored, error, live } = useProject(id);
  const data = usePendingEdits(stored);
  if (error) return <ErrorLine>{error.message}</ErrorLine>;
  if (!data) return <p className={css.loading}>Opening the project …</p>;
  return (
    <div className={css.bench}>
      <Bill project={data} view={view} live={live} />
      <main className={css.main}>{SHOWN[view]({ project: data, live })}</main>
    </div>
  );
}

export function Workbench({ project, view }: { project?: string; view: ViewName }) {
  return (
    <QueryClientProvider client={queryClient}>
      <Inside id={project ?? ''} view={view} />
    </QueryClientProvider>
  );
}
