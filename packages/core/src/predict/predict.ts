import type { Plan } from '../decisions/decisions.ts';
import type { Read } from '../decisions/reads.ts';
import { weightOf } from '../decisions/routes.ts';
import type { SlotTraits } from '../decisions/rules.ts';
import { mapSides, type SheetDecision, type SheetMap, sheetSides } from '../decisions/sheets.ts';
import { addTextureBytes, NO_TEXTURE_BYTES, type TextureBytes, textureBytes } from '../image/texture-memory.ts';
import type { PackedFigures } from '../layout/coverage.ts';
import { sharpnessOf, sizeAt, usefulShareOf } from '../layout/sharpness.ts';
import { hasWholeBays } from '../layout/whole-bays.ts';
import {
  type AssignableSlot,
  type Assignment,
  assign,
  type BayForm,
  bayForm,
  capacities,
  cutAxes,
  spread,
} from '../plan/assign.ts';
import { DrawCallCounter, joiningOf } from '../plan/draw-calls.ts';
import { storedKey } from '../plan/route.ts';
import { neededMaps } from '../plan/sheet-maps.ts';
import { densityAt, PROFILE_PIECES } from '../survey/density.ts';
import type { PlanSlot } from './plan-slot.ts';
import type { BayGroup } from './predict-scale.ts';
import { type BayPlace, estimateEvenDensity, estimateSheet } from './predict-scale.ts';
import { keptShare, keptShares } from './reduction.ts';
import { withVertexColours } from './vertex-colours.ts';

/** GPU vertices that come with each triangle of a cut: a piece has four corners of its own and two triangles, assumed. */
const VERTICES_A_CUT = 2;

/** Position of the median in a profile. */
const MEDIAN = PROFILE_PIECES / 2;

/** Where a slot goes and what it carries there. */
export interface Flow extends Omit<Assignment, 'allowed'> {
  /** Position in the facts. */
  slot: number;
  /** px per texel of its source: 1 = as sharp. */
  sharpness: number;
  /** Texel density that it will have, px/m; null without a picture. */
  density: { p5: number; median: number } | null;
}

export interface PredictedSheet {
  /** Share that its islands will cover. */
  coverage: number;
  /** Common scale: px per texel of the sources, weights aside. */
  scale: number;
  slots: number;
  bays: number;
  /** Where strips and cells lie, px. */
  places: BayPlace[];
  /** Which maps it will have, with their sizes. */
  maps: { map: SheetMap; width: number; height: number }[];
  bytes: TextureBytes;
}

export interface Prediction {
  flows: Flow[];
  sheets: PredictedSheet[];
  drawCalls: number;
  slots: number;
  textures: number;
  bytes: TextureBytes;
  /** Exact, but for meshes that are reduced: these may come out with a few less. */
  triangles: number;
  /** How many of them cutting at repeats adds. */
  cutTriangles: number;
  /** An estimate: what the sources have, less what is reduced, more what is cut. */
  gpuVertices: number;
  /** Longest side of any texture, px. */
  largestTexture: number;
  /** Area-weighted 5 % of the texel density on sheets, px/m; null when nothing is merged. */
  lowestDensity: number | null;
}

/** What a prediction reads of a picture. */
export interface PictureSize {
  width: number;
  height: number;
  /** Every texel is the same; false unless given. */
  flat?: boolean;
  /** Longest side at which it shows all that it has, px. */
  usefulSide?: number;
}

/** Size of a picture by its key. */
export type PictureSizes = (key: string) => PictureSize;

export type PredictDecisions = Read<'prediction'>;

/** A slot as rules see it. */
export const traitsOf = (planSlot: PlanSlot): SlotTraits => ({
  name: planSlot.name,
  model: planSlot.path,
  objects: planSlot.objects ?? [],
  pictures: Object.values(planSlot.images),
  flat: planSlot.flat,
  repeats: planSlot.repeats,
  alphaMode: planSlot.alphaMode,
});

/** A slot as the routes see it. */
export function assignable(planSlot: PlanSlot, decisions: PredictDecisions, sizes: PictureSizes): AssignableSlot {
  return {
    ...traitsOf(planSlot),
    classKey: planSlot.classKey,
    obstacle: planSlot.obstacle,
    unfit: planSlot.unfit,
    uncut: planSlot.uncut,
    look: planSlot.look,
    textures: storedTextures([planSlot], decisions, sizes).map(({ key, bytes }) => ({ key, bytes: bytes.bc7 })),
    drawn: planSlot,
  };
}

/** Side at which a slot's pictures show all that they have, as a share of the longest. */
export function usefulShare(planSlot: PlanSlot, sizes: PictureSizes): number {
  return usefulShareOf(Object.values(planSlot.images).map(sizes));
}

/** The bays of slots on a sheet; slots of one colour share a swatch. */
export function bayGroups(
  own: readonly PlanSlot[],
  kind: SheetDecision['kind'],
  decisions: PredictDecisions,
  sizes: PictureSizes,
): BayGroup[] {
  const groups = new Map<string, { form: BayForm; slots: PlanSlot[] }>();
  for (const planSlot of own) {
    const form = bayForm(planSlot, kind, decisions);
    const key = `${weightOf(decisions.weights, planSlot.name)} ${form} ${planSlot.look}`;
    const known = groups.get(key);
    if (known) known.slots.push(planSlot);
    else groups.set(key, { form, slots: [planSlot] });
  }
  return [...groups.values()].map(({ form, slots }): BayGroup => {
    const areas = bayAreas(slots, form);
    const whole = slots[0].whole ?? [1, 1];
    if (areas.length === 0) return { form, slots, areas, whole, factor: 0, most: 0 };
    const scale = decisions.scale === 'even' ? 'relative' : decisions.scale;
    const sharpness = sharpnessOf(scale, weightOf(decisions.weights, slots[0].name), usefulShare(slots[0], sizes));
    return { form, slots, areas, whole, ...sharpness };
  });
}

/** The maps of a sheet with these slots. */
export function sheetMaps(sheet: Plan['sheets'][number], own: readonly PlanSlot[]): PredictedSheet['maps'] {
  return neededMaps(own).flatMap((map) => {
    const sides = mapSides(sheet, map);
    return sides ? [{ map, width: sides[0], height: sides[1] }] : [];
  });
}

/**
 * What a plan will cost, before anything is packed or baked. Draw calls, slots, textures and memory are exact; coverage,
 * scale and density are estimates, until `packed` brings what packing found. Pure and quick: it runs while a slot is being dragged.
 *
 * @param packed by sheet
 */
export function predict(
  sources: readonly PlanSlot[],
  decisions: PredictDecisions,
  sizes: PictureSizes,
  packed: readonly (PackedFigures | null)[] = [],
): Prediction {
  const slots = withVertexColours(sources, decisions);
  const assigned = resolveRoutes(slots, decisions, sizes);
  const bySheet: PlanSlot[][] = decisions.sheets.map(() => []);
  assigned.forEach((assignment, i) => {
    if (assignment.sheet >= 0) bySheet[assignment.sheet].push(slots[i]);
  });
  const estimated = decisions.scale === 'even' ? estimateEvenDensity(bySheet, decisions.sheets) : null;
  const evenOf = (s: number) =>
    estimated === null || hasWholeBays(decisions.sheets[s]) ? null : (packed[s]?.evenDensity ?? estimated);
  const { sheets, ownSizes } = predictSheets(bySheet, decisions, sizes, packed, evenOf);
  const flows = assigned.map((assignment, i) =>
    flowOf(assignment, {
      slot: i,
      planSlot: slots[i],
      sheets,
      decisions,
      even: assignment.sheet < 0 ? null : evenOf(assignment.sheet),
      sizes,
      own: ownSizes.get(slots[i]),
    }),
  );
  const cuts = cutTriangles(flows, slots, decisions);
  const shares = keptShares(slots, decisions.repairs.reduce);
  const sumParts = (f: (p: PlanSlot['parts'][number], share: number) => number) =>
    slots.reduce(
      (sum, slot) => sum + slot.parts.reduce((k, part) => k + f(part, keptShare(shares, slot.model, part.mesh)), 0),
      0,
    );
  const kept = storedTextures(keptSlots(slots, flows), decisions, sizes);
  return {
    flows,
    sheets,
    drawCalls: new DrawCallCounter(slots, joiningOf(decisions)).count(assigned.map((assignment) => assignment.sheet)),
    slots: outputSlots(slots, flows),
    textures: sheets.reduce((sum, sheet) => sum + sheet.maps.length, 0) + kept.length,
    bytes: [...sheets.map((sheet) => sheet.bytes), ...kept.map((k) => k.bytes)].reduce(addTextureBytes, {
      ...NO_TEXTURE_BYTES,
    }),
    triangles: sumParts((p, share) => Math.floor(p.own * share) * p.copies) + cuts,
    cutTriangles: cuts,
    gpuVertices: Math.round(sumParts((p, share) => p.gpuVertices * share) + VERTICES_A_CUT * cuts),
    largestTexture: Math.max(
      0,
      ...sheets.flatMap((sheet) => sheet.maps.map((map) => Math.max(map.width, map.height))),
      ...kept.map((k) => k.side),
    ),
    lowestDensity: lowestDensity(slots, flows, (sheet) => evenOf(sheet) !== null),
  };
}

/** Slots that keep their textures: all but those that are merged, and those that are not drawn and follow a merged one of the same look. */
function keptSlots(slots: readonly PlanSlot[], flows: readonly Flow[]): PlanSlot[] {
  const merged = new Set(flows.flatMap((flow) => (flow.sheet < 0 ? [] : [slots[flow.slot].look])));
  const follows = ({ obstacle, look }: PlanSlot) => obstacle?.code === 'not-drawn' && merged.has(look);
  return flows.flatMap(({ sheet, slot }) => (sheet < 0 && !follows(slots[slot]) ? [slots[slot]] : []));
}

/** The sheets of a plan, and px per texel of slots whose bays have sizes of their own. @param evenOf px/m of a sheet at even density, or null */
function predictSheets(
  bySheet: readonly PlanSlot[][],
  decisions: PredictDecisions,
  sizes: PictureSizes,
  packed: readonly (PackedFigures | null)[],
  evenOf: (sheet: number) => number | null,
): { sheets: PredictedSheet[]; ownSizes: Map<PlanSlot, number> } {
  const ownSizes = new Map<PlanSlot, number>();
  const sheets = decisions.sheets.map((sheet, s): PredictedSheet => {
    const own = bySheet[s];
    const groups = bayGroups(own, sheet.kind, decisions, sizes);
    const [width, height] = sheetSides(sheet);
    const found = packed[s];
    const estimate = estimateSheet(groups, sheet);
    const { scale, coverage } = found ?? estimate;
    estimate.sizes?.forEach((size, g) => {
      for (const slot of groups[g].slots) ownSizes.set(slot, size);
    });
    const maps = sheetMaps(sheet, own);
    const bytes = maps.reduce((n, map) => addTextureBytes(n, textureBytes(map.width, map.height)), {
      ...NO_TEXTURE_BYTES,
    } as TextureBytes);
    const evenCoverage = () => {
      const surface = own.reduce((sum, planSlot) => sum + (planSlot.density ? planSlot.surface : 0), 0);
      return Math.min(1, (surface * (evenOf(s) ?? 0) ** 2) / (width * height));
    };
    return {
      coverage: evenOf(s) === null || found ? coverage : evenCoverage(),
      scale,
      slots: own.length,
      bays: groups.reduce((greatest, group) => greatest + Math.max(1, group.areas.length), 0),
      places: estimate.places ?? [],
      maps,
      bytes,
    };
  });
  return { sheets, ownSizes };
}

interface FlowInput {
  slot: number;
  planSlot: PlanSlot;
  sheets: readonly PredictedSheet[];
  decisions: PredictDecisions;
  even: number | null;
  sizes: PictureSizes;
  own: number | undefined;
}

function flowOf(
  { allowed: _, ...a }: Assignment,
  { slot, planSlot, sheets, decisions, even, sizes, own }: FlowInput,
): Flow {
  if (a.sheet < 0 || !planSlot.density) return { ...a, slot, sharpness: 1, density: planSlot.density };
  if (even !== null) {
    const [p5, median] = [planSlot.evenProfile[1] * even, planSlot.evenProfile[MEDIAN] * even];
    return { ...a, slot, sharpness: median / planSlot.density.median, density: { p5, median } };
  }
  const sharpness = sharpnessOf(
    decisions.scale === 'even' ? 'relative' : decisions.scale,
    weightOf(decisions.weights, planSlot.name),
    usefulShare(planSlot, sizes),
  );
  const k = own ?? sizeAt(sharpness, sheets[a.sheet].scale);
  return { ...a, slot, sharpness: k, density: { p5: planSlot.density.p5 * k, median: planSlot.density.median * k } };
}

/** Textures of slots that are not merged, mended as the repairs say; those with the same pixels and colour space once. */
export function storedTextures(apart: readonly PlanSlot[], decisions: PredictDecisions, sizes: PictureSizes) {
  const { repairs } = decisions;
  const kept = new Map<string, { key: string; bytes: TextureBytes; side: number }>();
  for (const planSlot of apart)
    for (const [channel, own] of Object.entries(planSlot.images)) {
      if (repairs.flatToFactor.includes(own)) continue;
      const picture = repairs.shareNear[own] ?? own;
      const { width, height } = storedSize(sizes(picture), repairs.storeAt[picture]);
      const key = storedKey(picture, channel);
      kept.set(key, { key, bytes: textureBytes(width, height), side: Math.max(width, height) });
    }
  return [...kept.values()];
}

/** Size of a picture that is stored at a smaller longest side. */
function storedSize(p: { width: number; height: number }, side: number | undefined): { width: number; height: number } {
  const k = side === undefined ? 1 : Math.min(1, side / Math.max(p.width, p.height));
  return { width: Math.max(1, Math.round(p.width * k)), height: Math.max(1, Math.round(p.height * k)) };
}

/** Which sheet each slot goes to: by hand or rule, else spread by area. */
function resolveRoutes(slots: readonly PlanSlot[], decisions: PredictDecisions, sizes: PictureSizes): Assignment[] {
  const out = assign(
    slots.map((slot) => assignable(slot, decisions, sizes)),
    decisions,
  );
  // Duplicates stay together unless they were routed or weighted apart by hand, so areas are counted once a look.
  const groups = new Map<string, { members: Assignment[]; slots: PlanSlot[]; form: BayForm }>();
  out.forEach((assignment, i) => {
    if (assignment.code) return;
    const planSlot = slots[i];
    const form = formOf(assignment, planSlot, decisions);
    const key = `${assignment.spread ? '' : assignment.sheet} ${weightOf(decisions.weights, planSlot.name)} ${form} ${planSlot.look}`;
    const known = groups.get(key);
    if (known) {
      known.members.push(assignment);
      known.slots.push(planSlot);
    } else groups.set(key, { members: [assignment], slots: [planSlot], form });
  });
  const rows = [...groups.values()].map((group) => ({
    area: bayAreas(group.slots, group.form).reduce((sum, a) => sum + a, 0),
    sheet: group.members[0].sheet,
    allowed: group.members[0].allowed,
    members: group.members,
  }));
  spread(rows, capacities(decisions.sheets)).forEach((sheet, g) => {
    for (const member of rows[g].members) member.sheet = sheet;
  });
  return out;
}

/** A slot that is spread goes to an atlas or a palette. */
const formOf = (assignment: Pick<Assignment, 'sheet'>, planSlot: PlanSlot, decisions: PredictDecisions): BayForm =>
  bayForm(planSlot, assignment.sheet < 0 ? 'atlas' : decisions.sheets[assignment.sheet].kind, decisions);

/** Texels of the bays of duplicates: of their islands, those that sample the same texels once, or of the whole texture. */
function bayAreas(duplicates: readonly PlanSlot[], form: BayForm): number[] {
  if (form !== 'islands') return duplicates[0].whole ? [duplicates[0].whole[0] * duplicates[0].whole[1]] : [];
  return [
    ...new Map(duplicates.flatMap((duplicate) => duplicate.islands.map((i) => [i.key, i.area] as const))).values(),
  ];
}

/** What cutting at repeats adds. */
function cutTriangles(flows: readonly Flow[], slots: readonly PlanSlot[], decisions: PredictDecisions): number {
  return flows.reduce((sum, flow) => {
    const planSlot = slots[flow.slot];
    const axes = flow.sheet < 0 ? null : cutAxes(planSlot, decisions.sheets[flow.sheet].kind, decisions);
    if (!axes) return sum;
    return sum + ((axes === 'both' ? planSlot.cut : planSlot.stripCut)?.triangles ?? 0);
  }, 0);
}

function outputSlots(slots: readonly PlanSlot[], flows: readonly Flow[]): number {
  const perModel = new Set<string>();
  for (const flow of flows) {
    const planSlot = slots[flow.slot];
    if (planSlot.obstacle?.code === 'not-drawn') continue;
    perModel.add(
      flow.sheet < 0
        ? `${planSlot.model}:own ${planSlot.slot}`
        : `${planSlot.model}:${flow.sheet} ${planSlot.classKey}`,
    );
  }
  return perModel.size;
}

/** Area-weighted 5 % over everything on sheets. @param isEven all of a slot has one density there */
function lowestDensity(
  slots: readonly PlanSlot[],
  flows: readonly Flow[],
  isEven: (sheet: number) => boolean,
): number | null {
  return densityAt(
    flows.flatMap((flow) => {
      const planSlot = slots[flow.slot];
      if (flow.sheet < 0 || !flow.density) return [];
      const even = isEven(flow.sheet);
      const factor = even ? flow.density.median / planSlot.evenProfile[MEDIAN] : flow.sharpness;
      return [{ profile: even ? planSlot.evenProfile : planSlot.densityProfile, factor, surface: planSlot.surface }];
    }),
    0.05,
  );
}
