import type { Condition, SingleCondition } from '@wembrel/core/decisions/recipe/condition';
import { Condition as ConditionSchema } from '@wembrel/core/decisions/recipe/condition';
import type { LookSource, What } from '@wembrel/core/decisions/recipe/look';
import { What as WhatSchema } from '@wembrel/core/decisions/recipe/look';

/** What can be chosen in a recipe, in the words that its sentences use. */

export const STOCK_WORDS: readonly { value: Extract<LookSource, { from: 'stock' }>['look']; label: string }[] = [
  { value: 'enamel', label: 'enamel' },
  { value: 'paint', label: 'paint' },
  { value: 'zinc', label: 'zinc' },
  { value: 'brass', label: 'brass' },
  { value: 'rust', label: 'rust' },
  { value: 'grime', label: 'grime' },
  { value: 'moss', label: 'moss' },
  { value: 'oak', label: 'oak' },
  { value: 'brick', label: 'brick' },
  { value: 'asphalt', label: 'asphalt' },
  { value: 'paper', label: 'paper' },
  { value: 'glass', label: 'glass' },
];

export type ConditionKind = SingleCondition['of'];

/** Each kind of condition: in the list, and what a new one says. */
export const CONDITIONS: readonly { of: ConditionKind; label: string; begin: unknown }[] = [
  { of: 'slot', label: 'on a slot', begin: { of: 'slot', names: ['*'] } },
  { of: 'part', label: 'on a part', begin: { of: 'part', names: ['*'] } },
  { of: 'group', label: 'in a face group', begin: { of: 'group', names: ['*'] } },
  { of: 'id', label: 'on an ID', begin: { of: 'id', names: ['*'] } },
  { of: 'convex', label: 'at edges (convexity)', begin: { of: 'convex', from: 0.3, soft: 0.2 } },
  { of: 'concave', label: 'in corners (concavity)', begin: { of: 'concave', from: 0.15, soft: 0.2 } },
  { of: 'ao', label: 'in crevices (AO)', begin: { of: 'ao', to: 0.5, soft: 0.4 } },
  { of: 'facing', label: 'by the way it faces', begin: { of: 'facing', to: 45, soft: 20 } },
  {
    of: 'position',
    label: 'by its height or place',
    begin: { of: 'position', axis: 'y', within: 'model', unit: 'share', to: 0.3, soft: 0.2 },
  },
  { of: 'noise', label: 'in patches (noise)', begin: { of: 'noise', size: 80, from: 0.5, soft: 0.2 } },
  { of: 'random', label: 'by chance', begin: { of: 'random', per: 'part', to: 0.5 } },
  { of: 'curvature', label: 'by curvature', begin: { of: 'curvature', from: -0.1, to: 0.1, soft: 0.1 } },
  { of: 'thickness', label: 'where it is thin', begin: { of: 'thickness', to: 0.3, soft: 0.3 } },
  { of: 'height', label: 'by the height of the high-poly', begin: { of: 'height', from: 1, soft: 1 } },
  { of: 'uv-border', label: 'near UV borders', begin: { of: 'uv-border', to: 10, soft: 6 } },
  { of: 'id-border', label: 'near borders of IDs', begin: { of: 'id-border', to: 10, soft: 6 } },
  { of: 'mask', label: 'by a mask picture', begin: { of: 'mask', picture: 'mask.png', from: 0.5, soft: 1 } },
];

/** A new condition of a kind. */
export const newCondition = (of: ConditionKind): SingleCondition =>
  ConditionSchema.parse(CONDITIONS.find((one) => one.of === of)?.begin) as SingleCondition;

/** What measured conditions are called in a sentence, and their unit. */
export const MEASURES: Partial<Record<ConditionKind, { word: string; unit: string; step: number }>> = {
  convex: { word: 'convexity', unit: '', step: 0.01 },
  concave: { word: 'concavity', unit: '', step: 0.01 },
  curvature: { word: 'curvature', unit: '', step: 0.01 },
  ao: { word: 'AO', unit: '', step: 0.01 },
  thickness: { word: 'thickness', unit: '', step: 0.01 },
  height: { word: 'height of the high-poly', unit: 'mm', step: 0.5 },
  facing: { word: 'angle', unit: '°', step: 1 },
  'uv-border': { word: 'distance to a UV border', unit: 'mm', step: 1 },
  'id-border': { word: 'distance to a border of IDs', unit: 'mm', step: 1 },
  random: { word: 'chance', unit: '', step: 0.01 },
  noise: { word: 'noise', unit: '', step: 0.01 },
  mask: { word: 'mask', unit: '', step: 0.01 },
};

export const CHANGE_WORDS: readonly { value: string; label: string; begin: unknown }[] = [
  { value: 'tint', label: 'tint with', begin: { change: 'tint', color: '#5a7a4a' } },
  { value: 'multiply', label: 'multiply by', begin: { change: 'multiply', color: '#b0a890' } },
  { value: 'lighten', label: 'lighten by', begin: { change: 'lighten', by: 0.2 } },
  { value: 'darken', label: 'darken by', begin: { change: 'darken', by: 0.2 } },
  { value: 'hue', label: 'shift the colour by', begin: { change: 'hue', degrees: 10 } },
  { value: 'roughen', label: 'roughen by', begin: { change: 'roughen', by: 0.2 } },
  {
    value: 'levels',
    label: 'set levels of',
    begin: { change: 'levels', channel: 'roughness', black: 0.1, white: 0.9 },
  },
];

/** What a line that is added does. */
export const NEW_LINES: readonly { value: string; label: string; name: string; what: unknown }[] = [
  ...STOCK_WORDS.map(({ value, label }) => ({
    value,
    label: `lay ${label}`,
    name: label,
    what: { look: { from: 'stock', look: value } },
  })),
  {
    value: 'values',
    label: 'lay a plain colour',
    name: 'colour',
    what: { look: { from: 'values', color: '#8a8f7a', roughness: 0.6, metallic: 0 } },
  },
  ...CHANGE_WORDS.map(({ value, label, begin }) => ({
    value: `change ${value}`,
    label: label.replace(/ (by|with|of)$/, ''),
    name: label.replace(/ (by|with|of)$/, ''),
    what: begin,
  })),
];

export const newWhat = (what: unknown): What => WhatSchema.parse(what);

/** A name that no line has yet. */
export function freshName(wanted: string, taken: readonly string[]): string {
  if (!taken.includes(wanted)) return wanted;
  for (let n = 2; ; n++) if (!taken.includes(`${wanted} ${n}`)) return `${wanted} ${n}`;
}

/** A condition with another one that must hold as well. */
export function andAlso(where: Condition | null, more: Condition): Condition {
  if (!where) return more;
  if ('all' in where) return { ...where, all: [...where.all, more] };
  return { all: [where, more], by: 'product' };
}

/** A condition, or another one. */
export function orElse(where: Condition | null, more: Condition): Condition {
  if (!where) return more;
  return 'any' in where ? { any: [...where.any, more] } : { any: [where, more] };
}
