import { type ReactNode, useMemo, useState } from 'react';
import { failedLast, running } from '../../../project/api.ts';
import { startDecided } from '../../../project/edits.ts';
import { modelAddress } from '../../../project/model-address.ts';
import { RemoveResult } from '../../../project/RemoveResult.tsx';
import { RunningJob } from '../../../project/RunningJob.tsx';
import { useModel, useSelection } from '../../../project/selection.ts';
import type { ViewProps } from '../../../project/view-props.ts';
import { ModelView } from '../../../stage/ModelView.tsx';
import { Button, ButtonLink } from '../../../ui/Button.tsx';
import { Choice } from '../../../ui/Field.tsx';
import { bytes, count } from '../../../ui/format.ts';
import { EmptyState, ErrorLine } from '../../../ui/Notice.tsx';
import { Segments } from '../../../ui/Segments.tsx';
import frame from '../../../ui/View.module.css';
import { GoOn } from '../GoOn.tsx';
import { LightForm } from './LightForm.tsx';
import css from './LightView.module.css';
import { newestLight, useLightResult } from './use-light.ts';

type On = 'lit' | 'alone' | 'before';

/** AO and a sun in the vertex colours of the project's models. */
export function LightView({ project, live, edit, switcher }: ViewProps & { switcher: ReactNode }) {
  const { light } = project.decisions;
  const [on, setOn] = useState<On>('lit');
  const job = running(project, 'light');
  const failed = failedLast(project, 'light');
  const last = newestLight(project);
  const { data: result } = useLightResult(last?.id);
  const model = useModel(project.survey);
  const models = project.survey?.models ?? [];
  const made = result?.models.find((m) => m.path === models[model]?.path);
  const stale = last !== undefined && last.madeFrom !== project.lightStamp;
  const slots = useMemo(
    () => [...new Set(project.survey?.slots.map((slot) => slot.name) ?? [])].sort(),
    [project.survey],
  );
  const dark = light.ao.strength === 0 && light.sun.strength === 0;
  const file = made && last ? `/api/jobs/${last.id}/files/delivery/${encodeURIComponent(made.file)}` : null;
  const before = modelAddress(project, model, true);
  return (
    <section className={frame.view}>
      <header className={frame.head}>
        <h1>Bake</h1>
        {switcher}
        {last && <p>{stale ? 'Baked, out of date' : 'Baked'}</p>}
        {last && !job && <RemoveResult job={last} edit={edit} />}
        <Button
          tone="main"
          onClick={() => void startDecided(project.id, 'light')}
          disabled={Boolean(job) || dark || models.length === 0}
        >
          Bake the light
        </Button>
      </header>
      <div className={css.body}>
        <aside className={css.panel}>
          <LightForm
            light={light}
            slots={slots}
            change={(label, next) => edit(label, (decisions) => ({ ...decisions, light: next }))}
          />
        </aside>
        <div className={css.middle}>
          {failed && !job && <ErrorLine>{failed.message}</ErrorLine>}
          {job && (
            <div className={css.running}>
              <RunningJob job={job} live={live} />
            </div>
          )}
          {before ? (
            <div className={css.model}>
              <ModelView
                label={on === 'before' || !file ? '3D picture of the original model' : '3D picture of the lit model'}
                url={on !== 'before' && file ? file : before}
                bare={on === 'alone' && file !== null}
              />
            </div>
          ) : (
            <EmptyState title="No model yet">Drop models into the window, or open the demo.</EmptyState>
          )}
          <footer className={css.foot}>
            {models.length > 1 && (
              <Choice
                label="Model"
                value={String(model)}
                options={models.map((model, i) => ({ value: String(i), label: model.path }))}
                onChange={(v) => useSelection.setState({ model: Number(v) })}
              />
            )}
            <Segments
              label="In the picture"
              value={on}
              options={[
                { value: 'lit', label: 'lit' },
                { value: 'alone', label: 'vertex colours alone' },
                { value: 'before', label: 'original' },
              ]}
              onChange={setOn}
            />
            {made ? (
              <p>
                {count(made.vertices)} vertices lit
                {made.severalPlaces > 0 &&
                  ` · ${count(made.severalPlaces)} ${made.severalPlaces === 1 ? 'mesh stands' : 'meshes stand'} at several places and have the light of the first`}
              </p>
            ) : (
              <p>{dark ? 'Give AO or the sun some strength.' : 'Not lit yet: the picture shows the original model.'}</p>
            )}
            {last && made && (
              <div className={css.take}>
                <GoOn job={last.id} of="models with their light" under="lit" />
                <ButtonLink href={`/api/jobs/${last.id}/zip`} download>
                  Download all (ZIP)
                </ButtonLink>
                <ButtonLink href={file ?? ''} download>
                  Download {made.file}, {bytes(made.bytes)}
                </ButtonLink>
              </div>
            )}
          </footer>
        </div>
      </div>
    </section>
  );
}
