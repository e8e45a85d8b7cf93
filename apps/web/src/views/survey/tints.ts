import type { Finding } from '@wembrel/core/findings/finding';
import type { SurveyView } from '../../contract/project.ts';
import { indexColour } from '../../ui/format.ts';
import { divergingRamp, sequentialRamp } from '../../ui/ramps.ts';

/** What the models are coloured by. */
export const TINTS = {
  own: 'original',
  slots: 'slots',
  drawCalls: 'draw calls',
  triangles: 'triangles',
  density: 'density',
  twins: 'shared textures',
  findings: 'findings',
  checker: 'UV checker',
} as const;
export type TintName = keyof typeof TINTS;

const GREY = 'oklch(0.62 0 0)';

/** What a tint is made from: a colour for each part, and the two ends for the legend. */
export interface TintScale {
  colour: (slot: number, part: number) => string;
  /** Of a model on the shelf; null leaves its board plain. */
  model: (model: number) => string | null;
  /** Ends of the scale in words. */
  ends: [low: string, high: string] | null;
}

const position = (v: number, low: number, high: number) =>
  high > low ? (Math.log(v + 1) - Math.log(low + 1)) / (Math.log(high + 1) - Math.log(low + 1)) : 0;

/** What scales are made of. */
interface Tinted {
  survey: SurveyView;
  findings: Finding[];
  /** px/m that is wanted, or null: the median is the middle. */
  target: number | null;
}

/**
 * Colours for the whole survey; slots are named by their position in the survey's slots.
 * @param target px/m that is wanted, or null: the median is the middle
 */
export function tintScale(
  name: TintName,
  survey: SurveyView,
  findings: Finding[],
  target: number | null,
): TintScale | null {
  if (name === 'own' || name === 'checker') return null;
  return SCALES[name]({ survey, findings, target });
}

const SCALES: Record<Exclude<TintName, 'own' | 'checker'>, (tinted: Tinted) => TintScale> = {
  slots: ({ survey: { slots } }) => ({
    colour: (s) => (s < 0 ? GREY : indexColour(slots[s].slot)),
    model: () => null,
    ends: null,
  }),
  drawCalls: byDrawCalls,
  triangles: byTriangles,
  density: byDensity,
  twins: bySharing,
  findings: byFindings,
};

function byDrawCalls({ survey: { slots, models } }: Tinted): TintScale {
  const calls = slots.map((slot) => slot.parts.reduce((sum, part) => sum + part.drawCalls, 0));
  const most = Math.max(1, ...calls);
  const sums = models.map((_, m) => slots.reduce((sum, slot, i) => (slot.model === m ? sum + calls[i] : sum), 0));
  const largest = Math.max(1, ...sums);
  return {
    colour: (s) => (s < 0 ? GREY : sequentialRamp(position(calls[s], 1, most))),
    model: (m) => sequentialRamp(position(sums[m], 1, largest)),
    ends: ['1 draw call', `${most}`],
  };
}

function byTriangles({ survey: { slots, models } }: Tinted): TintScale {
  const each = slots.flatMap((slot) => slot.parts.map((part) => part.triangles));
  const most = Math.max(1, ...each);
  const largest = Math.max(1, ...models.map((model) => model.triangles));
  return {
    colour: (s, part) => {
      const facts = slots[s]?.parts.find((x) => x.part === part);
      return facts ? sequentialRamp(position(facts.triangles, 1, most)) : GREY;
    },
    model: (m) => sequentialRamp(position(models[m].triangles, 1, largest)),
    ends: ['few', `${most.toLocaleString('en').replaceAll(',', '\u2009')} triangles`],
  };
}

function byDensity({ survey: { slots }, target }: Tinted): TintScale {
  const medians = slots.flatMap((slot) => (slot.density ? [slot.density.median] : [])).sort((a, b) => a - b);
  const middle = target ?? medians[medians.length >> 1] ?? 1;
  const at = (d: number) => divergingRamp(Math.log2(d / middle) / 3);
  return {
    colour: (s) => (slots[s]?.density ? at(slots[s].density.median) : GREY),
    model: (m) => {
      const own = slots.filter((slot) => slot.model === m && slot.density);
      const area = own.reduce((sum, facts) => sum + facts.surface, 0);
      if (area === 0) return null;
      return at(own.reduce((sum, facts) => sum + (facts.density?.median ?? 0) * facts.surface, 0) / area);
    },
    ends: [`⅛ of ${Math.round(middle)} px/m`, '8 ×'],
  };
}

/** One colour for all slots that show a texture which is there several times. */
function bySharing({ survey: { slots, pictures } }: Tinted): TintScale {
  const shared = new Map(pictures.filter((picture) => picture.copies > 1).map((picture, i) => [picture.key, i]));
  const group = (i: number) => Object.values(slots[i].images).flatMap((k) => shared.get(k) ?? [])[0];
  return {
    colour: (s) => (s >= 0 && group(s) !== undefined ? indexColour(group(s)) : GREY),
    model: (m) => {
      const g = slots.flatMap((slot, i) => (slot.model === m && group(i) !== undefined ? [group(i)] : []))[0];
      return g === undefined ? null : indexColour(g);
    },
    ends: ['grey: used once', 'one colour: one texture'],
  };
}

/** The worst finding about each slot and model. */
function byFindings({ survey: { slots, models }, findings }: Tinted): TintScale {
  const rank = { fault: 3, warning: 2, info: 1 };
  const worst = new Array<number>(slots.length).fill(0);
  for (const finding of findings)
    for (const i of finding.objects.slots ?? []) worst[i] = Math.max(worst[i], rank[finding.severity]);
  const colours = [GREY, 'oklch(0.7 0.06 205)', 'oklch(0.72 0.13 75)', 'oklch(0.6 0.2 33)'];
  const ofModel = models.map((_, m) =>
    Math.max(
      0,
      ...slots.map((slot, i) => (slot.model === m ? worst[i] : 0)),
      ...findings.filter((finding) => finding.objects.models?.includes(m)).map((finding) => rank[finding.severity]),
    ),
  );
  return {
    colour: (s) => colours[s < 0 ? 0 : worst[s]],
    model: (m) => (ofModel[m] === 0 ? null : colours[ofModel[m]]),
    ends: ['grey: nothing', 'petrol, ochre, vermilion: remark, warning, fault'],
  };
}
