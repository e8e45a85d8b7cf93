import type { RayFault } from '@wembrel/core/rays/fault-kinds';
import type { MapKind } from '@wembrel/core/rays/map-kinds';
import { pairing } from '@wembrel/core/rays/pairings';
import type { PairingDecision, RayDecisions } from '@wembrel/core/rays/ray-decisions';
import { type ReactNode, useMemo, useState } from 'react';
import type { ProjectView, RaySheetView, Region } from '../../../contract/project.ts';
import { ModelView } from '../../../stage/ModelView.tsx';
import { SheetStage } from '../../../stage/SheetStage.tsx';
import { Button, ButtonLink } from '../../../ui/Button.tsx';
import { bytes, count } from '../../../ui/format.ts';
import { EmptyState, ErrorLine } from '../../../ui/Notice.tsx';
import { Segments } from '../../../ui/Segments.tsx';
import frame from '../../../ui/View.module.css';
import { failedLast, running } from '../../workbench/api.ts';
import { startDecided } from '../../workbench/edits.ts';
import { modelAddress } from '../../workbench/model-address.ts';
import { RunningJob } from '../../workbench/RunningJob.tsx';
import type { ViewProps } from '../../workbench/Workbench.tsx';
import { DistanceChart } from './DistanceChart.tsx';
import { FaultList } from './FaultList.tsx';
import { MAP_TITLES } from './map-titles.ts';
import { PairingList } from './PairingList.tsx';
import { freshName, pairedByNames, pairedByPlace, projectBodies, unpaired } from './pairing-bodies.ts';
import css from './RaysView.module.css';
import { RecipeForm } from './RecipeForm.tsx';
import { SectionPicture } from './SectionPicture.tsx';
import { newestRays, useRayResult, useReaches, useSection } from './use-rays.ts';

type Tab = 'pairings' | 'recipe' | 'faults';
type On = 'lit' | 'map' | 'high';
type JobWanted = 'ray-proof' | 'ray-final' | 'ray-reaches';

/** The section through high-poly and low-poly over the histogram of distances; map and model beside it, maps along the edge. */
export function RaysView({ project, live, edit, switcher }: ViewProps & { switcher: ReactNode }) {
  const { rays } = project.decisions;
  const [tab, setTab] = useState<Tab>('pairings');
  const [open, setOpen] = useState(0);
  const [map, setMap] = useState<MapKind>('normal');
  const [on, setOn] = useState<On>('lit');
  /** Shares of the sheet, so that a final shows the place that was picked on its proof. */
  const [picked, setPicked] = useState<readonly [number, number] | null>(null);
  const [turn, setTurn] = useState(0);
  const [fault, setFault] = useState<RayFault | null>(null);
  const [marks, setMarks] = useState(true);
  const [sun, setSun] = useState<number | null>(null);

  const job = running(project, 'ray-proof', 'ray-final', 'ray-reaches');
  const failed = failedLast(project, 'ray-proof', 'ray-final', 'ray-reaches');
  const chosen = rays.pairings[Math.min(open, rays.pairings.length - 1)];
  const last = newestRays(project, chosen?.name ?? null);
  const { data: result } = useRayResult(last?.id);
  const { data: reaches } = useReaches(project);
  const stale = last !== undefined && last.madeFrom !== project.rayStamp;
  const bodies = useMemo(() => projectBodies(project.survey), [project.survey]);
  const alone = useMemo(() => unpaired(bodies, rays.pairings), [bodies, rays.pairings]);
  const byNames = useMemo(() => pairedByNames(bodies, rays), [bodies, rays]);
  const byPlace = useMemo(() => pairedByPlace(bodies, rays), [bodies, rays]);
  const baked = useMemo(
    () => new Map(result?.sheets.flatMap((s) => s.pairings.map((p) => [p.name, p] as const))),
    [result],
  );
  const sheetAt = Math.max(0, result?.sheets.findIndex((s) => s.pairings.some((p) => p.name === chosen?.name)) ?? 0);
  const sheet = result?.sheets[sheetAt];
  const faults = useMemo(() => result?.sheets.flatMap((s) => s.faults) ?? [], [result]);
  const figures = chosen && baked.get(chosen.name);

  // Something to look at as soon as there is a bake: what stands out most.
  const size = sheet?.size ?? 1;
  const spot = picked ?? sheet?.spot ?? null;
  const at = useMemo(() => spot && ([spot[0] * size, spot[1] * size] as const), [spot, size]);
  const { data: section } = useSection(last?.id, sheetAt, at, turn);

  const change = (label: string, next: Partial<RayDecisions>) =>
    edit(label, (d) => ({ ...d, rays: { ...d.rays, ...next } }));
  const changePairing = (label: string, i: number, next: PairingDecision) =>
    edit(label, (d) => ({
      ...d,
      rays: { ...d.rays, pairings: d.rays.pairings.map((p, k) => (k === i ? next : p)) },
    }));
  const addPairings = (label: string, list: PairingDecision[]) => {
    const all = [...rays.pairings];
    for (const p of list) all.push({ ...p, name: freshName(p.name, all) });
    change(label, { pairings: all });
  };
  const start = (kind: JobWanted, only: string | null = null, region: Region = null) =>
    void startDecided(project.id, kind, only, region);
  const file = (name: string) => `/api/jobs/${last?.id}/files/${name}`;
  const shown = sheet?.maps.find((m) => m.kind === map) ?? sheet?.maps[0];
  const ready = rays.pairings.some((p) => p.high.length > 0 && p.low.length > 0);
  const painting = job ? live[job.id]?.preview : undefined;
  return (
    <section className={frame.view}>
      <header className={frame.head}>
        <h1>Bake</h1>
        {switcher}
        {last && (
          <p
            title={
              result
                ? `${count(result.rays / 1e6)} million rays, ${(result.raysPerSecond / 1e6).toFixed(1)} million a second`
                : undefined
            }
          >
            {last.kind === 'ray-final' ? 'Final' : last.region ? 'Part of the final' : 'Proof'}
            {sheet ? `, ${sheet.size} px` : ''}
            {stale ? ' · out of date' : ''}
          </p>
        )}
        <Button onClick={() => start('ray-reaches')} disabled={Boolean(job) || !ready}>
          Find reaches
        </Button>
        <Button onClick={() => start('ray-proof')} disabled={Boolean(job) || !ready}>
          Bake a proof
        </Button>
        <Button tone="main" onClick={() => start('ray-final')} disabled={Boolean(job) || !ready}>
          Bake the final
        </Button>
      </header>
      <div className={css.body}>
        <aside className={css.panel}>
          <Segments
            label="Panel"
            value={tab}
            options={[
              { value: 'pairings', label: `Pairings ${rays.pairings.length || ''}` },
              { value: 'recipe', label: 'Maps' },
              { value: 'faults', label: `Faults ${faults.length || ''}` },
            ]}
            onChange={setTab}
          />
          <div className={css.scroll}>
            {tab === 'pairings' && (
              <PairingList
                pairings={rays.pairings}
                bodies={bodies}
                alone={alone}
                baked={baked}
                stale={stale}
                reaches={reaches}
                chosen={open}
                choose={(i) => {
                  setOpen(i);
                  setPicked(null);
                }}
                change={changePairing}
                remove={(i) =>
                  change(`Take ${rays.pairings[i].name} apart`, { pairings: rays.pairings.filter((_, k) => k !== i) })
                }
                prove={job ? null : (name) => start('ray-proof', name)}
                make={() => addPairings('New pairing', [pairing('pairing', [], [])])}
                byNames={byNames.length > 0 ? () => addPairings(`Pair ${byNames.length} by names`, byNames) : null}
                byPlace={byPlace.length > 0 ? () => addPairings(`Pair ${byPlace.length} by place`, byPlace) : null}
              />
            )}
            {tab === 'recipe' && (
              <RecipeForm recipe={rays.recipe} change={(label, recipe) => change(label, { recipe })} />
            )}
            {tab === 'faults' &&
              (result ? (
                <FaultList
                  faults={faults}
                  chosen={fault}
                  onChoose={(f) => {
                    setFault(f === fault ? null : f);
                    const of = result.sheets.find((s) => s.faults.includes(f))?.size ?? 1;
                    setPicked([f.sheet[0] / of, f.sheet[1] / of]);
                    setOpen(rays.pairings.findIndex((p) => p.name === f.pairing));
                  }}
                />
              ) : (
                <p className={css.hint}>Faults are found by a proof or a final.</p>
              ))}
          </div>
        </aside>
        <div className={css.middle}>
          {failed && !job && <ErrorLine>{failed.message}</ErrorLine>}
          {job && <RunningJob job={job} live={live} />}
          {job && painting ? (
            <div className={css.painting}>
              <img src={`/api/jobs/${job.id}/preview?n=${painting.count}`} alt="what is baked so far" />
            </div>
          ) : section ? (
            <SectionPicture section={section} turn={turn} onTurn={setTurn} />
          ) : (
            <EmptyState title={emptyTitle(project, Boolean(job), section === null)}>
              {section === null
                ? 'No island covers that texel. Click on an island of the map.'
                : bodies.length === 0
                  ? 'Drop a high-poly and a low-poly with UVs, or open the demo with the ticket post.'
                  : rays.pairings.length === 0
                    ? 'Pair a high-poly and a low-poly at the left: by their names, by their places, or by hand.'
                    : 'A proof is baked at a quarter of the side in a second or two, and shows every fault where it is.'}
            </EmptyState>
          )}
          {figures && chosen && (
            <DistanceChart
              histogram={figures.histogram}
              outward={chosen.outward ?? figures.outward}
              inward={chosen.inward ?? figures.inward}
              onReach={(which, m) =>
                changePairing(
                  `${which === 'outward' ? 'Outward' : 'Inward'} reach of ${chosen.name}`,
                  rays.pairings.indexOf(chosen),
                  {
                    ...chosen,
                    [which]: m,
                  },
                )
              }
            />
          )}
        </div>
        {result && sheet && last && (
          <aside className={css.side}>
            <div className={css.map}>
              <SheetStage
                sheet={{
                  name: sheet.name,
                  width: size,
                  height: size,
                  reserves: [],
                  margin: 0,
                  plots: [],
                }}
                image={shown ? file(`views/${shown.view}`) : null}
                over={marks ? file(`views/${sheet.faultPicture}`) : null}
                showIslands={false}
                lit={null}
                onHover={() => {}}
                mark={at}
                onPoint={(x, y) => setPicked([x / size, y / size])}
              />
            </div>
            <div className={css.over}>
              <label className={css.check}>
                <input type="checkbox" checked={marks} onChange={(e) => setMarks(e.target.checked)} /> faults on the map
              </label>
              <Button
                onClick={() => chosen && spot && start('ray-proof', chosen.name, around(spot))}
                disabled={Boolean(job) || !spot || !chosen}
                title="The part around the picked texel, a quarter of the side wide, at full size with all rays"
              >
                Bake this part
              </Button>
            </div>
            <div className={css.model}>
              <ModelView
                label={on === 'high' ? '3D picture of the high-poly' : '3D picture of the low-poly'}
                url={on === 'high' ? highAddress(project, chosen) : file(`delivery/${encodeURIComponent(sheet.model)}`)}
                map={on === 'map' && shown ? file(`views/${shown.view}`) : null}
                mapFor="baked"
                sun={sun}
              />
            </div>
            <Segments
              label="On the model"
              value={on}
              options={[
                { value: 'lit', label: 'low-poly, lit' },
                { value: 'map', label: 'this map' },
                { value: 'high', label: 'high-poly' },
              ]}
              onChange={setOn}
            />
            {on !== 'map' && (
              <label className={css.light}>
                Light from
                <input
                  type="range"
                  min={-180}
                  max={180}
                  step={5}
                  value={sun ?? 40}
                  onChange={(e) => setSun(Number(e.target.value))}
                  aria-label="Direction of a raking light, degrees"
                />
                <Button tone="quiet" onClick={() => setSun(null)} disabled={sun === null}>
                  soft
                </Button>
              </label>
            )}
          </aside>
        )}
        {result && sheet && last && (
          <Contacts
            sheet={sheet}
            zip={`/api/jobs/${last.id}/zip`}
            map={shown?.kind ?? map}
            address={file}
            onChoose={setMap}
          />
        )}
      </div>
    </section>
  );
}

/** A quarter of the sheet's side about a point, shares. */
function around([x, y]: readonly [number, number]): [number, number, number, number] {
  const from = (v: number) => Math.min(0.75, Math.max(0, v - 0.125));
  return [from(x), from(y), from(x) + 0.25, from(y) + 0.25];
}

const emptyTitle = (project: ProjectView, busy: boolean, off: boolean): string =>
  off
    ? 'Beside the islands'
    : busy
      ? 'Baking …'
      : project.decisions.rays.pairings.length === 0
        ? 'No pairing yet'
        : 'Nothing baked yet';

/** The file of a pairing's first high-poly, as the survey shows it. */
function highAddress(project: ProjectView, p: PairingDecision | undefined): string | null {
  const at = project.survey?.models.findIndex((m) => m.path === p?.high[0]?.path) ?? -1;
  return at < 0 ? null : modelAddress(project, at, false);
}

/** All maps along the edge; the chosen one is shown large and on the model. */
function Contacts({
  sheet,
  zip,
  map,
  address,
  onChoose,
}: {
  sheet: RaySheetView;
  zip: string;
  map: MapKind;
  address: (file: string) => string;
  onChoose: (map: MapKind) => void;
}) {
  const one = sheet.maps.find((m) => m.kind === map);
  return (
    <footer className={css.foot}>
      <div className={css.contacts} role="radiogroup" aria-label="Map">
        {sheet.maps.map((m) => (
          <label key={m.kind} className={m.kind === map ? css.chosen : ''}>
            <input type="radio" name="ray-map" checked={m.kind === map} onChange={() => onChoose(m.kind)} />
            <img src={address(`views/${m.view}`)} alt="" loading="lazy" />
            {MAP_TITLES[m.kind]}
          </label>
        ))}
      </div>
      {map === 'id' && (
        <ul className={css.legend}>
          {sheet.legend.map((l) => (
            <li key={l.name}>
              <span style={{ background: l.colour }} /> {l.name}
            </li>
          ))}
        </ul>
      )}
      <div className={css.take}>
        <ButtonLink href={zip} download>
          Take all as ZIP, with the low-polys
        </ButtonLink>
        {one && (
          <ButtonLink href={address(`delivery/${encodeURIComponent(one.file)}`)} download>
            Take {one.file}, {bytes(one.bytes)}
          </ButtonLink>
        )}
      </div>
    </footer>
  );
}
