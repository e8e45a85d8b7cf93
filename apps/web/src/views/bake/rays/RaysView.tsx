import type { MapKind } from '@wembrel/core/decisions/map-kinds';
import type { BrushStamp, PairingDecision, RayDecisions } from '@wembrel/core/decisions/ray-decisions';
import type { RayFault } from '@wembrel/core/rays/maps/fault-kinds';
import { pairing } from '@wembrel/core/rays/pairing/pairings';
import { type ReactNode, useMemo, useState } from 'react';
import type { ProjectView, RayResultView, Region } from '../../../contract/project.ts';
import { failedLast, running } from '../../../project/api.ts';
import { startDecided } from '../../../project/edits.ts';
import { newestRays } from '../../../project/newest-rays.ts';
import { notify } from '../../../project/notices.ts';
import { RemoveResult } from '../../../project/RemoveResult.tsx';
import { RunningJob } from '../../../project/RunningJob.tsx';
import type { ViewProps } from '../../../project/view-props.ts';
import { Button } from '../../../ui/Button.tsx';
import { count } from '../../../ui/format.ts';
import { EmptyState, ErrorLine } from '../../../ui/Notice.tsx';
import { Segments } from '../../../ui/Segments.tsx';
import frame from '../../../ui/View.module.css';
import { BrushPanel } from './BrushPanel.tsx';
import { type Brush, brushOf, PLAIN_BRUSH } from './brush.ts';
import { DistanceChart } from './DistanceChart.tsx';
import { FaultList } from './FaultList.tsx';
import { MapContacts } from './MapContacts.tsx';
import { PairingList } from './PairingList.tsx';
import {
  ambiguousPartners,
  freshName,
  pairedByNames,
  pairedByPlace,
  projectObjects,
  unpaired,
  withAllPaired,
} from './pairing-objects.ts';
import css from './RaysView.module.css';
import { RecipeForm } from './RecipeForm.tsx';
import { around, ResultSide } from './ResultSide.tsx';
import { SectionPicture } from './SectionPicture.tsx';
import { useRayResult, useReaches, useSection } from './use-rays.ts';

type Tab = 'pairings' | 'recipe' | 'faults' | 'brush';
const DAB = '#ffd84a';
const DAB_CHOSEN = '#ff7a3c';

type JobWanted = (typeof RAY_JOBS)[number];

const RAY_JOBS = ['ray-proof', 'ray-final', 'ray-reaches', 'ray-all'] as const;

/** The section through high-poly and low-poly over the histogram of distances; map and model beside it, maps along the edge. */
export function RaysView({ project, live, edit, switcher }: ViewProps & { switcher: ReactNode }) {
  const { rays } = project.decisions;
  const [tab, setTab] = useState<Tab>('pairings');
  const [open, setOpen] = useState(0);
  const [map, setMap] = useState<MapKind>('normal');
  /** Shares of the sheet, so that a final shows the place that was picked on its proof. */
  const [picked, setPicked] = useState<readonly [number, number] | null>(null);
  const [turn, setTurn] = useState(0);
  const [fault, setFault] = useState<RayFault | null>(null);
  const [brush, setBrush] = useState<Brush>(PLAIN_BRUSH);
  const [dab, setDab] = useState<number | null>(null);

  const job = running(project, ...RAY_JOBS);
  const failed = failedLast(project, ...RAY_JOBS);
  const chosen = rays.pairings[Math.min(open, rays.pairings.length - 1)];
  const last = newestRays(project, chosen?.name ?? null);
  const { data: result } = useRayResult(last?.id);
  const { data: reaches } = useReaches(project);
  const stale = last !== undefined && last.madeFrom !== project.rayStamp;
  const objects = useMemo(() => projectObjects(project.survey), [project.survey]);
  const alone = useMemo(() => unpaired(objects, rays.pairings), [objects, rays.pairings]);
  const byNames = useMemo(() => pairedByNames(objects, rays), [objects, rays]);
  const byPlace = useMemo(() => pairedByPlace(objects, rays), [objects, rays]);
  const doubts = useMemo(() => ambiguousPartners(objects, rays), [objects, rays]);
  const baked = useMemo(
    () => new Map(result?.sheets.flatMap((sheet) => sheet.pairings.map((pairing) => [pairing.name, pairing] as const))),
    [result],
  );
  const sheetAt = Math.max(
    0,
    result?.sheets.findIndex((sheet) => sheet.pairings.some((pairing) => pairing.name === chosen?.name)) ?? 0,
  );
  const sheet = result?.sheets[sheetAt];
  const faults = useMemo(() => result?.sheets.flatMap((sheet) => sheet.faults) ?? [], [result]);
  const figures = chosen && baked.get(chosen.name);

  // Something to look at as soon as there is a bake: what stands out most.
  const size = sheet?.size ?? 1;
  const spot = picked ?? sheet?.spot ?? null;
  const at = useMemo(() => spot && ([spot[0] * size, spot[1] * size] as const), [spot, size]);
  const { data: section } = useSection(last?.id, sheetAt, at, turn);

  const change = (label: string, next: Partial<RayDecisions>) =>
    edit(label, (decisions) => ({ ...decisions, rays: { ...decisions.rays, ...next } }));
  const changePairing = (label: string, i: number, next: PairingDecision) =>
    edit(label, (decisions) => ({
      ...decisions,
      rays: { ...decisions.rays, pairings: decisions.rays.pairings.map((pairing, k) => (k === i ? next : pairing)) },
    }));
  const addPairings = (label: string, list: PairingDecision[]) => {
    const all = [...rays.pairings];
    for (const pairing of list) all.push({ ...pairing, name: freshName(pairing.name, all) });
    change(label, { pairings: all });
  };
  const dabAt = (point: readonly [number, number, number]) => {
    if (!chosen) return;
    const dabs = [...chosen.dabs, { at: [...point] as BrushStamp['at'], ...brushOf(brush, sheet?.scale.box) }];
    setDab(dabs.length - 1);
    changePairing(`Brush ${chosen.name}`, rays.pairings.indexOf(chosen), { ...chosen, dabs });
  };
  const rings = useMemo(
    () =>
      tab !== 'brush' || !chosen
        ? []
        : chosen.dabs.map((d, i) => ({ at: d.at, radius: d.radius, colour: i === dab ? DAB_CHOSEN : DAB })),
    [tab, chosen, dab],
  );
  const start = (kind: JobWanted, only: string | null = null, region: Region = null) =>
    void startDecided(project.id, kind, only, region);
  /** Pairs what has no partner yet, finds reaches, bakes a proof, and where that is good the final. */
  const bakeAll = () => {
    const pairings = withAllPaired(objects, rays);
    const more = pairings.length - rays.pairings.length;
    if (more > 0) change(`Pair ${more} ${more === 1 ? 'object' : 'objects'}`, { pairings });
    if (pairings.some((pairing) => pairing.high.length > 0 && pairing.low.length > 0)) start('ray-all');
    else
      notify({ tone: 'fault', text: 'No high-poly and low-poly could be paired, by their names or by their places.' });
  };
  const file = (name: string) => `/api/jobs/${last?.id}/files/${name}`;
  const shown = sheet?.maps.find((m) => m.kind === map) ?? sheet?.maps[0];
  const ready = rays.pairings.some((pairing) => pairing.high.length > 0 && pairing.low.length > 0);
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
        {last && !job && <RemoveResult job={last} edit={edit} />}
        <Button onClick={() => start('ray-reaches')} disabled={Boolean(job) || !ready}>
          Find reaches
        </Button>
        <Button onClick={() => start('ray-proof')} disabled={Boolean(job) || !ready}>
          Bake a proof
        </Button>
        <Button onClick={() => start('ray-final')} disabled={Boolean(job) || !ready}>
          Bake the final
        </Button>
        <Button
          tone="main"
          onClick={bakeAll}
          disabled={Boolean(job) || objects.length < 2}
          title="Pairs what has no partner yet, finds reaches, bakes a proof, and where that is good the final with finished models"
        >
          Bake all
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
              { value: 'brush', label: 'Brush' },
            ]}
            onChange={setTab}
          />
          <div className={css.scroll}>
            {tab === 'pairings' && (
              <PairingList
                pairings={rays.pairings}
                objects={objects}
                alone={alone}
                baked={baked}
                doubts={doubts}
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
            {tab === 'brush' && (
              <BrushPanel
                pairing={chosen}
                brush={brush}
                onBrush={setBrush}
                chosen={dab}
                onChoose={setDab}
                here={section ? () => dabAt(section.point) : null}
                change={(label, dabs) =>
                  chosen && changePairing(label, rays.pairings.indexOf(chosen), { ...chosen, dabs })
                }
              />
            )}
            {tab === 'faults' &&
              (result ? (
                <FaultList
                  faults={faults}
                  chosen={fault}
                  onChoose={(rayFault) => {
                    setFault(rayFault === fault ? null : rayFault);
                    const of = result.sheets.find((sheet) => sheet.faults.includes(rayFault))?.size ?? 1;
                    setPicked([rayFault.sheet[0] / of, rayFault.sheet[1] / of]);
                    setOpen(rays.pairings.findIndex((pairing) => pairing.name === rayFault.pairing));
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
          {!job && result && result.stopped?.length > 0 && <ErrorLine>{stoppedText(result.stopped)}</ErrorLine>}
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
                : objects.length === 0
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
          <ResultSide
            project={project}
            pairing={chosen}
            sheet={sheet}
            map={shown}
            address={file}
            at={at}
            onPoint={setPicked}
            bakePart={job || !spot || !chosen ? null : () => start('ray-proof', chosen.name, around(spot))}
            rings={rings}
            brush={tab === 'brush' && chosen ? dabAt : null}
          />
        )}
        {result && sheet && last && (
          <MapContacts
            sheet={sheet}
            zip={`/api/jobs/${last.id}/zip`}
            map={shown?.kind ?? map}
            address={file}
            onChoose={setMap}
            job={last.region ? null : last.id}
          />
        )}
      </div>
    </section>
  );
}

/** Why a proof was not followed by the final. */
function stoppedText(faults: RayResultView['stopped']): string {
  const names = [...new Set(faults.map((fault) => fault.pairing))];
  const said = names.length > 3 ? `${names.slice(0, 3).join(', ')} and ${names.length - 3} more` : names.join(', ');
  return `Stopped after the proof: more than 2 % of the texels of ${said} are wrong. See Faults, or bake the final all the same.`;
}

const emptyTitle = (project: ProjectView, busy: boolean, off: boolean): string =>
  off
    ? 'Beside the islands'
    : busy
      ? 'Baking …'
      : project.decisions.rays.pairings.length === 0
        ? 'No pairing yet'
        : 'Nothing baked yet';
