import { useCallback, useMemo, useRef, useState } from 'react';
import { Group, Panel, Separator } from 'react-resizable-panels';
import { ModelView } from '../../stage/ModelView.tsx';
import type { LitFaces } from '../../stage/model-stage.ts';
import { Button } from '../../ui/Button.tsx';
import { count, indexColour } from '../../ui/format.ts';
import { EmptyState, ErrorLine } from '../../ui/Notice.tsx';
import { Segments } from '../../ui/Segments.tsx';
import frame from '../../ui/View.module.css';
import { failedLast, running } from '../workbench/api.ts';
import { modelAddress, useExact } from '../workbench/model-address.ts';
import { useModel, useSelection } from '../workbench/selection.ts';
import type { ViewProps } from '../workbench/Workbench.tsx';
import { FilesTable } from './FilesTable.tsx';
import { Findings } from './Findings.tsx';
import { Shelf } from './Shelf.tsx';
import css from './SurveyView.module.css';

const ACCEPT = '.glb,.gltf,.bin,.png,.jpg,.jpeg,.webp,.zip';

/** What the files cost: models on shelves in the order of their cost, the chosen one in 3D, everything in tables. */
export function SurveyView({ project, add, sending }: ViewProps) {
  const picker = useRef<HTMLInputElement>(null);
  const folder = useRef<HTMLInputElement>(null);
  const { survey } = project;
  const exact = useExact((s) => s.exact);
  const model = useModel(survey);
  const slots = useSelection((s) => s.slots);
  const [tinted, setTinted] = useState(false);
  const [wire, setWire] = useState(false);
  const failed = failedLast(project, 'survey');
  const reading = running(project, 'survey');
  const taken = (list: FileList | null) =>
    add([...(list ?? [])].map((file) => ({ path: file.webkitRelativePath || file.name, file })));
  const shown = survey?.models[model];
  const index = shown ? model : -1;
  const lit = useMemo<LitFaces | null>(() => {
    if (!survey || slots.size === 0) return null;
    const out = new Map<number, 'all'>();
    for (const i of slots)
      if (survey.slots[i]?.model === index) for (const p of survey.slots[i].parts) out.set(p.part, 'all');
    return out;
  }, [survey, slots, index]);
  const tint = useCallback((slot: number) => indexColour(slot), []);
  return (
    <section className={frame.view}>
      <header className={frame.head}>
        <h1>Survey</h1>
        {sending && <p role="status">{sending}</p>}
        {reading && survey === null && <p role="status">Reading the files …</p>}
        <input
          ref={picker}
          type="file"
          multiple
          hidden
          accept={ACCEPT}
          data-testid="files"
          onChange={(e) => {
            taken(e.target.files);
            e.target.value = '';
          }}
        />
        <input
          ref={folder}
          type="file"
          hidden
          {...{ webkitdirectory: '' }}
          onChange={(e) => {
            taken(e.target.files);
            e.target.value = '';
          }}
        />
        <Button onClick={() => folder.current?.click()}>Add a folder</Button>
        <Button tone="main" onClick={() => picker.current?.click()}>
          Add files
        </Button>
      </header>
      {failed?.message && <ErrorLine>{failed.message}</ErrorLine>}
      {project.sources.length === 0 ? (
        <EmptyState title="Drop models here">
          GLB files, glTF with their side files, folders, or a ZIP of them. Sources are never changed.
        </EmptyState>
      ) : !survey ? (
        <EmptyState title={reading ? 'Reading the files …' : 'Not read yet'}>
          {reading
            ? 'Figures and pictures appear here as soon as every file has been read.'
            : 'The files could not be read; the foot of the bill says why and runs it again.'}
        </EmptyState>
      ) : (
        <Group orientation="vertical" className={css.panels}>
          <Panel defaultSize="58%" minSize="160px">
            <Group orientation="horizontal">
              <Panel defaultSize={survey.models.length > 1 ? '58%' : '34%'} minSize="220px">
                <Shelf project={project} survey={survey} />
              </Panel>
              <Separator className={css.across} />
              <Panel minSize="260px">
                <div className={css.picture}>
                  <ModelView
                    label={shown ? `3D picture of ${shown.path}` : '3D picture'}
                    url={modelAddress(project, index, exact)}
                    tint={tinted ? tint : null}
                    wire={wire}
                    lit={lit}
                    onKey={(k) => {
                      if (k.toLowerCase() !== 'w') return false;
                      setWire(!wire);
                      return true;
                    }}
                  />
                  <div className={css.tools}>
                    <Segments
                      label="Colours"
                      value={tinted ? 'slots' : 'own'}
                      options={[
                        { value: 'own', label: 'as it is' },
                        { value: 'slots', label: 'by slot' },
                      ]}
                      onChange={(v) => setTinted(v === 'slots')}
                    />
                    <label>
                      <input type="checkbox" checked={wire} onChange={(e) => setWire(e.target.checked)} /> edges
                    </label>
                    {shown?.reduced && (
                      <label>
                        <input
                          type="checkbox"
                          checked={exact}
                          onChange={(e) => useExact.setState({ exact: e.target.checked })}
                        />{' '}
                        all {count(shown.triangles)} triangles
                      </label>
                    )}
                    <span className={css.name}>{shown?.path}</span>
                  </div>
                </div>
              </Panel>
            </Group>
          </Panel>
          <Separator className={css.down} />
          <Panel minSize="140px">
            <div className={css.lower}>
              <FilesTable project={project} survey={survey} />
              <Findings survey={survey} />
            </div>
          </Panel>
        </Group>
      )}
    </section>
  );
}
