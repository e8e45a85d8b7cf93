import type { MapKind } from '@wembrel/core/decisions/map-kinds';
import type { PairingDecision, RayDecisions } from '@wembrel/core/decisions/ray-decisions';
import type { RayFault } from '@wembrel/core/rays/maps/fault-kinds';
import { useMemo, useState } from 'react';
import type { Region } from '../../../contract/project.ts';
import { failedLast, running } from '../../../project/api.ts';
import { startDecided } from '../../../project/edits.ts';
import { newestRays } from '../../../project/newest-rays.ts';
import { notify } from '../../../project/notices.ts';
import type { ViewProps } from '../../../project/view-props.ts';
import { counted } from '../../../ui/format.ts';
import { FIRST_DRAFT, type LocalReach, type ReachDraft, reachOf } from './local-reach.ts';
import {
  ambiguousPartners,
  freshName,
  pairedByNames,
  pairedByPlace,
  projectObjects,
  unpaired,
  withAllPaired,
} from './pairing-objects.ts';
import { useRayResult, useReaches, useSection } from './use-rays.ts';

const RAY_JOBS = ['ray-proof', 'ray-final', 'ray-reaches', 'ray-all'] as const;
export type RayJob = (typeof RAY_JOBS)[number];
export type RaysTab = 'pairings' | 'settings' | 'faults' | 'reaches';

/** All that the view of high to low shows and does. */
export type RaysState = ReturnType<typeof useRaysView>;

export function useRaysView({ project, edit }: Pick<ViewProps, 'project' | 'edit'>) {
  const { rays } = project.decisions;
  const [tab, setTab] = useState<RaysTab>('pairings');
  const [open, setOpen] = useState(0);
  const [map, setMap] = useState<MapKind>('normal');
  /** Shares of the sheet, so that a final shows the place that was picked on its proof. */
  const [picked, setPicked] = useState<readonly [number, number] | null>(null);
  const [turn, setTurn] = useState(0);
  const [fault, setFault] = useState<RayFault | null>(null);
  const chosen = rays.pairings[Math.min(open, rays.pairings.length - 1)] as PairingDecision | undefined;
  const baked = useBaked(project, chosen?.name ?? null);
  const { result, last, sheet, sheetAt } = baked;
  // Something to look at as soon as there is a bake: what stands out most.
  const spot = picked ?? sheet?.spot ?? null;
  const size = sheet?.size ?? 1;
  const at = useMemo(() => spot && ([spot[0] * size, spot[1] * size] as const), [spot, size]);
  const { data: section } = useSection(last?.id, sheetAt, at, turn);

  const change = (label: string, next: Partial<RayDecisions>) =>
    edit(label, (decisions) => ({ ...decisions, rays: { ...decisions.rays, ...next } }));
  const changePairing = (label: string, i: number, next: PairingDecision) =>
    change(label, { pairings: rays.pairings.map((pairing, k) => (k === i ? next : pairing)) });
  const changeChosen = (label: string, part: Partial<PairingDecision>) =>
    chosen && changePairing(label, rays.pairings.indexOf(chosen), { ...chosen, ...part });
  const objects = usePairable(project);
  const start = (kind: RayJob, only: string | null = null, region: Region = null) =>
    void startDecided(project.id, kind, only, region);
  return {
    ...baked,
    ...objects,
    ...useLocalReaches(chosen, sheet?.scale.box, changeChosen),
    rays,
    tab,
    setTab,
    chosen,
    open: chosen ? rays.pairings.indexOf(chosen) : 0,
    choose: (i: number) => {
      setOpen(i);
      setPicked(null);
    },
    map,
    setMap,
    shown: sheet?.maps.find((m) => m.kind === map) ?? sheet?.maps[0],
    spot,
    at,
    pick: setPicked,
    section,
    turn,
    setTurn,
    fault,
    chooseFault: (next: RayFault) => {
      setFault(next === fault ? null : next);
      const of = result?.sheets.find((one) => one.faults.includes(next))?.size ?? 1;
      setPicked([next.sheet[0] / of, next.sheet[1] / of]);
      setOpen(rays.pairings.findIndex((pairing) => pairing.name === next.pairing));
    },
    change,
    changePairing,
    changeChosen,
    addPairings: (label: string, list: PairingDecision[]) => {
      const all = [...rays.pairings];
      for (const pairing of list) all.push({ ...pairing, name: freshName(pairing.name, all) });
      change(label, { pairings: all });
    },
    ready: rays.pairings.some((pairing) => pairing.high.length > 0 && pairing.low.length > 0),
    start,
    /** Pairs what has no partner yet, finds reaches, bakes a proof, and where that is good the final. */
    bakeAll: () => {
      const pairings = withAllPaired(objects.objects, rays);
      const more = pairings.length - rays.pairings.length;
      if (more > 0) change(`Pair ${counted(more, 'object')}`, { pairings });
      if (pairings.some((pairing) => pairing.high.length > 0 && pairing.low.length > 0)) start('ray-all');
      else
        notify({
          tone: 'fault',
          text: 'No high-poly and low-poly could be paired, by their names or by their places.',
        });
    },
  };
}

/** Sets a local reach where the section goes through; null without one. */
export const addReachHere = ({ section, addReach, chosen }: RaysState): (() => void) | null =>
  section && chosen ? () => addReach(section.point) : null;

/** What runs, what was baked last, and what it says of each pairing. */
function useBaked(project: ViewProps['project'], pairing: string | null) {
  const last = newestRays(project, pairing);
  const { data: result } = useRayResult(last?.id);
  const { data: reaches } = useReaches(project);
  const baked = useMemo(
    () => new Map(result?.sheets.flatMap((sheet) => sheet.pairings.map((one) => [one.name, one] as const))),
    [result],
  );
  const sheetAt = Math.max(
    0,
    result?.sheets.findIndex((sheet) => sheet.pairings.some((one) => one.name === pairing)) ?? 0,
  );
  return {
    job: running(project, ...RAY_JOBS),
    failed: failedLast(project, ...RAY_JOBS),
    last,
    result,
    reaches,
    baked,
    figures: pairing === null ? undefined : baked.get(pairing),
    sheetAt,
    sheet: result?.sheets[sheetAt],
    faults: useMemo(() => result?.sheets.flatMap((sheet) => sheet.faults) ?? [], [result]),
    stale: last !== undefined && last.madeFrom !== project.rayStamp,
  };
}

/** The objects of the project, and how they could be paired. */
function usePairable(project: ViewProps['project']) {
  const { rays } = project.decisions;
  const objects = useMemo(() => projectObjects(project.survey), [project.survey]);
  return {
    objects,
    alone: useMemo(() => unpaired(objects, rays.pairings), [objects, rays.pairings]),
    byNames: useMemo(() => pairedByNames(objects, rays), [objects, rays]),
    byPlace: useMemo(() => pairedByPlace(objects, rays), [objects, rays]),
    doubts: useMemo(() => ambiguousPartners(objects, rays), [objects, rays]),
  };
}

/** The local reaches of the chosen pairing, and the one that is being set. */
function useLocalReaches(
  chosen: PairingDecision | undefined,
  box: readonly number[] | undefined,
  change: (label: string, part: Partial<PairingDecision>) => void,
) {
  const [draft, setDraft] = useState<ReachDraft>(FIRST_DRAFT);
  const [reach, chooseReach] = useState<number | null>(null);
  return {
    draft,
    setDraft,
    reach,
    chooseReach,
    changeReaches: (label: string, localReaches: LocalReach[]) => change(label, { localReaches }),
    addReach: (point: readonly [number, number, number]) => {
      if (!chosen) return;
      const localReaches = [...chosen.localReaches, { at: [...point] as LocalReach['at'], ...reachOf(draft, box) }];
      chooseReach(localReaches.length - 1);
      change(`Local reach on ${chosen.name}`, { localReaches });
    },
  };
}
