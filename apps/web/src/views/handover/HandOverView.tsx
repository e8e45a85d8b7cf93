import { isWorse } from '@wembrel/core/compare/fidelity';
import type { MergeDecisions, ResultView } from '../../contract/project.ts';
import { newest, running, useResult } from '../../project/api.ts';
import { byReason } from '../../project/by-reason.ts';
import { startDecided } from '../../project/edits.ts';
import { NothingYet } from '../../project/NothingYet.tsx';
import type { ViewProps } from '../../project/view-props.ts';
import { missingIn } from '../../project/view-state.ts';
import { Button, ButtonLink } from '../../ui/Button.tsx';
import { Check } from '../../ui/Field.tsx';
import { bytes, count, counted, decibels } from '../../ui/format.ts';
import frame from '../../ui/View.module.css';
import css from './HandOverView.module.css';
import { Pictures } from './Pictures.tsx';
import { Profiles } from './Profiles.tsx';
import { SharingMatrix } from './SharingMatrix.tsx';
import { type DeliveryCheck, verdictOf } from './verdict.ts';

/** Whether a file was written for a profile. */
const isOfProfile = (name: string): boolean => name.startsWith('profiles/');

/** What a proof says of the final: maps have sixteen times its texels, all else is the same. */
function expected(result: ResultView, proof: boolean): Record<string, number> {
  const maps = new Set(result.sheets.flatMap((sheet) => Object.values(sheet.maps)));
  return Object.fromEntries(
    Object.entries(result.sizes).map(([name, size]) => [
      name,
      proof && (maps.has(name) || isOfProfile(name)) ? size * 16 : size,
    ]),
  );
}

/** The exact files of the delivery, who shares what, what was checked, and the ZIP. */
export function HandOverView(props: ViewProps) {
  const { project } = props;
  const final = newest(project, 'final');
  const shown = final?.madeFrom === project.stamp ? final : (newest(project, 'proof', 'final') ?? final);
  const { data: result } = useResult(shown);
  const busy = running(project, 'proof', 'final');
  const bake = (
    <Button tone="main" disabled={Boolean(busy)} onClick={() => void startDecided(project.id, 'final')}>
      Bake the final
    </Button>
  );
  if (!shown || !result)
    return (
      <section className={frame.view}>
        <header className={frame.head}>
          <h1>Hand over</h1>
        </header>
        <NothingYet {...props} view="handover" missing={missingIn(project, 'result') ?? 'baking'} />
      </section>
    );
  const proof = shown.kind === 'proof';
  const stale = shown.madeFrom !== project.stamp;
  const sizes = expected(result, proof);
  const total = Object.values(sizes).reduce((sum, s) => sum + s, 0);
  const what = (name: string) =>
    name === 'manifest.json'
      ? 'sheets, bays, UV rectangles, which slot went where'
      : name === 'report.json'
        ? 'figures before and after'
        : name === 'fidelity.json'
          ? 'fidelity of the 12 views'
          : name.endsWith('.glb')
            ? 'model'
            : isOfProfile(name)
              ? 'image of a profile'
              : result.sheets.some((sheet) => Object.values(sheet.maps).includes(name))
                ? 'map of a sheet'
                : 'texture of a slot that is kept apart';
  const named = new Set(Object.values(result.uses).flat());
  const lost = [...named].filter((u) => result.sizes[u] === undefined);
  const reread = result.after.files - result.after.failed;
  const distinct = new Set(result.written.map((name) => name.toLowerCase())).size;
  // What is invalid for any other reason is not delivered.
  const invalid = new Set(result.faults.flatMap((fault) => (fault.code === INVALID_SOURCE ? [fault.subject] : [])))
    .size;
  const likeness = likenessCheck(result.fidelity, proof, shown.comparing);
  const checks: DeliveryCheck[] = [
    ['Read back', `${reread} of ${result.models.length} models`, reread === result.models.length],
    [
      'Open glTF validator',
      invalid === 0 ? 'no errors' : `${invalid} of ${result.models.length} with errors that the source has too`,
      invalid === 0,
    ],
    [
      'Nothing refers to a source',
      lost.length === 0 ? `${counted(named.size, 'texture')}, all in this folder` : `missing: ${lost.join(', ')}`,
      lost.length === 0,
    ],
    ['Every file has a name of its own', `${distinct} of ${result.written.length}`, distinct === result.written.length],
    ...namesCheck(result.faults, project.decisions),
    likeness,
  ];
  const verdict = verdictOf(checks, { proof, stale });
  const folders = new Map<string, string[]>();
  for (const name of result.written) {
    const cut = name.lastIndexOf('/');
    const folder = cut < 0 ? '' : name.slice(0, cut + 1);
    folders.set(folder, [...(folders.get(folder) ?? []), name]);
  }
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
          <section>
            <h2>Files</h2>
            <table data-testid="delivery" className={proof ? css.expected : ''}>
              <tbody>
                {[...folders].map(([folder, names]) => [
                  folder && (
                    <tr key={folder}>
                      <td className={css.file} colSpan={3}>
                        {folder}
                      </td>
                    </tr>
                  ),
                  ...names.map((name) => (
                    <tr key={name}>
                      <td className={`${css.file} ${folder ? css.inside : ''}`}>{name.slice(folder.length)}</td>
                      <td className={css.what}>{what(name)}</td>
                      <td
                        className={css.size}
                      >{`${proof && sizes[name] !== result.sizes[name] ? '≈ ' : ''}${bytes(sizes[name] ?? 0)}`}</td>
                    </tr>
                  )),
                ])}
              </tbody>
            </table>
          </section>
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
          <Profiles decisions={project.decisions} edit={props.edit} />
          {result.models.length > 1 && (
            <section>
              <h2>Names</h2>
              <Check
                label="One name for materials that look the same"
                note="So that an engine takes one material for all models."
                checked={project.decisions.sameNames}
                onChange={(sameNames) =>
                  props.edit(sameNames ? 'One name for identical materials' : 'Own names of materials', (now) => ({
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

/** Whether the names that are required have come out, when any are. */
function namesCheck(faults: { code: string; message: string }[], decisions: MergeDecisions): DeliveryCheck[] {
  if (decisions.requiredNames.length + decisions.requiredTextures.length === 0) return [];
  const wrong = faults.filter((fault) => fault.code === 'required name').map((fault) => fault.message);
  const said =
    wrong.length === 0
      ? 'these and no others'
      : wrong.length === 1
        ? wrong[0]
        : `${wrong.length} wrong: ${wrong[0]}, …`;
  return [['Required names', said, wrong.length === 0]];
}

/** Code of the fault of a model that is invalid since its source is; see `Fault`. */
const INVALID_SOURCE = 'invalid source';

/** Whether the result looks like its original, as one of the checks; null: not to be judged. */
function likenessCheck(fidelity: ResultView['fidelity'], proof: boolean, comparing: boolean): DeliveryCheck {
  const name = 'Fidelity, 12 views';
  if (!fidelity) return [name, comparing ? 'being compared; the files are complete' : 'not compared', null];
  const { psnr, ssim, distances } = fidelity;
  if (proof) return [name, `the final decides; the proof's worst is ${decibels(psnr)}`, null];
  const worse = distances.filter(isWorse).map(({ distance }) => `${distance} ×`);
  const said =
    worse.length > 0 ? `: not as good as the original at ${worse.join(' and ')} the distance, look at Compare` : '';
  return [name, `worst ${decibels(psnr)}, SSIM ${ssim.toFixed(4)}${said}`, worse.length === 0];
}
