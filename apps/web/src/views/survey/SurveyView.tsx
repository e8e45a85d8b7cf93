import { lazy, Suspense, useCallback, useMemo, useRef, useState } from 'react';
import { Panel, Separator } from 'react-resizable-panels';
import type { SurveyView as Survey } from '../../contract/project.ts';
import { useAddress } from '../../project/address.ts';
import { failedLast, running } from '../../project/api.ts';
import { modelAddress, useExact } from '../../project/model-address.ts';
import { NothingYet } from '../../project/NothingYet.tsx';
import {
  hideSelected,
  selectSlots,
  showAll,
  showOnlySelected,
  useModel,
  useSelection,
} from '../../project/selection.ts';
import { useFindings } from '../../project/use-findings.ts';
import { ViewSketch } from '../../project/ViewSketch.tsx';
import type { ViewProps } from '../../project/view-props.ts';
import { checkerPicture } from '../../stage/checker.ts';
import { ModelView } from '../../stage/ModelView.tsx';
import type { LitFaces } from '../../stage/placed.ts';
import { Button, ButtonLink } from '../../ui/Button.tsx';
import { count } from '../../ui/format.ts';
import { EmptyState, ErrorLine } from '../../ui/Notice.tsx';
import { Panels } from '../../ui/Panels.tsx';
import ramps from '../../ui/ramps.module.css';
import { Segments } from '../../ui/Segments.tsx';
import separators from '../../ui/separators.module.css';
import frame from '../../ui/View.module.css';
import { Changes } from './Changes.tsx';
import { Findings } from './Findings.tsx';
import { ReadingDialog } from './ReadingDialog.tsx';
import { ReadingShelf } from './ReadingShelf.tsx';
import { Shelf } from './Shelf.tsx';
import { SurveyTables, type TableName } from './SurveyTables.tsx';
import css from './SurveyView.module.css';
import { TINTS, type TintName, tintScale } from './tints.ts';
import { WatchChoice } from './WatchChoice.tsx';

const MemoryMap = lazy(() => import('./Charts.tsx').then((m) => ({ default: m.MemoryMap })));
const DrawCallBars = lazy(() => import('./Charts.tsx').then((m) => ({ default: m.DrawCallBars })));
const DensityHistogram = lazy(() => import('./Charts.tsx').then((m) => ({ default: m.DensityHistogram })));

const ACCEPT = '.glb,.gltf,.bin,.obj,.mtl,.ply,.stl,.png,.jpg,.jpeg,.webp,.tga,.exr,.tif,.tiff,.ktx2,.zip';

const PICTURES = ['shelf', 'memory', 'calls', 'density'] as const;
const TABLES: readonly TableName[] = ['models', 'slots', 'textures', 'costs', 'files'];

/** Longest side of the base colour that most of a model's slots read; what the checker counts in. */
function checkerTexels(survey: Survey, model: number): number {
  const byKey = new Map(survey.pictures.map((picture) => [picture.key, Math.max(picture.width, picture.height)]));
  const sides = survey.slots.flatMap((slot) =>
    slot.model === model ? [byKey.get(slot.images.baseColor ?? Object.values(slot.images)[0] ?? '') ?? 0] : [],
  );
  return Math.max(8, ...sides) || 1024;
}

/** What the files cost: models on shelves in the order of their cost, the chosen one in 3D, everything in tables. */
export function SurveyView(props: ViewProps) {
  const { project, live, add, sending } = props;
  const picker = useRef<HTMLInputElement>(null);
  const folder = useRef<HTMLInputElement>(null);
  const [reading, setReading] = useState(false);
  const { survey } = project;
  const failed = failedLast(project, 'survey');
  const busy = running(project, 'survey');
  const taken = (list: FileList | null) =>
    add([...(list ?? [])].map((file) => ({ path: file.webkitRelativePath || file.name, file })));
  return (
    <section className={frame.view}>
      <header className={frame.head}>
        <h1>Survey</h1>
        {sending && <p role="status">{sending}</p>}
        {busy && survey === null && <p role="status">Reading the files …</p>}
        <input
          ref={picker}
          type="file"
          multiple
          hidden
          accept={ACCEPT}
          data-testid="files"
          onChange={(event) => {
            taken(event.target.files);
            event.target.value = '';
          }}
        />
        <input
          ref={folder}
          type="file"
          hidden
          {...{ webkitdirectory: '' }}
          onChange={(event) => {
            taken(event.target.files);
            event.target.value = '';
          }}
        />
        <WatchChoice project={project} />
        {survey && (
          <>
            <Button onClick={() => setReading(true)}>Import settings</Button>
            <ButtonLink href={`/api/projects/${project.id}/report`} download>
              Report
            </ButtonLink>
          </>
        )}
        <Button onClick={() => folder.current?.click()}>Add a folder</Button>
        <Button tone="main" onClick={() => picker.current?.click()}>
          Add files
        </Button>
      </header>
      {failed?.message && <ErrorLine>{failed.message}</ErrorLine>}
      {project.changes && <Changes project={project} changes={project.changes} />}
      {project.sources.length === 0 ? (
        <EmptyState title="Drop models here" picture={<ViewSketch view="survey" />}>
          <p>
            GLB, glTF, OBJ, PLY and STL files with what belongs to them, loose textures, folders, or a ZIP of them.
            Sources are never changed.
          </p>
          <Button onClick={() => picker.current?.click()}>Choose files</Button>
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
  const lead = (to: string) => {
    if (to === 'reading') onReading();
    else if (to === 'files') setTable('models');
    else go(to as 'plan' | 'uv' | 'bake');
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
                    { value: 'memory', label: 'texture memory' },
                    { value: 'calls', label: 'draw calls' },
                    { value: 'density', label: 'density' },
                  ]}
                  onChange={setPicture}
                />
              </div>
              {picture === 'shelf' ? (
                <Shelf project={project} survey={survey} colour={scale?.model ?? null} />
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
            <Chosen project={project} survey={survey} tint={tint} onTint={setTint} scale={scale} />
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

/** The chosen model in 3D, coloured as asked. */
function Chosen({
  project,
  survey,
  tint,
  onTint,
  scale,
}: {
  project: ViewProps['project'];
  survey: Survey;
  tint: TintName;
  onTint: (t: TintName) => void;
  scale: ReturnType<typeof tintScale>;
}) {
  const exact = useExact((state) => state.exact);
  const model = useModel(survey);
  const slots = useSelection((selection) => selection.slots);
  const hidden = useSelection((selection) => selection.hidden);
  const [wire, setWire] = useState(false);
  const shown = survey.models[model];
  /** Position in the survey's slots by the slot's number in its file. */
  const slotAt = useMemo(
    () => new Map(survey.slots.flatMap((slot, i) => (slot.model === model ? [[slot.slot, i] as const] : []))),
    [survey, model],
  );
  const lit = useMemo<LitFaces | null>(() => {
    const out = new Map<number, 'all'>();
    for (const i of slots)
      if (survey.slots[i]?.model === model) for (const part of survey.slots[i].parts) out.set(part.part, 'all');
    return out.size > 0 ? out : null;
  }, [survey, slots, model]);
  const hiddenParts = useMemo(
    () =>
      new Set(
        [...hidden.slots].flatMap((i) =>
          survey.slots[i]?.model === model ? survey.slots[i].parts.map((part) => part.part) : [],
        ),
      ),
    [survey, hidden, model],
  );
  const colour = useCallback(
    (slot: number, part: number) => scale?.colour(slotAt.get(slot) ?? -1, part) ?? null,
    [scale, slotAt],
  );
  const checker = tint === 'checker' ? checkerPicture(checkerTexels(survey, model)) : null;
  const some = hidden.slots.size + hidden.models.size > 0;
  return (
    <div className={css.picture}>
      <ModelView
        label={shown ? `3D picture of ${shown.path}` : '3D picture'}
        url={modelAddress(project, model, exact)}
        tint={scale ? colour : null}
        hidden={hiddenParts}
        wire={wire}
        map={checker}
        lit={lit}
        onPick={(face, { add }) => {
          const at = face ? slotAt.get(face.slot) : undefined;
          if (at === undefined) {
            if (!add) selectSlots([]);
          } else selectSlots([at], add ? 'toggle' : 'only');
        }}
        onKey={(k) => {
          if (k.toLowerCase() !== 'w') return false;
          setWire(!wire);
          return true;
        }}
      />
      <div className={css.tools}>
        <label>
          Colours{' '}
          <select value={tint} onChange={(event) => onTint(event.target.value as TintName)}>
            {Object.entries(TINTS).map(([k, t]) => (
              <option key={k} value={k}>
                {t}
              </option>
            ))}
          </select>
        </label>
        <label>
          <input type="checkbox" checked={wire} onChange={(event) => setWire(event.target.checked)} /> Wireframe
        </label>
        {shown?.reduced && (
          <label title={`All ${count(shown.triangles)} triangles instead of the reduced copy`}>
            <input
              type="checkbox"
              checked={exact}
              onChange={(event) => useExact.setState({ exact: event.target.checked })}
            />{' '}
            all triangles
          </label>
        )}
        <Button tone="quiet" onClick={() => hideSelected(model)}>
          Hide
        </Button>
        <Button tone="quiet" onClick={() => showOnlySelected(survey, model)}>
          Show only
        </Button>
        {some && (
          <Button tone="quiet" onClick={showAll}>
            Show all
          </Button>
        )}
        {scale?.ends ? (
          <span className={css.legend}>
            {(tint === 'drawCalls' || tint === 'triangles' || tint === 'density') && (
              <i className={tint === 'density' ? ramps.twoEnded : ramps.heat} aria-hidden />
            )}
            {scale.ends.join(' – ')}
          </span>
        ) : (
          <span className={css.name}>{shown?.path}</span>
        )}
      </div>
    </div>
  );
}
