import type { Finding } from '@wembrel/core/findings/finding';
import type { SurveyView } from '../../contract/project.ts';
import { indexColour } from '../../ui/format.ts';
import { divergingRamp, sequentialRamp } from '../../ui/ramps.ts';

/** What the models are coloured by. */
export const TINTS = {
  own: 'as it is',
  slots: 'slots',
  drawCalls: 'draw calls',
  triangles: 'triangles',
  density: 'density',
  twins: 'twins',
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

/**
 * Colours for the whole survey.
 * @param slotAt position in the survey's slots of a slot of a model @param target px/m that is wanted, or null: the median is the middle
 */
export function tintScale(
  name: TintName,
  survey: SurveyView,
  findings: Finding[],
  target: number | null,
): TintScale | null {
  if (name === 'own' || name === 'checker') return null;
  const { slots, models } = survey;
  const byModel = (of: (i: number) => number) =>
    models.map((_, m) => slots.reduce((sum, slot, i) => (slot.model === m ? sum + of(i) : sum), 0));
  if (name === 'slots')
    return { colour: (s) => (s < 0 ? GREY : indexColour(slots[s].slot)), model: () => null, ends: null };
  if (name === 'drawCalls') {
    const calls = slots.map((slot) => slot.parts.reduce((sum, part) => sum + part.drawCalls, 0));
    const most = Math.max(1, ...calls);
    const sums = byModel((i) => calls[i]);
    const largest = Math.max(1, ...sums);
    return {
      colour: (s) => (s < 0 ? GREY : sequentialRamp(position(calls[s], 1, most))),
      model: (m) => sequentialRamp(position(sums[m], 1, largest)),
      ends: ['1 draw call', `${most}`],
    };
  }
  if (name === 'triangles') {
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
  if (name === 'density') {
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
  if (name === 'twins') {
    const shared = new Map(
      survey.pictures.filter((picture) => picture.copies > 1).map((picture, i) => [picture.key, i]),
    );
    const group = (i: number) => Object.values(slots[i].images).flatMap((k) => shared.get(k) ?? [])[0];
    return {
      colour: (s) => (s >= 0 && group(s) !== undefined ? indexColour(group(s)) : GREY),
      model: (m) => {
        const g = slots.flatMap((slot, i) => (slot.model === m && group(i) !== undefined ? [group(i)] : []))[0];
        return g === undefined ? null : indexColour(g);
      },
      ends: ['grey: no twin', 'one colour: one texture'],
    };
  }
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
