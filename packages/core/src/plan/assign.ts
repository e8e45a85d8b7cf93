import type { CutAxes } from '../cut/cut-repeats.ts';
import type { LeftOut, Plan } from '../decisions/decisions.ts';
import type { Read } from '../decisions/reads.ts';
import { APART, isOfObjects, mergesWithoutGain, routeOf, type SlotTraits } from '../decisions/rules.ts';
import { type SheetDecision, type SheetKind, sheetSides } from '../decisions/sheets.ts';
import { type ClassKeyParts, extensionWords } from './class-names.ts';
import { joiningOf } from './draw-calls.ts';
import { classesWithoutGain, type NoGain, type WeighedSlot } from './worth.ts';

/** Why a slot is not merged, as a word for programs. */
export type ApartCode =
  | 'named'
  | 'rule'
  | 'extension'
  | 'variants'
  | 'points'
  | 'no-uvs'
  | 'not-drawn'
  | 'not-chosen'
  | 'repeats'
  | 'no-gain'
  | 'starved'
  | 'wrap'
  | 'kind';

export interface Obstacle {
  code: ApartCode;
  reason: string;
}

/** What decides where a slot goes, as plain data. */
export interface AssignableSlot extends SlotTraits, WeighedSlot {
  /** Slots of other classes never share an output material. */
  classKey: string;
  /** Why it cannot go on a sheet, whatever is decided; repeats aside. */
  obstacle: Obstacle | null;
  /** Why it cannot go on a sheet of that kind. */
  unfit: Partial<Record<SheetKind, string>>;
  /** Why it cannot be cut at its repeats, or null. */
  uncut: string | null;
}

/** True when a slot is cut at the repeats of its texture: it is to be, it can be, and it is merged. */
function isCut(slot: Pick<AssignableSlot, 'name' | 'uncut'>, plan: Pick<Plan, 'cutRepeats'>): boolean {
  return slot.uncut === null && plan.cutRepeats.includes(slot.name);
}

/** The form of a slot's bay on a sheet of a kind. */
export function bayForm(
  slot: Pick<AssignableSlot, 'name' | 'uncut'>,
  kind: SheetKind,
  plan: Pick<Plan, 'cutRepeats'>,
): BayForm {
  if (kind === 'trim') return 'strip';
  return kind === 'tile' || (kind === 'atlas' && isCut(slot, plan)) ? 'cell' : 'islands';
}

/**
 * Along which axes a slot is cut on a sheet of a kind, or null. In a cell its texture lies once, so it is cut both ways; a strip goes on
 * repeating along U, so it is cut along V alone, and only where it repeats that way.
 */
export function cutAxes(
  slot: Pick<AssignableSlot, 'name' | 'uncut' | 'unfit'>,
  kind: SheetKind,
  plan: Pick<Plan, 'cutRepeats'>,
): CutAxes | null {
  if (!isCut(slot, plan)) return null;
  const form = bayForm(slot, kind, plan);
  if (form === 'strip') return slot.unfit.trim ? 'v' : null;
  return form === 'cell' ? 'both' : null;
}

export interface Assignment {
  /** Position among the sheets; −1: kept apart, or still to be spread. */
  sheet: number;
  /** It has no route of its own: it goes to the emptiest of `allowed`. */
  spread: boolean;
  /** Sheets that it may be spread to. */
  allowed: number[];
  /** What sent it there. */
  by: 'hand' | 'rule' | 'spread' | 'none';
  code?: ApartCode;
  reason?: string;
}

/** What of a plan decides the routes. */
export type RouteDecisions = Read<'routing'>;

/** How a slot lies on its sheet: each island in a place of its own, or its whole texture on a strip or in a cell. */
export type BayForm = 'islands' | 'strip' | 'cell';

/** Why a slot stays as it is when nothing is merged. */
const KEEP_ALL = 'nothing is merged in this plan';

const KIND_TITLES: Record<SheetKind, string> = {
  atlas: 'atlas',
  trim: 'trim sheet',
  tile: 'tile sheet',
  palette: 'palette',
};

/**
 * Decides for every slot whether it is merged and, where it was sent to a sheet, to which. Rules: "Materials → sheet", last
 * paragraph but one. What nothing would be gained by is kept apart, unless somebody routed it.
 */
export function assign(slots: readonly AssignableSlot[], decisions: RouteDecisions): Assignment[] {
  const out = slots.map((slot) => assignOne(slot, decisions));
  if (mergesWithoutGain(decisions)) return out;
  const useless = classesWithoutGain(slots, out, decisions.sheets, joiningOf(decisions));
  return out.map((assignment, i) => {
    const { classKey } = slots[i];
    const noGain = assignment.spread ? useless.get(classKey) : undefined;
    return noGain ? apart('no-gain', noGainReason(classKey, noGain)) : assignment;
  });
}

/** A list as a sentence has it, cut short. */
const listed = (names: readonly string[]): string =>
  names.length > 3 ? `${names.slice(0, 3).join(', ')}, …` : names.join(' and ');

const MIB = 1024 ** 2;

function noGainReason(classKey: string, { merged, apart }: NoGain): string {
  const mib = (bytes: number) => (bytes / MIB).toFixed(bytes < MIB ? 2 : 1);
  return `merging it (${describeClass(classKey)}) would save no draw call, and take ${mib(merged)} MiB of textures instead of ${mib(apart)}`;
}

/** Why a proposal leaves a slot out, in words. */
const LEFT_OUT: Record<LeftOut['why'], string> = {
  'no-gain': 'merging it would gain nothing: no draw call, texture or memory is saved',
  starved: 'it needs so much of its sheet that too little sharpness would be left there',
};

function assignOne(assignableSlot: AssignableSlot, decisions: RouteDecisions): Assignment {
  if (decisions.keepAll) return apart('named', KEEP_ALL);
  if (decisions.only.length > 0 && !isOfObjects(assignableSlot, decisions.only))
    return apart('not-chosen', `only ${listed(decisions.only)} ${decisions.only.length === 1 ? 'is' : 'are'} merged`);
  const to = routeOf(decisions, assignableSlot);
  if (to?.to === APART)
    return to.by === 'hand' ? apart('named', 'kept apart by name') : apart('rule', 'kept apart by a rule');
  if (assignableSlot.obstacle) return apart(assignableSlot.obstacle.code, assignableSlot.obstacle.reason);
  const leftOut = to ? undefined : decisions.leftOut.find((x) => x.slot === assignableSlot.name);
  if (leftOut && !(leftOut.why === 'no-gain' && mergesWithoutGain(decisions)))
    return apart(leftOut.why, LEFT_OUT[leftOut.why]);
  const sheet = to ? decisions.sheets.findIndex((x) => x.id === to.to) : -1;
  if (sheet >= 0) {
    const { kind, name } = decisions.sheets[sheet];
    const why = refusal(assignableSlot, kind, decisions);
    if (why) return apart(why.code, why.code === 'kind' ? `it cannot go on ${name}: ${why.reason}` : why.reason);
    return { sheet, spread: false, allowed: [], by: (to as { by: 'hand' | 'rule' }).by };
  }
  const allowed = sheetsFor(assignableSlot, decisions.sheets);
  if (allowed.length === 0)
    return apart('kind', 'only atlases take slots by themselves, and there is none; route it by hand');
  const why = refusal(assignableSlot, decisions.sheets[allowed[0]].kind, decisions);
  if (why) return apart(why.code, why.reason);
  return { sheet: -1, spread: true, allowed, by: 'spread' };
}

/** Why a slot cannot go on a sheet of a kind as the plan stands, or null. */
export function refusal(
  assignableSlot: AssignableSlot,
  kind: SheetKind,
  plan: Pick<Plan, 'maxRepeats' | 'bakeRepeats' | 'cutRepeats'>,
): Obstacle | null {
  // Once it is cut, no face reaches over an edge of the texture that it is cut along.
  const unfit = cutAxes(assignableSlot, kind, plan) ? undefined : assignableSlot.unfit[kind];
  if (unfit) return { code: 'kind', reason: `${unfit}, which a ${KIND_TITLES[kind]} does not hold` };
  if (
    kind === 'atlas' &&
    assignableSlot.repeats > plan.maxRepeats + 1e-4 &&
    !plan.bakeRepeats.includes(assignableSlot.name) &&
    !isCut(assignableSlot, plan)
  )
    return { code: 'repeats', reason: repeatsReason(assignableSlot.repeats, plan.maxRepeats) };
  return null;
}

/** Sheets that a slot goes to by itself: palettes where it has one colour and there are some, else atlases. */
function sheetsFor(assignableSlot: AssignableSlot, sheets: readonly SheetDecision[]): number[] {
  const of = (kind: SheetKind) => sheets.flatMap((x, i) => (x.kind === kind ? [i] : []));
  const palettes = assignableSlot.flat ? of('palette') : [];
  return palettes.length > 0 ? palettes : of('atlas');
}

function apart(code: ApartCode, reason: string): Assignment {
  return { sheet: -1, spread: false, allowed: [], by: 'none', code, reason };
}

function repeatsReason(repeats: number, limit: number): string {
  return `its texture repeats ${repeats.toFixed(1)} times across an island; up to ${limit} repeats are baked in`;
}

/** A class in words. */
function describeClass(key: string): string {
  const [alphaMode, , doubleSided, unlit, sampler, extensions] = JSON.parse(key) as ClassKeyParts;
  const words = [{ OPAQUE: 'opaque', MASK: 'alpha-tested', BLEND: 'alpha-blended' }[alphaMode]];
  if (doubleSided) words.push('double-sided');
  if (unlit) words.push('unlit');
  if (sampler?.[0] === 'nearest') words.push('magnified without blending');
  if (sampler?.[1] === 'no mips') words.push('read without mips');
  const carried = extensionWords(extensions);
  if (carried.length > 0) words.push(`with ${carried.join(', ')} of these values`);
  return words.join(' and ');
}

/** Texels of each sheet. */
export const capacities = (sheets: readonly Pick<SheetDecision, 'size' | 'height'>[]): number[] =>
  sheets.map((sheet) => sheetSides(sheet).reduce((sum, b) => sum * b, 1));

/** Slots that go to one sheet together. */
export interface SlotGroup {
  /** Texels that it takes. */
  area: number;
  /** Position of the sheet that it was routed to; −1: it is spread. */
  sheet: number;
  /** Sheets that it may be spread to. */
  allowed: readonly number[];
}

/**
 * Spreads groups of slots over sheets: largest area first, each to the allowed sheet that is least full after it; the first of equals.
 * @param room texels of each sheet
 * @returns the sheet of each group, by position; that of a routed group is the one it has
 */
export function spread(groups: readonly SlotGroup[], room: readonly number[]): number[] {
  const sheets = groups.map((group) => group.sheet);
  const load = room.map(() => 0);
  for (const group of groups) if (group.sheet >= 0) load[group.sheet] += group.area;
  const order = groups
    .flatMap((group, i) => (group.sheet < 0 ? [i] : []))
    .sort((a, b) => groups[b].area - groups[a].area || a - b);
  for (const i of order) {
    const slotGroup = groups[i];
    const after = (s: number) => (load[s] + slotGroup.area) / room[s];
    let best = slotGroup.allowed[0];
    for (const s of slotGroup.allowed) if (after(s) < after(best)) best = s;
    sheets[i] = best;
    load[best] += slotGroup.area;
  }
  return sheets;
}
