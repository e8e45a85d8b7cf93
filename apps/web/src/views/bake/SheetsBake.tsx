import { type ReactNode, useState } from 'react';
import type { ProjectView, ResultView, SheetOutlines } from '../../contract/project.ts';
import { failedLast, newest, newestOfSheet, running, useOneSheet, useOutlines, useResult } from '../../project/api.ts';
import { startDecided } from '../../project/edits.ts';
import { NothingYet } from '../../project/NothingYet.tsx';
import { RemoveResult } from '../../project/RemoveResult.tsx';
import { RunningJob } from '../../project/RunningJob.tsx';
import { useModel } from '../../project/selection.ts';
import { openTexels } from '../../project/texels/open-texels.ts';
import type { ViewProps } from '../../project/view-props.ts';
import { missingIn } from '../../project/view-state.ts';
import { borderOf } from '../../stage/bay.ts';
import { ModelView } from '../../stage/ModelView.tsx';
import { SheetStage } from '../../stage/SheetStage.tsx';
import { Button } from '../../ui/Button.tsx';
import { indexColour, percent } from '../../ui/format.ts';
import { ErrorLine } from '../../ui/Notice.tsx';
import { Segments } from '../../ui/Segments.tsx';
import frame from '../../ui/View.module.css';
import type { TexelKind } from '../../workers/texel-values.ts';
import css from './SheetsBake.module.css';

const MAPS: Record<string, string> = {
  baseColor: 'Base colour',
  orm: 'AO · roughness · metallic',
  normal: 'Normal',
  emissive: 'Emissive',
};

/** The sheet with its islands over the baked maps; proof and final start here, of all sheets or of the one in sight. */
export function SheetsBake(props: ViewProps & { switcher: ReactNode }) {
  const { project, live, forecast, edit, switcher } = props;
  const job = running(project, 'proof', 'final');
  const failed = failedLast(project, 'proof', 'final');
  const [at, setAt] = useState(0);
  const [map, setMap] = useState('baseColor');
  const [islands, setIslands] = useState(true);
  const [lit, setLit] = useState<number | null>(null);
  const [on, setOn] = useState<'lit' | 'map'>('lit');
  const model = useModel(project.survey);

  const { sheets } = project.decisions;
  const decided = sheets[Math.min(at, sheets.length - 1)];
  const last = newestOfSheet(project, decided.id);
  const alone = last?.sheet === decided.id;
  const { data: whole } = useResult(last && !alone ? last : undefined);
  const { data: one } = useOneSheet(alone ? last?.id : undefined);
  const { data: outlines } = useOutlines(last?.id);
  const figures = alone ? one?.sheet : whole?.sheets.find((sheet) => sheet.name === decided.name);
  const sizes = alone ? one?.sizes : whole?.sizes;
  const sheet = outlines?.find((outline) => outline.name === decided.name);
  const complete = newest(project, 'proof', 'final');
  const { data: result } = useResult(complete);

  const start = (kind: 'proof' | 'final', only: string | null = null) => void startDecided(project.id, kind, only);
  const address = (file: string | undefined) =>
    last && file && sizes?.[file] !== undefined ? `/api/jobs/${last.id}/files/delivery/${file}` : null;
  const image = address(figures?.maps[map] ?? figures?.maps.baseColor);
  const showTexels = (kind: string) => {
    const url = address(figures?.maps[kind]);
    if (!url) return;
    openTexels({
      title: `${decided.name}, ${MAPS[kind] ?? kind}`,
      source: { url },
      kind: texelKind(kind),
      placeAt: sheet && figures ? slotAt(sheet, sheet.width / figures.size) : undefined,
    });
  };
  const stale = last && last.madeFrom !== project.stamp;
  const painting = job ? live[job.id]?.preview : undefined;
  const shown = result?.models.find((m) => m.source === project.survey?.models[model]?.file) ?? result?.models[0];
  return (
    <section className={frame.view}>
      <header className={frame.head}>
        <h1>Bake</h1>
        {switcher}
        {last && (
          <p>
            {last.kind === 'final' ? 'Final' : 'Proof'}
            {figures ? `, ${figures.size} px` : ''}
            {stale ? ' · out of date: the plan or a source changed since' : ''}
          </p>
        )}
        {last && !job && <RemoveResult job={last} edit={edit} />}
        <Button onClick={() => start('proof')} disabled={Boolean(job)}>
          Bake a proof
        </Button>
        <Button tone="main" onClick={() => start('final')} disabled={Boolean(job)}>
          Bake the final
        </Button>
      </header>
      <div className={css.body}>
        <div className={css.picture}>
          {sheets.length > 1 && (
            <div className={css.sheets}>
              <Segments
                label="Sheet"
                value={decided.id}
                options={sheets.map((sheet) => ({
                  value: sheet.id,
                  label: `${sheet.name}, ${stateOf(project, sheet.id)}`,
                }))}
                onChange={(id) => setAt(sheets.findIndex((sheet) => sheet.id === id))}
              />
              <Button
                onClick={() => start('proof', decided.id)}
                disabled={Boolean(job) || (forecast?.sheets[sheets.indexOf(decided)]?.slots ?? 0) === 0}
              >
                Proof of {decided.name}
              </Button>
              <Button
                onClick={() => start('final', decided.id)}
                disabled={Boolean(job) || (forecast?.sheets[sheets.indexOf(decided)]?.slots ?? 0) === 0}
              >
                Final of {decided.name}
              </Button>
            </div>
          )}
          {failed && !job && <ErrorLine>{failed.message}</ErrorLine>}
          {job && (painting || sheet) && (
            <div className={css.running}>
              <RunningJob job={job} live={live} />
            </div>
          )}
          {job && painting ? (
            <div className={css.painting}>
              <img src={`/api/jobs/${job.id}/preview?n=${painting.count}`} alt={`${painting.sheet}, baked so far`} />
            </div>
          ) : sheet ? (
            <SheetStage sheet={sheet} image={image} showIslands={islands} lit={lit} onHover={setLit} />
          ) : (
            <NothingYet {...props} view="bake" missing={job ? 'baking' : (missingIn(project, 'result') ?? 'unbaked')} />
          )}
          {figures && (
            <Contacts figures={figures} map={map} address={address} onChoose={setMap} onTexels={showTexels} />
          )}
        </div>
        {sheet && figures && (
          <aside className={css.side}>
            <div className={css.inset}>
              <ModelView
                label={shown ? `3D picture of ${shown.name}` : '3D picture'}
                url={shown && last ? `/api/jobs/${complete.id}/files/delivery/${encodeURIComponent(shown.file)}` : null}
                map={on === 'map' ? image : null}
                mapFor={figures.name}
              />
            </div>
            <Segments
              label="On the model"
              value={on}
              options={[
                { value: 'lit', label: 'all maps, lit' },
                { value: 'map', label: 'this map' },
              ]}
              onChange={setOn}
            />
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
            {result?.faults.map((fault) => (
              <ErrorLine key={fault.code + fault.subject}>
                {fault.subject}: {fault.message}
              </ErrorLine>
            ))}
            <label className={css.check}>
              <input type="checkbox" checked={islands} onChange={(event) => setIslands(event.target.checked)} /> island
              borders
            </label>
            <Legend sheet={sheet} lit={lit} onLit={setLit} />
          </aside>
        )}
      </div>
    </section>
  );
}

/** How far a sheet is, in a word. */
function stateOf(project: ProjectView, sheet: string): string {
  const job = newestOfSheet(project, sheet);
  if (!job) return 'not baked';
  return job.madeFrom === project.stamp ? job.kind : 'out of date';
}

/** All maps of the sheet along the edge; the chosen one is the big picture. */
function Contacts({
  figures,
  map,
  address,
  onChoose,
  onTexels,
}: {
  figures: ResultView['sheets'][number];
  map: string;
  address: (file: string | undefined) => string | null;
  onChoose: (map: string) => void;
  onTexels: (map: string) => void;
}) {
  return (
    <div className={css.maps}>
      <div className={css.contacts} role="radiogroup" aria-label="Map">
        {Object.entries(figures.maps).map(([kind, file]) => {
          const src = address(file);
          return (
            <label key={kind} className={kind === map ? css.chosen : ''}>
              <input type="radio" name="map" checked={kind === map} onChange={() => onChoose(kind)} />
              {src ? <img src={src} alt="" loading="lazy" /> : <span className={css.within}>inside the GLB</span>}
              {MAPS[kind] ?? kind}
            </label>
          );
        })}
      </div>
      <Button disabled={!address(figures.maps[map] ?? figures.maps.baseColor)} onClick={() => onTexels(map)}>
        View texels
      </Button>
    </div>
  );
}

/** What the values of a map mean. */
function texelKind(map: string): TexelKind {
  if (map === 'baseColor' || map === 'emissive') return 'colour';
  return map === 'normal' ? 'normal' : 'data';
}

/** Names the slot at a texel of a map. @param scale px of the sheet a texel of the map */
function slotAt(sheet: SheetOutlines, scale: number): (x: number, y: number) => string | null {
  const context = new OffscreenCanvas(1, 1).getContext('2d');
  const bays = sheet.plots.map((bay) => ({ bay, border: new Path2D(borderOf(bay)) }));
  return (x, y) => {
    const [u, v] = [(x + 0.5) * scale, (y + 0.5) * scale];
    const there = bays.find(({ border }) => context?.isPointInPath(border, u, v, 'evenodd'));
    return there ? `${there.bay.slot} (bay ${there.bay.id + 1})` : null;
  };
}

function Legend({
  sheet,
  lit,
  onLit,
}: {
  sheet: SheetOutlines;
  lit: number | null;
  onLit: (m: number | null) => void;
}) {
  const rows = new Map<number, { slot: string; plots: number; stacked: number }>();
  for (const plot of sheet.plots) {
    const row = rows.get(plot.material) ?? { slot: plot.slot, plots: 0, stacked: 0 };
    row.plots++;
    row.stacked += plot.stacked - 1;
    rows.set(plot.material, row);
  }
  return (
    <ul className={css.legend}>
      {[...rows].map(([m, row]) => (
        <li
          key={m}
          className={lit === m ? css.lit : ''}
          onPointerEnter={() => onLit(m)}
          onPointerLeave={() => onLit(null)}
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
  );
}
