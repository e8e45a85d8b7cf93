import type { PlannedSurface } from '@wembrel/core/decisions/planned-surface';
import type { Finding } from '@wembrel/core/findings/finding';
import { openSurfaces } from '@wembrel/core/predict/planned';
import type { MergeDecisions, SurveyView } from '../../contract/project.ts';
import { FINDING_TITLES } from '../../project/finding-titles.ts';
import type { Forecast } from '../../project/prediction.ts';

/** What the slots are grouped by. */
export const GROUPINGS = {
  model: 'model',
  material: 'material',
  sheet: 'sheet',
  finding: 'finding',
} as const;
export type Grouping = keyof typeof GROUPINGS;

/** Height of a slot's row and of a heading, px; flows start at the middle of the rows. */
export const ROW = 26;
export const HEADING = 24;

type ListItem = { kind: 'heading'; title: string; note: string } | { kind: 'slot'; slot: number };

/** The slot list as it stands: headings and rows in order, and the top of each, px. */
export interface ListRows {
  items: ListItem[];
  tops: number[];
  height: number;
  /** Top of the row of each slot that is listed. */
  topOf: ReadonlyMap<number, number>;
  /** Slots in the order in which they stand. */
  order: number[];
}

/** What a slot is called, also when it is a planned surface. */
export function slotTitle(forecast: Forecast, planned: readonly PlannedSurface[], slot: number): string {
  const first = forecast.planSlots.length - openSurfaces(planned).length;
  return slot < first ? forecast.planSlots[slot].name : openSurfaces(planned)[slot - first].name;
}

/** Position of the first planned surface among the slots. */
export const firstPlanned = (forecast: Forecast, planned: readonly PlannedSurface[]): number =>
  forecast.planSlots.length - openSurfaces(planned).length;

export function listRows(
  survey: SurveyView | null,
  decisions: MergeDecisions,
  forecast: Forecast,
  findings: readonly Finding[],
  grouping: Grouping,
  filter: string,
): ListRows {
  const words = filter.toLowerCase().split(/\s+/).filter(Boolean);
  const { planned } = decisions;
  const first = firstPlanned(forecast, planned);
  const open = openSurfaces(planned);
  const title = (i: number) => (i < first ? forecast.planSlots[i].name : open[i - first].name);
  const fits = (i: number) => {
    const text = `${title(i)} ${forecast.planSlots[i].path}`.toLowerCase();
    return words.every((word) => text.includes(word));
  };
  const kept = forecast.planSlots.map((_, i) => i).filter(fits);
  const groups = new Map<string, number[]>();
  const put = (key: string, i: number) => {
    const list = groups.get(key);
    if (list) list.push(i);
    else groups.set(key, [i]);
  };
  const own = kept.filter((i) => i < first);
  if (grouping === 'model') for (const i of own) put(survey?.models[forecast.planSlots[i].model].path ?? '', i);
  else if (grouping === 'sheet')
    for (const i of own) {
      const { sheet } = forecast.flows[i];
      put(sheet < 0 ? 'Kept apart' : `${sheet + 1} ${decisions.sheets[sheet].name}`, i);
    }
  else if (grouping === 'material') {
    const names = new Map<string, string>();
    for (const i of own) {
      const { look, name } = forecast.planSlots[i];
      if (!names.has(look)) names.set(look, `${name}\u0000${names.size}`);
      put(names.get(look) as string, i);
    }
  } else {
    const listed = new Set(own);
    for (const finding of findings)
      for (const i of finding.objects.slots ?? []) if (listed.has(i)) put(FINDING_TITLES[finding.code], i);
    const found = new Set([...groups.values()].flat());
    for (const i of own) if (!found.has(i)) put('Nothing found', i);
  }
  const byTitle = [...groups];
  if (grouping === 'sheet')
    byTitle.sort(([a], [b]) => (a === 'Kept apart' ? 1 : b === 'Kept apart' ? -1 : a < b ? -1 : 1));
  const items: ListItem[] = [];
  const shown = (key: string) => (grouping === 'model' ? (key.split('/').pop() ?? key) : key.split('\u0000')[0]);
  for (const [key, list] of byTitle) {
    const unique = [...new Set(list)];
    items.push({ kind: 'heading', title: shown(key), note: unique.length > 1 ? String(unique.length) : '' });
    for (const slot of unique) items.push({ kind: 'slot', slot });
  }
  const later = kept.filter((i) => i >= first);
  if (later.length > 0) {
    items.push({ kind: 'heading', title: 'Planned surfaces', note: later.length > 1 ? String(later.length) : '' });
    for (const slot of later) items.push({ kind: 'slot', slot });
  }
  const tops: number[] = [];
  const topOf = new Map<number, number>();
  let y = 0;
  for (const item of items) {
    tops.push(y);
    // A slot that stands under several findings has its flow from the first.
    if (item.kind === 'slot' && !topOf.has(item.slot)) topOf.set(item.slot, y);
    y += item.kind === 'slot' ? ROW : HEADING;
  }
  return { items, tops, height: y, topOf, order: items.flatMap((i) => (i.kind === 'slot' ? [i.slot] : [])) };
}
