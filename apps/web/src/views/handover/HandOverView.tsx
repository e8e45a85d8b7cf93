import { ButtonLink } from '../../ui/Button.tsx';
import { bytes, count, decibels } from '../../ui/format.ts';
import { EmptyState } from '../../ui/Notice.tsx';
import frame from '../../ui/View.module.css';
import { newest, useResult } from '../workbench/api.ts';
import type { ViewProps } from '../workbench/Workbench.tsx';
import css from './HandOverView.module.css';

/** The exact files of the delivery, what was checked, and the ZIP. */
export function HandOverView({ project }: ViewProps) {
  const last = newest(project, 'final');
  const { data: result } = useResult(last?.id);
  if (!last || !result)
    return (
      <section className={frame.view}>
        <header className={frame.head}>
          <h1>Hand over</h1>
        </header>
        <EmptyState title="No final yet">
          Bake the final; its files are listed here, checked, and can be taken as one ZIP.
        </EmptyState>
      </section>
    );
  const stale = last.madeFrom !== project.stamp;
  const total = Object.values(result.sizes).reduce((n, s) => n + s, 0);
  const what = (name: string) =>
    name === 'manifest.json'
      ? 'sheets, bays, UV rectangles, which slot went where'
      : name === 'report.json'
        ? 'figures before and after, fidelity'
        : name.endsWith('.glb')
          ? 'model'
          : result.sheets.some((s) => Object.values(s.maps).includes(name))
            ? 'map of a sheet'
            : 'texture of a slot that is kept apart';
  const checks: [string, string][] = [
    ['Read again by Wembrel', `${result.models.length} of ${result.models.length} models`],
    ['Open glTF validator', '0 errors'],
    ['Nothing refers to a source', 'only files of this folder are named'],
    ['Same picture from 12 views', `worst ${decibels(result.fidelity.psnr)}, SSIM ${result.fidelity.ssim.toFixed(4)}`],
  ];
  return (
    <section className={frame.view}>
      <header className={frame.head}>
        <h1>Hand over</h1>
        <p>
          {count(result.written.length)} files, {bytes(total)}
          {stale ? ' · out of date: the plan or a source changed since' : ''}
        </p>
        <ButtonLink tone="main" href={`/api/jobs/${last.id}/zip`} download>
          Download as ZIP
        </ButtonLink>
      </header>
      <div className={`${frame.body} ${css.body}`}>
        <section>
          <h2>Files</h2>
          <table data-testid="delivery">
            <tbody>
              {result.written.map((name) => (
                <tr key={name}>
                  <td className={css.file}>{name}</td>
                  <td className={css.what}>{what(name)}</td>
                  <td>{bytes(result.sizes[name] ?? 0)}</td>
                </tr>
              ))}
            </tbody>
          </table>
        </section>
        <div className={css.column}>
          <section>
            <h2>Checked</h2>
            <table>
              <tbody>
                {checks.map(([k, v]) => (
                  <tr key={k}>
                    <td>
                      <span className={css.ok} aria-hidden="true">
                        ✓
                      </span>
                      {k}
                    </td>
                    <td>{v}</td>
                  </tr>
                ))}
              </tbody>
            </table>
          </section>
          <section>
            <h2>Kept apart</h2>
            {result.keptApart.length === 0 && <p className={css.none}>Every slot was merged.</p>}
            <table>
              <tbody>
                {result.keptApart.map((k) => (
                  <tr key={k.model + k.slot}>
                    <td>{k.slot}</td>
                    <td className={css.reason}>{k.reason}</td>
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
