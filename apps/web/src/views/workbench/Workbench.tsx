import { QueryClientProvider, useQueryClient } from '@tanstack/react-query';
import { lazy, type ReactNode, Suspense, useCallback, useMemo, useState } from 'react';
import type { ProjectView } from '../../contract/project.ts';
import { goTo, useSelectionInAddress, useViewName } from '../../project/address.ts';
import { type Dropped, droppedFiles, queryClient, upload, useProject } from '../../project/api.ts';
import { editsOf, usePendingEdits, useUnsaved } from '../../project/edits.ts';
import { MEANINGS } from '../../project/glossary.ts';
import { dismiss, notify, useNotices } from '../../project/notices.ts';
import { useWithPacked } from '../../project/packed.ts';
import { usePrediction } from '../../project/prediction.ts';
import type { ViewName } from '../../project/stages.ts';
import { closeTexels, useOpenTexels } from '../../project/texels/open-texels.ts';
import type { ViewProps } from '../../project/view-props.ts';
import { ErrorLine } from '../../ui/Notice.tsx';
import { Notices } from '../../ui/Notices.tsx';
import { Glossary } from '../../ui/Term.tsx';
import { TooltipProvider } from '../../ui/Tooltip.tsx';
import { Bill } from './Bill.tsx';
import { GuideLine } from './GuideLine.tsx';
import { HelpDialog } from './HelpDialog.tsx';
import { useFinder } from './use-finder.ts';
import { useKeys } from './use-keys.ts';
import { useNews } from './use-news.ts';
import css from './Workbench.module.css';

const TexelViewer = lazy(() =>
  import('../../project/texels/TexelViewer.tsx').then((m) => ({ default: m.TexelViewer })),
);
const Finder = lazy(() => import('./Finder.tsx').then((m) => ({ default: m.Finder })));
const SurveyView = lazy(() => import('../survey/SurveyView.tsx').then((m) => ({ default: m.SurveyView })));
const PlanView = lazy(() => import('../plan/PlanView.tsx').then((m) => ({ default: m.PlanView })));
const UvView = lazy(() => import('../uv/UvView.tsx').then((m) => ({ default: m.UvView })));
const BakeView = lazy(() => import('../bake/BakeView.tsx').then((m) => ({ default: m.BakeView })));
const CompareView = lazy(() => import('../compare/CompareView.tsx').then((m) => ({ default: m.CompareView })));
const HandOverView = lazy(() => import('../handover/HandOverView.tsx').then((m) => ({ default: m.HandOverView })));

const SHOWN: Record<ViewName, (p: ViewProps) => ReactNode> = {
  survey: (viewProps) => <SurveyView {...viewProps} />,
  plan: (viewProps) => <PlanView {...viewProps} />,
  uv: (viewProps) => <UvView {...viewProps} />,
  bake: (viewProps) => <BakeView {...viewProps} />,
  compare: (viewProps) => <CompareView {...viewProps} />,
  handover: (viewProps) => <HandOverView {...viewProps} />,
};

function Inside({ id, first }: { id: string; first: ViewName }) {
  const client = useQueryClient();
  const { data: stored, error, live, connected } = useProject(id);
  const { project, forecast: estimate } = usePrediction(usePendingEdits(stored));
  const forecast = useWithPacked(project, estimate);
  const unsaved = useUnsaved(id);
  const view = useViewName(first);
  const go = useCallback((to: ViewName) => goTo(id, to), [id]);
  useSelectionInAddress(project?.survey?.slots.length ?? 0, project?.survey?.models.length ?? 0);
  const [help, setHelp] = useState(false);
  const [finding, setFinding] = useState(false);
  const [over, setOver] = useState(false);
  const [sending, setSending] = useState<string | null>(null);
  useNews(project, live, view, go);
  const notices = useNotices((notices) => notices.list);
  const texels = useOpenTexels((open) => open.picture);

  const edit = useCallback<ViewProps['edit']>(
    (label, apply) => void editsOf(id).change(client, { label, apply }),
    [id, client],
  );
  const step = useCallback((way: 'undo' | 'redo') => void editsOf(id).step(client, way), [id, client]);
  const add = useCallback(
    async (files: Dropped[]) => {
      if (files.length === 0) return;
      const bad = await upload(id, files, (i, name) =>
        setSending(`Sending ${i + 1} of ${files.length}: ${name}`),
      ).catch((error: Error) => [error.message]);
      setSending(null);
      for (const text of bad) notify({ tone: 'fault', text });
    },
    [id],
  );
  const onFind = useCallback(() => setFinding(true), []);
  const onHelp = useCallback(() => setHelp(true), []);
  useKeys({ step, go, onFind, onHelp });

  const props = useMemo<ViewProps | null>(
    () => (project ? { project, live, forecast, edit, go, add: (files) => void add(files), sending } : null),
    [project, live, forecast, edit, go, add, sending],
  );
  if (error && !project)
    return (
      <div className={css.lost}>
        <ErrorLine>{error.message}</ErrorLine>
        <a href="/">All projects</a>
      </div>
    );
  if (!props || !project) return <p className={css.loading}>Opening the project …</p>;
  return (
    <>
      {/* biome-ignore lint/a11y/noStaticElementInteractions: dropping files is an extra; the button on Survey does the same */}
      <div
        className={`${css.bench} ${over ? css.over : ''}`}
        data-unsaved={unsaved}
        onDragOver={(event) => {
          if (!event.dataTransfer.types.includes('Files')) return;
          event.preventDefault();
          setOver(true);
        }}
        onDragLeave={(event) => {
          if (!event.currentTarget.contains(event.relatedTarget as Node | null)) setOver(false);
        }}
        onDrop={(event) => {
          if (!event.dataTransfer.types.includes('Files')) return;
          event.preventDefault();
          setOver(false);
          void droppedFiles(event.dataTransfer.items).then(add);
          go('survey');
        }}
      >
        <Bill
          project={project}
          view={view}
          live={live}
          forecast={forecast}
          go={go}
          step={step}
          onHelp={onHelp}
          onFind={onFind}
          edit={edit}
        />
        <main className={css.main}>
          {!connected && (
            <p className={css.offline} role="status">
              No connection to Wembrel. It is tried again every few seconds; is it still running?
            </p>
          )}
          <GuideLine project={project} view={view} go={go} />
          <div className={css.view}>
            <Suspense fallback={<p className={css.loading}>Opening …</p>}>{SHOWN[view](props)}</Suspense>
          </div>
        </main>
        {over && <p className={css.drop}>Let go to add the files to {project.name}</p>}
      </div>
      {texels && (
        <Suspense fallback={null}>
          <TexelViewer key={texels.source.url + texels.title} picture={texels} onClose={closeTexels} />
        </Suspense>
      )}
      {finding && <FindIn project={project} go={go} step={step} onHelp={onHelp} onClose={() => setFinding(false)} />}
      <HelpDialog open={help} onClose={() => setHelp(false)} />
      <Notices list={notices} onDismiss={dismiss} />
    </>
  );
}

function FindIn({
  project,
  onClose,
  ...means
}: { project: ProjectView; onClose: () => void } & Parameters<typeof useFinder>[1]) {
  return (
    <Suspense fallback={null}>
      <Finder entries={useFinder(project, means)} onClose={onClose} />
    </Suspense>
  );
}

export function Workbench({ project, view }: { project?: string; view: ViewName }) {
  return (
    <QueryClientProvider client={queryClient}>
      <TooltipProvider>
        <Glossary.Provider value={MEANINGS}>
          <Inside id={project ?? ''} first={view} />
        </Glossary.Provider>
      </TooltipProvider>
    </QueryClientProvider>
  );
}
