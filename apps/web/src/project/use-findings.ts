import type { MergeDecisions } from '@wembrel/core/decisions/decisions';
import { routeSlots, routeTo } from '@wembrel/core/decisions/routes';
import type { Finding, FindingAction } from '@wembrel/core/findings/finding';
import { surveyFindings } from '@wembrel/core/findings/findings';
import { useMemo } from 'react';
import type { ProjectView } from '../contract/project.ts';

/** Findings of the present survey under the present budget and names. */
export function useFindings(project: ProjectView): Finding[] {
  const { survey } = project;
  const { budget, requiredNames, rays } = project.decisions;
  return useMemo(
    () => (survey ? surveyFindings(survey, { budget, requiredNames, rays }) : []),
    [survey, budget, requiredNames, rays],
  );
}

/** True when the decisions do already what an action would. */
export function isTaken(action: FindingAction | null, decisions: MergeDecisions): boolean {
  if (action?.do === 'join') return decisions.join;
  if (action?.do === 'keep-apart') return action.slots.every((slot) => routeTo(decisions.routes, slot) === 'apart');
  if (action?.do === 'read-as') {
    const now = decisions.reading.sources[action.path];
    return now !== undefined && Object.entries(action.options).every(([k, v]) => now[k as keyof typeof now] === v);
  }
  if (action?.do === 'route-together') {
    const [first] = action.slots;
    const to = routeTo(decisions.routes, first);
    return to !== undefined && action.slots.every((slot) => routeTo(decisions.routes, slot) === to);
  }
  if (action?.do !== 'repair') return false;
  return Object.entries(action.repairs).every(([key, v]) => {
    const now = decisions.repairs[key as keyof typeof decisions.repairs];
    if (Array.isArray(v)) return v.every((x) => (now as string[]).includes(x));
    if (v !== null && typeof v === 'object')
      return Object.entries(v).every(([k, x]) => (now as Record<string, unknown>)[k] === x);
    return now === v;
  });
}

/** Decisions with several actions taken. */
export function taken(decisions: MergeDecisions, actions: FindingAction[]): MergeDecisions {
  let out = decisions;
  for (const action of actions) {
    if (action.do === 'join') out = { ...out, join: true };
    else if (action.do === 'keep-apart') out = { ...out, routes: routeSlots(out.routes, action.slots, 'apart') };
    else if (action.do === 'route-together')
      out = {
        ...out,
        keepAll: false,
        routes: routeSlots(out.routes, action.slots, out.sheets[0].id),
      };
    else if (action.do === 'read-as') {
      const { sources } = out.reading;
      const before = sources[action.path] ?? { unit: null, up: null, normalY: 'up', gloss: false, colour: 'srgb' };
      out = {
        ...out,
        reading: { ...out.reading, sources: { ...sources, [action.path]: { ...before, ...action.options } } },
      };
    } else if (action.do === 'repair') {
      const { harden, opaque, flatToFactor, storeAt, shareNear, reduce, ...flags } = action.repairs;
      const repairs = out.repairs;
      const joined = (x: string[], y: string[] = []) => [...new Set([...x, ...y])];
      out = {
        ...out,
        repairs: {
          ...repairs,
          ...flags,
          harden: joined(repairs.harden, harden),
          opaque: joined(repairs.opaque, opaque),
          flatToFactor: joined(repairs.flatToFactor, flatToFactor),
          storeAt: { ...repairs.storeAt, ...storeAt },
          shareNear: { ...repairs.shareNear, ...shareNear },
          reduce: { ...repairs.reduce, ...reduce },
        },
      };
      // Shared copies only show where models keep their own materials; an untouched plan would bake them all onto its sheet.
      if (flags.shareDuplicates && decisions.routes.length === 0) out = { ...out, keepAll: true };
    }
  }
  return out;
}

/** Takes actions back. */
export function takenBack(decisions: MergeDecisions, actions: FindingAction[]): MergeDecisions {
  let out = decisions;
  for (const action of actions) {
    if (action.do === 'join') out = { ...out, join: false };
    if (action.do !== 'repair') continue;
    const repairs = { ...out.repairs };
    const {
      harden = [],
      opaque = [],
      flatToFactor = [],
      storeAt = {},
      shareNear = {},
      reduce = {},
      ...flags
    } = action.repairs;
    repairs.harden = repairs.harden.filter((text) => !harden.includes(text));
    repairs.opaque = repairs.opaque.filter((text) => !opaque.includes(text));
    repairs.flatToFactor = repairs.flatToFactor.filter((text) => !flatToFactor.includes(text));
    repairs.storeAt = Object.fromEntries(Object.entries(repairs.storeAt).filter(([k]) => storeAt[k] === undefined));
    repairs.shareNear = Object.fromEntries(
      Object.entries(repairs.shareNear).filter(([k]) => shareNear[k] === undefined),
    );
    repairs.reduce = Object.fromEntries(Object.entries(repairs.reduce).filter(([k]) => reduce[k] === undefined));
    for (const key of Object.keys(flags)) Object.assign(repairs, { [key]: false });
    out = { ...out, repairs: repairs, keepAll: flags.shareDuplicates ? false : out.keepAll };
  }
  return out;
}

/** True for actions that change decisions, so that they can be undone as one step. */
export function changesDecisions(findingAction: FindingAction | null): findingAction is FindingAction {
  return findingAction !== null && findingAction.do !== 'go';
}
