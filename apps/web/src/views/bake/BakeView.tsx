import { useState } from 'react';
import { SheetStage } from '../../stage/SheetStage.tsx';
import { Button } from '../../ui/Button.tsx';
import { indexColour, percent } from '../../ui/format.ts';
import { EmptyState, ErrorLine } from '../../ui/Notice.tsx';
import { Progress } from '../../ui/Progress.tsx';
import frame from '../../ui/View.module.css';
import { cancelJob, failedLast, newest, running, startJob, useOutlines, useResult } from '../workbench/api.ts';
import type { ViewProps } from '../workbench/Workbench.tsx';
import css from './BakeView.module.css';

const MAPS: Record<string, string> = {
  baseColor: 'Base colour',
  orm: 'AO · roughness · metallic',
  normal: 'Normal',
  emissive: 'Emissive',
};

/** The sheet with its islands over the baked maps; proof and final start here. */
export function BakeView({ project, live }: ViewProps) {
  const last = newest(project, 'proof', 'final');
  const job = running(project, 'proof', 'final');
  const failed = failedLast(project, 'proof', 'final');
  const { data: result } = useResult(last?.id);
  const { data: outlines } = useOutlines(last?.id);
  const [sheetIndex, setSheet] = useState(0);
  const [map, setMap] = useState('baseColor');
  const [islands, setIslands] = useState(true);
  const [lit, setLit] = useState<number | null>(null);
  const [problem, setProblem] = useState<string | null>(null);

  const start = (kind: 'proof' | 'final') =>
    startJob(project.id, kind).then(
      () => setProblem(null),
      (e: Error) => setProblem(e.message),
    );
  const index = Math.min(sheetIndex, Math.max(0, (outlines?.length ?? 1) - 1));
  const sheet = outlines?.[index];
  const figures = result?.sheets[index];
  const file = figures?.maps[map] ?? figures?.maps.baseColor;
  const embedded = file !== undefined && result?.sizes[file] === undefined;
  const image = last && file && !embedded ? `/api/jobs/${last.id}/files/delivery/${file}` : null;
  const stale = last && last.madeFrom !== project.stamp;
  const legend = new Map<number, { slot: string; plots: number; stacked: number }>();
  for (const p of sheet?.plots ?? []) {
    const row = legend.get(p.material) ?? { slot: p.slot, plots: 0, stacked: 0 };
    row.plots++;
    row.stacked += p.stacked - 1;
    legend.set(p.material, row);
  }
  return (
    <section className={frame.view}>
      <header className={frame.head}>
        <h1>Bake</h1>
        {last && (
          <p>
            {last.kind === 'final' ? 'Final' : 'Proof'}
            {figures ? `, ${figures.size} px` : ''}
            {stale ? ' · out of date: the plan or a source changed since' : ''}
          </p>
        )}
        <Button onClick={() => void start('proof')} disabled={Boolean(job)}>
          Bake a proof
        </Button>
        <Button tone="main" onClick={() => void start('final')} disabled={Boolean(job)}>
          Bake the final
        </Button>
      </header>
      <div className={css.body}>
        <div className={css.picture}>
          {(problem ?? (failed && !job)) && <ErrorLine>{problem ?? failed?.message}</ErrorLine>}
          {job && (
            <div className={css.running}>
              <Progress
                share={live[job.id]?.share ?? job.share}
                doing={live[job.id]?.doing ?? job.doing}
                left={live[job.id]?.left ?? job.left}
                onCancel={() => void cancelJob(job.id)}
              />
            </div>
          )}
          {sheet ? (
            <SheetStage sheet={sheet} image={image} showIslands={islands} lit={lit} onHover={setLit} />
          ) : (
            <EmptyState title={job ? 'Baking …' : 'Nothing baked yet'}>
              {job
                ? 'The sheet appears here when it is done.'
                : 'A proof is baked at a quarter of the side and shows the same layout as the final.'}
            </EmptyState>
          )}
        </div>
        {sheet && figures && (
          <aside className={css.side}>
            {outlines && outlines.length > 1 && (
              <fieldset className={css.set}>
                <legend>Sheet</legend>
                {outlines.map((o, i) => (
                  <label key={o.name}>
                    <input type="radio" name="sheet" checked={i === index} onChange={() => setSheet(i)} /> {o.name}
                  </label>
                ))}
              </fieldset>
            )}
            <fieldset className={css.set}>
              <legend>Map</legend>
              {Object.keys(figures.maps).map((m) => (
                <label key={m}>
                  <input type="radio" name="map" checked={m === map} onChange={() => setMap(m)} /> {MAPS[m] ?? m}
                </label>
              ))}
              <label>
                <input type="checkbox" checked={islands} onChange={(e) => setIslands(e.target.checked)} /> Island
                borders
              </label>
            </fieldset>
            <dl className={css.facts}>
              <dt>Coverage</dt>
              <dd>{percent(figures.coverage, 1)}</dd>
              <dt>Sharpness of the sources</dt>
              <dd>{percent(figures.scale)}</dd>
              <dt>Mips protected</dt>
              <dd>{figures.protectedMip < 0 ? 'none' : `0 to ${figures.protectedMip}`}</dd>
              <dt>Margin</dt>
              <dd>{sheet.margin} px</dd>
            </dl>
            {result?.faults.map((f) => (
              <ErrorLine key={f.code + f.subject}>
                {f.subject}: {f.message}
              </ErrorLine>
            ))}
            <ul className={css.legend}>
              {[...legend].map(([m, row]) => (
                <li
                  key={m}
                  className={lit === m ? css.lit : ''}
                  onPointerEnter={() => setLit(m)}
                  onPointerLeave={() => setLit(null)}
                >
                  <span style={{ background: indexColour(m) }}>{m + 1}</span>
                  {row.slot}
                  <em>
                    {row.plots} {row.plots === 1 ? 'bay' : 'bays'}
                    {row.stacked > 0 ? `, ${row.stacked} stacked` : ''}
                  </em>
                </li>
              ))}
            </ul>
          </aside>
        )}
      </div>
    </section>
  );
}
