import { standInOf, withStandIn } from '@wembrel/core/decisions/stand-in';
import { type ReactNode, useMemo, useState } from 'react';
import type { JobKind } from '../../../contract/project.ts';
import { startDecided } from '../../../project/edits.ts';
import { modelAddress } from '../../../project/model-address.ts';
import { RemoveResult } from '../../../project/RemoveResult.tsx';
import { RunningJob } from '../../../project/RunningJob.tsx';
import { useModel, useSelection } from '../../../project/selection.ts';
import type { ViewProps } from '../../../project/view-props.ts';
import { Button, ButtonLink } from '../../../ui/Button.tsx';
import { Choice } from '../../../ui/Field.tsx';
import { count } from '../../../ui/format.ts';
import { EmptyState, ErrorLine } from '../../../ui/Notice.tsx';
import frame from '../../../ui/View.module.css';
import { GoOn } from '../GoOn.tsx';
import { StandInFigures } from './StandInFigures.tsx';
import { StandInForm } from './StandInForm.tsx';
import { StandInPicture } from './StandInPicture.tsx';
import css from './StandInView.module.css';
import { isOutdated, levelAt, standInJobs, useStandInResult } from './use-stand-in.ts';

/** One light model for a heavy one: how it is made, what came of it, and how far away it can be told apart. */
export function StandInView({ project, live, edit, switcher }: ViewProps & { switcher: ReactNode }) {
  const model = useModel(project.survey);
  const models = project.survey?.models ?? [];
  const path = models[model]?.path ?? '';
  const spec = standInOf(project.decisions.standIns, path);
  const jobs = standInJobs(project, path);
  const { data: result } = useStandInResult(jobs.last?.id);
  const [metres, setMetres] = useState<number | null>(null);
  const [fixed, setFixed] = useState<number | null>(null);
  const lods = result?.model.lods ?? [];
  const level = Math.min(fixed ?? levelAt(lods, metres ?? 0), Math.max(0, lods.length - 1));
  const outdated = jobs.last && result && isOutdated(project.standInStamp, jobs.last, result.spec, spec);
  const triangles = project.survey?.files.find((file) => file.path === path)?.triangles ?? 0;
  const slots = useMemo(
    () => project.survey?.slots.flatMap((slot) => (slot.model === model ? [slot.name] : [])) ?? [],
    [project.survey, model],
  );
  const start = (kind: JobKind) => void startDecided(project.id, kind, path);
  const files = jobs.last && `/api/jobs/${jobs.last.id}`;
  const made = files && lods[level] ? `${files}/files/delivery/${encodeURIComponent(lods[level].path)}` : null;
  return (
    <section className={frame.view}>
      <header className={frame.head}>
        <h1>Bake</h1>
        {switcher}
        {jobs.last && result && <p>{outdated ? 'Made, out of date' : result.proof ? 'Proof' : 'Made'}</p>}
        {jobs.last && !jobs.running && <RemoveResult job={jobs.last} edit={edit} />}
        <Button onClick={() => start('stand-in-proof')} disabled={Boolean(jobs.running) || path === ''}>
          Proof
        </Button>
        <Button tone="main" onClick={() => start('stand-in-final')} disabled={Boolean(jobs.running) || path === ''}>
          Make the stand-in
        </Button>
      </header>
      <div className={css.body}>
        <aside className={css.panel}>
          {models.length > 1 && (
            <Choice
              label="Model"
              value={String(model)}
              options={models.map((one, i) => ({ value: String(i), label: one.path }))}
              onChange={(v) => {
                setFixed(null);
                useSelection.setState({ model: Number(v) });
              }}
            />
          )}
          <StandInForm
            spec={spec}
            triangles={triangles}
            slots={slots}
            change={(label, part) =>
              edit(label, (decisions) => ({
                ...decisions,
                standIns: withStandIn(decisions.standIns, path, { ...standInOf(decisions.standIns, path), ...part }),
              }))
            }
          />
        </aside>
        <div className={css.middle}>
          {jobs.failed && !jobs.running && <ErrorLine>{jobs.failed.message}</ErrorLine>}
          {jobs.running && (
            <div className={css.running}>
              <RunningJob job={jobs.running} live={live} />
            </div>
          )}
          {path === '' ? (
            <EmptyState title="No model yet">Drop models into the window, or open the demo.</EmptyState>
          ) : (
            <StandInPicture
              key={path}
              source={modelAddress(project, model, true)}
              made={made}
              title={
                result?.proof
                  ? 'Proof'
                  : lods.length > 1
                    ? `Stand-in, ${lods[level].card ? 'card' : `level ${level === 0 ? 'full' : level}`}`
                    : 'Stand-in'
              }
              metres={metres}
              onDistance={(m) => {
                setMetres(m);
                setFixed(null);
              }}
            />
          )}
        </div>
        <aside className={css.side}>
          {result && jobs.last ? (
            <>
              <div className={css.figures}>
                <StandInFigures result={result} level={level} onLevel={setFixed} />
              </div>
              <div className={css.take}>
                <ButtonLink href={`${files}/zip`} download tone="main">
                  Download (ZIP)
                </ButtonLink>
                <GoOn job={jobs.last.id} of="stand-in" under="stand-ins" />
              </div>
            </>
          ) : (
            <NotMade triangles={triangles} />
          )}
        </aside>
      </div>
    </section>
  );
}

/** What stands where figures will: what the step does. */
function NotMade({ triangles }: { triangles: number }) {
  return (
    <div className={css.before}>
      <h2>Not made yet</h2>
      <p>
        {triangles > 0 && `${count(triangles)} triangles become one light model with one slot. `}
        Its shape is reduced or wrapped, unwrapped and packed; base colour, normals, roughness, metallic, occlusion and
        what glows are baked across; lighter levels share the same sheet.
      </p>
      <p>A proof takes a quarter of the sheet’s size, and no levels. The source stays as it is.</p>
    </div>
  );
}
