import type { FindingAction } from '@wembrel/core/findings/finding';
import { lazy, Suspense, useMemo, useRef, useState } from 'react';
import { Panel, Separator } from 'react-resizable-panels';
import type { SurveyView as Survey } from '../../contract/project.ts';
import { useAddress } from '../../project/address.ts';
import { failedLast, running } from '../../project/api.ts';
import { NothingYet } from '../../project/NothingYet.tsx';
import { useFindings } from '../../project/use-findings.ts';
import { ViewSketch } from '../../project/ViewSketch.tsx';
import type { ViewProps } from '../../project/view-props.ts';
import { Button } from '../../ui/Button.tsx';
import { EmptyState, ErrorLine } from '../../ui/Notice.tsx';
import { Panels } from '../../ui/Panels.tsx';
import { Segments } from '../../ui/Segments.tsx';
import separators from '../../ui/separators.module.css';
import frame from '../../ui/View.module.css';
import { Changes } from './Changes.tsx';
import { ChosenModel } from './ChosenModel.tsx';
import { Findings } from './Findings.tsx';
import { showStandIn } from './model-menu.ts';
import { ReadingDialog } from './ReadingDialog.tsx';
import { ReadingShelf } from './ReadingShelf.tsx';
import { Shelf } from './Shelf.tsx';
import { SurveyHead } from './SurveyHead.tsx';
import { SurveyTables, type TableName } from './SurveyTables.tsx';
import css from './SurveyView.module.css';
import { TextureWall } from './TextureWall.tsx';
import { type TintName, tintScale } from './tints.ts';

const MemoryMap = lazy(() => import('./Charts.tsx').then((m) => ({ default: m.MemoryMap })));
const DrawCallBars = lazy(() => import('./Charts.tsx').then((m) => ({ default: m.DrawCallBars })));
const DensityHistogram = lazy(() => import('./Charts.tsx').then((m) => ({ default: m.DensityHistogram })));

const PICTURES = ['shelf', 'textures', 'memory', 'calls', 'density'] as const;
const TABLES: readonly TableName[] = ['models', 'slots', 'textures', 'costs', 'files'];

/** What the files cost: models on shelves in the order of their cost, the chosen one in 3D, everything in tables. */
export function SurveyView(props: ViewProps) {
  const { project, live } = props;
  const pick = useRef<HTMLInputElement>(null);
  const [reading, setReading] = useState(false);
  const { survey } = project;
  const failed = failedLast(project, 'survey');
  const busy = running(project, 'survey');
  return (
    <section className={frame.view}>
      <SurveyHead {...props} pick={pick} onReading={() => setReading(true)} />
      {failed?.message && <ErrorLine>{failed.message}</ErrorLine>}
      {project.changes && <Changes project={project} changes={project.changes} />}
      {project.sources.length === 0 ? (
        <EmptyState title="Drop models here" picture={<ViewSketch view="survey" />}>
          <p>
            GLB, glTF, OBJ, PLY and STL files with what belongs to them, loose textures, folders, or a ZIP of them.
            Sources are never changed.
          </p>
          <Button onClick={() => pick.current?.click()}>Choose files</Button>
        </EmptyState>
      ) : !survey && busy ? (
        <ReadingShelf job={busy.id} sources={project.sources} live={live[busy.id]} />
      ) : !survey ? (
        <NothingYet {...props} view="survey" missing="unread" />
      ) : (
        <Inside {...props} survey={survey} onReading={() => setReading(true)} />
      )}
      {reading && survey && (
        <ReadingDialog project={project} survey={survey} edit={props.edit} onClose={() => setReading(false)} />
      )}
    </section>
  );
}

function Inside({ project, survey, edit, go, onReading }: ViewProps & { survey: Survey; onReading: () => void }) {
  const findings = useFindings(project);
  const [tint, setTint] = useState<TintName>('own');
  const [picture, setPicture] = useAddress('survey', 'picture', PICTURES, 'shelf');
  const [table, setTable] = useAddress('survey', 'table', TABLES, 'models');
  const scale = useMemo(
    () => tintScale(tint, survey, findings, project.decisions.budget.density),
    [tint, survey, findings, project.decisions.budget.density],
  );
  const lead = ({ to, model }: Extract<FindingAction, { do: 'go' }>) => {
    if (to === 'reading') onReading();
    else if (to === 'files') setTable('models');
    else if (to === 'stand-in') showStandIn(model ?? 0, go);
    else go(to);
  };
  return (
    <Panels id="survey" orientation="vertical" className={css.panels}>
      <Panel id="survey-1" defaultSize="56%" minSize="160px">
        <Panels id="survey-top" orientation="horizontal">
          <Panel id="survey-2" defaultSize={survey.models.length > 1 ? '56%' : '44%'} minSize="240px">
            <div className={css.left}>
              <div className={css.switch}>
                <Segments
                  label="Picture"
                  value={picture}
                  options={[
                    { value: 'shelf', label: 'shelf' },
                    { value: 'textures', label: 'textures' },
                    { value: 'memory', label: 'memory' },
                    { value: 'calls', label: 'draw calls' },
                    { value: 'density', label: 'density' },
                  ]}
                  onChange={setPicture}
                />
              </div>
              {picture === 'shelf' ? (
                <Shelf project={project} survey={survey} colour={scale?.model ?? null} go={go} />
              ) : picture === 'textures' ? (
                <TextureWall project={project} survey={survey} />
              ) : (
                <div className={css.chart}>
                  <Suspense fallback={<p className={css.opening}>Opening …</p>}>
                    {picture === 'memory' && <MemoryMap project={project} survey={survey} />}
                    {picture === 'calls' && <DrawCallBars survey={survey} />}
                    {picture === 'density' && <DensityHistogram project={project} survey={survey} />}
                  </Suspense>
                </div>
              )}
            </div>
          </Panel>
          <Separator className={separators.across} />
          <Panel id="survey-3" minSize="260px">
            <ChosenModel project={project} survey={survey} tint={tint} onTint={setTint} scale={scale} />
          </Panel>
        </Panels>
      </Panel>
      <Separator className={separators.down} />
      <Panel id="survey-4" minSize="140px">
        <Panels id="survey-foot" orientation="horizontal">
          <Panel id="survey-5" minSize="320px">
            <SurveyTables project={project} survey={survey} what={table} onWhat={setTable} />
          </Panel>
          <Separator className={separators.across} />
          <Panel id="survey-6" defaultSize="34%" minSize="240px">
            <Findings project={project} survey={survey} findings={findings} edit={edit} lead={lead} />
          </Panel>
        </Panels>
      </Panel>
    </Panels>
  );
}
