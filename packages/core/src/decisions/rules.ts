import { z } from 'zod';
import { fitsObject, type ObjectNames } from './object-patterns.ts';
import { fitsPattern } from './patterns.ts';
import { type Route, routeTo } from './routes.ts';

/** The route of a slot that is not merged. */
export const APART = 'apart';

/** Which slots a rule catches; those of models added later as well. */
export const RuleCondition = z.discriminatedUnion('kind', [
  /** Slot names; `*` stands for any letters. */
  z.object({ kind: z.literal('name'), pattern: z.string().trim().min(1).max(120) }),
  /** Slots of models whose path fits; `*` stands for any letters. */
  z.object({ kind: z.literal('model'), pattern: z.string().trim().min(1).max(400) }),
  /** Slots of objects that fit; see `fitsObject`. What such an object shares with others is split. */
  z.object({ kind: z.literal('object'), pattern: z.string().trim().min(1).max(400) }),
  /** Slots that read this picture, or a duplicate of it: the hash of its pixels. */
  z.object({ kind: z.literal('picture'), picture: z.string().regex(/^[0-9a-f]{8,64}$/) }),
  /** Slots of one colour. */
  z.object({ kind: z.literal('flat') }),
  /** Slots whose texture repeats across an island. */
  z.object({ kind: z.literal('repeats') }),
  /** Slots that are alpha-tested or alpha-blended. */
  z.object({ kind: z.literal('alpha') }),
]);
export type RuleCondition = z.infer<typeof RuleCondition>;

/** Sends every slot that fits to a sheet, or keeps it apart. */
export const RouteRule = z.object({
  id: z.string().regex(/^[a-z0-9]{1,8}$/, 'small letters and digits, at most 8'),
  when: RuleCondition,
  /** Id of a sheet, or `apart`. */
  to: z.string().max(8),
});
export type RouteRule = z.infer<typeof RouteRule>;

/** Rules with one more, asked after the others. */
export function addRule(rules: readonly RouteRule[], when: RuleCondition, to: string): RouteRule[] {
  let n = 1;
  while (rules.some((rule) => rule.id === String(n))) n++;
  return [...rules, { id: String(n), when, to }];
}

/** What rules read of a slot. */
export interface SlotTraits {
  name: string;
  /** Path of its model. */
  model: string;
  /** Objects that draw with it. */
  objects: readonly ObjectNames[];
  /** Hashes of the pixels of its pictures. */
  pictures: readonly string[];
  flat: boolean;
  /** Most repeats along an axis of one island. */
  repeats: number;
  alphaMode: 'OPAQUE' | 'MASK' | 'BLEND';
}

/** Whether slots are merged even where nothing is gained by it: somebody said so, or chose them. */
export const mergesWithoutGain = ({ mergeAll, only }: { mergeAll: boolean; only: readonly string[] }): boolean =>
  mergeAll || only.length > 0;

/** Whether a slot belongs to objects that fit some of the patterns, and to no others. */
export const isOfObjects = ({ objects, model }: SlotTraits, patterns: readonly string[]): boolean =>
  objects.length > 0 && objects.every((names) => patterns.some((pattern) => fitsObject(pattern, model, names)));

export function fitsRule(when: RuleCondition, slotTraits: SlotTraits): boolean {
  switch (when.kind) {
    case 'name':
      return fitsPattern(slotTraits.name, when.pattern);
    case 'model':
      return fitsPattern(slotTraits.model, when.pattern);
    case 'object':
      return isOfObjects(slotTraits, [when.pattern]);
    case 'picture':
      return slotTraits.pictures.includes(when.picture);
    case 'flat':
      return slotTraits.flat;
    case 'repeats':
      return slotTraits.repeats > 1.001;
    case 'alpha':
      return slotTraits.alphaMode !== 'OPAQUE';
  }
}

/** Where a slot is sent, and by what: by name before any rule, then the first rule that fits; null when it is left to be spread. */
export function routeOf(
  d: { routes: readonly Route[]; rules: readonly RouteRule[] },
  slotTraits: SlotTraits,
): { to: string; by: 'hand' | 'rule'; rule?: RouteRule } | null {
  const hand = routeTo(d.routes, slotTraits.name);
  if (hand !== undefined) return { to: hand, by: 'hand' };
  const rule = d.rules.find((rule) => fitsRule(rule.when, slotTraits));
  return rule ? { to: rule.to, by: 'rule', rule } : null;
}

/** A rule's condition in words, as the end of "every slot …". */
export function describeRule(when: RuleCondition, pictureName: (key: string) => string = (k) => k.slice(0, 8)): string {
  switch (when.kind) {
    case 'name':
      return `called ${when.pattern}`;
    case 'model':
      return `of ${when.pattern}`;
    case 'object':
      return `of objects called ${when.pattern}`;
    case 'picture':
      return `that reads ${pictureName(when.picture)} or an identical one`;
    case 'flat':
      return 'of one colour';
    case 'repeats':
      return 'whose texture repeats';
    case 'alpha':
      return 'with transparency';
  }
}
