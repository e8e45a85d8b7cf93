import type { JobView, ResultView } from '../../contract/project.ts';
import { newest, running, useResult } from '../../project/api.ts';
import { byReason } from '../../project/by-reason.ts';
import { startDecided } from '../../project/edits.ts';
import { NothingYet } from '../../project/NothingYet.tsx';
import type { ViewProps } from '../../project/view-props.ts';
import { missingIn } from '../../project/view-state.ts';
import { Button, ButtonLink } from '../../ui/Button.tsx';
import { Check } from '../../ui/Field.tsx';
import { bytes, count } from '../../ui/format.ts';
import frame from '../../ui/View.module.css';
import { CollisionChoice } from './CollisionChoice.tsx';
import { CopiesChoice } from './CopiesChoice.tsx';
import { deliveryChecks } from './delivery-checks.ts';
import { Files } from './Files.tsx';
import { expectedSizes } from './files-of.ts';
import css from './HandOverView.module.css';
import { Pictures } from './Pictures.tsx';
import { Profiles } from './Profiles.tsx';
import { SharingMatrix } from './SharingMatrix.tsx';
import { TrialPanel } from './TrialPanel.tsx';
import { useTrial } from './use-trial.ts';
import { verdictOf } from './verdict.ts';

/** The exact files of the delivery, who shares what, what was checked, and the ZIP. */
export function HandOverView(props: ViewProps) {
  const { project } = props;
  const final = newest(project, 'final');
  const shown = final?.madeFrom === project.stamp ? final : (newest(project, 'proof', 'final') ?? final);
  const { data: result } = useResult(shown);
  if (!shown || !result)
    return (
      <section className={frame.view}>
        <header className={frame.head}>
          <h1>Hand over</h1>
        </header>
        <NothingYet {...props} view="handover" missing={missingIn(project, 'result') ?? 'baking'} />
      </section>
    );
  return <Delivered {...props} shown={shown} result={result} />;
}

function Delivered({ project, edit, shown, result }: ViewProps & { shown: JobView; result: ResultView }) {
  const busy = running(project, 'proof', 'final');
  const bake = (
    <Button
      tone="main"
      disabled={Boolean(busy)}
      title={busy ? 'Wait until the running bake has ended' : undefined}
      onClick={() => void startDecided(project.id, 'final')}
    >
      Bake the final
    </Button>
  );
  const proof = shown.kind === 'proof';
  const stale = shown.madeFrom !== project.stamp;
  const sizes = expectedSizes(result, proof);
  const total = Object.values(sizes).reduce((sum, s) => sum + s, 0);
  const trial = useTrial(proof ? null : shown.id);
  const checks = deliveryChecks(result, {
    proof,
    comparing: shown.comparing,
    decisions: project.decisions,
    trial: proof ? null : { loaded: trial.data, error: trial.error?.message ?? null },
  });
  const verdict = verdictOf(checks, { proof, stale });
  return (
    <section className={frame.view}>
      <header className={frame.head}>
        <h1>Hand over</h1>
        <p>
          {count(result.written.length)} files, {proof ? 'about ' : ''}
          {bytes(total)}
          {proof ? ' · expected, from the proof' : ''}
          {stale ? ' · out of date: the plan or a source changed since' : ''}
        </p>
        {proof || stale ? bake : null}
        {!proof && (
          <ButtonLink tone={stale ? 'plain' : 'main'} href={`/api/jobs/${shown.id}/zip`} download>
            Download as ZIP
          </ButtonLink>
        )}
      </header>
      <div className={`${frame.body} ${css.body}`}>
        <p className={`${css.verdict} ${css[verdict.tone]}`} role="status">
          <b>{verdict.title}</b> {verdict.text}
        </p>
        <div className={css.column}>
          {!proof && <Pictures job={shown.id} result={result} />}
          <Files result={result} sizes={sizes} proof={proof} />
          <SharingMatrix result={result} />
        </div>
        <div className={css.column}>
          <section>
            <h2>Checked</h2>
            <table>
              <tbody>
                {checks.map(([k, v, good]) => (
                  <tr key={k}>
                    <td>
                      <span className={good === null ? css.open : good ? css.ok : css.bad}>
                        {good === null ? '–' : good ? '✓' : '✗'}
                      </span>
                      {k}
                    </td>
                    <td className={css.said}>{v}</td>
                  </tr>
                ))}
              </tbody>
            </table>
          </section>
          {!proof && trial.data && <TrialPanel job={shown.id} after={result.after} trial={trial.data} />}
          <Profiles decisions={project.decisions} edit={edit} />
          <CopiesChoice copies={project.decisions.modelCopies} edit={edit} />
          <CollisionChoice collision={project.decisions.collision} edit={edit} />
          {result.models.length > 1 && (
            <section>
              <h2>Names</h2>
              <Check
                label="One name for materials that look the same"
                note="So that an engine takes one material for all models."
                checked={project.decisions.sameNames}
                onChange={(sameNames) =>
                  edit(sameNames ? 'One name for identical materials' : 'Own names of materials', (now) => ({
                    ...now,
                    sameNames,
                  }))
                }
              />
            </section>
          )}
          <section>
            <h2>Kept apart</h2>
            {result.keptApart.length === 0 && <p className={css.none}>Every slot was merged.</p>}
            <table>
              <tbody>
                {byReason(result.keptApart).map(({ reason, entries }) => (
                  <tr key={reason}>
                    <td>{entries.map((k) => k.slot).join(', ')}</td>
                    <td className={css.reason}>{reason}</td>
                  </tr>
                ))}
              </tbody>
            </table>
          </section>
          <section>
            <h2>Time, by stage</h2>
            <table>
              <tbody>
                {Object.entries(result.seconds).map(([k, v]) => (
                  <tr key={k}>
                    <td>{k}</td>
                    <td>{v.toFixed(2)} s</td>
                  </tr>
                ))}
              </tbody>
            </table>
          </section>
        </div>
      </div>
    </section>
  );
}
