import type { Plan } from '../decisions/decisions.ts';
import type { Read } from '../decisions/reads.ts';
import { weightOf } from '../decisions/routes.ts';
import { mapSides, SHEET_MAPS, type SheetDecision, type SheetMap, sheetSides } from '../decisions/sheets.ts';
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
import { densityAt, PROFILE_PIECES } from '../survey/density.ts';
import { addTextureBytes, NO_TEXTURE_BYTES, type TextureBytes, textureBytes } from '../survey/texture-memory.ts';
import type { PlanSlot } from './plan-slot.ts';
import { DrawCallCounter } from './predict-calls.ts';
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
  /** Longest side at which it shows all that it has, px. */
  usefulSide?: number;
}

/** Size of a picture by its key. */
export type PictureSizes = (key: string) => PictureSize;

export type PredictDecisions = Read<'prediction'>;

/** A slot as the routes see it. */
export function assignable(f: PlanSlot): AssignableSlot {
  return {
    name: f.name,
    model: f.path,
    pictures: Object.values(f.images),
    flat: f.flat,
    repeats: f.repeats,
    alphaMode: f.alphaMode,
    classKey: f.classKey,
    obstacle: f.obstacle,
    unfit: f.unfit,
    uncut: f.uncut,
  };
}

/** Side at which a slot's pictures show all that they have, as a share of the longest. */
export function usefulShare(f: PlanSlot, sizes: PictureSizes): number {
  return usefulShareOf(Object.values(f.images).map(sizes));
}

/** The bays of slots on a sheet; slots of one colour share a swatch. */
export function bayGroups(
  own: readonly PlanSlot[],
  kind: SheetDecision['kind'],
  d: PredictDecisions,
  sizes: PictureSizes,
): BayGroup[] {
  const groups = new Map<string, { form: BayForm; slots: PlanSlot[] }>();
  for (const f of own) {
    const form = bayForm(f, kind, d);
    const key = `${weightOf(d.weights, f.name)} ${form} ${f.look}`;
    const known = groups.get(key);
    if (known) known.slots.push(f);
    else groups.set(key, { form, slots: [f] });
  }
  return [...groups.values()].map(({ form, slots }): BayGroup => {
    const areas = bayAreas(slots, form);
    const whole = slots[0].whole ?? [1, 1];
    if (areas.length === 0) return { form, slots, areas, whole, factor: 0, most: 0 };
    const scale = d.scale === 'even' ? 'relative' : d.scale;
    const sharpness = sharpnessOf(scale, weightOf(d.weights, slots[0].name), usefulShare(slots[0], sizes));
    return { form, slots, areas, whole, ...sharpness };
  });
}

/** The maps of a sheet with these slots. */
export function sheetMaps(sheet: Plan['sheets'][number], own: readonly PlanSlot[]): PredictedSheet['maps'] {
  if (own.length === 0) return [];
  return SHEET_MAPS.flatMap((map) => {
    if ((map === 'normal' || map === 'emissive') && !own.some((f) => f.maps[map])) return [];
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
  d: PredictDecisions,
  sizes: PictureSizes,
  packed: readonly (PackedFigures | null)[] = [],
): Prediction {
  const slots = withVertexColours(sources, d);
  const assigned = resolveRoutes(slots, d);
  const bySheet: PlanSlot[][] = d.sheets.map(() => []);
  assigned.forEach((a, i) => {
    if (a.sheet >= 0) bySheet[a.sheet].push(slots[i]);
  });
  const estimated = d.scale === 'even' ? estimateEvenDensity(bySheet, d.sheets) : null;
  const evenOf = (s: number) =>
    estimated === null || hasWholeBays(d.sheets[s]) ? null : (packed[s]?.evenDensity ?? estimated);
  const { sheets, ownSizes } = predictSheets(bySheet, d, sizes, packed, evenOf);
  const flows = assigned.map((a, i) =>
    flowOf(a, i, slots[i], sheets, d, a.sheet < 0 ? null : evenOf(a.sheet), sizes, ownSizes.get(slots[i])),
  );
  const cuts = cutTriangles(flows, slots, d);
  const shares = keptShares(slots, d.repairs.reduce);
  const sumParts = (f: (p: PlanSlot['parts'][number], share: number) => number) =>
    slots.reduce((n, s) => n + s.parts.reduce((k, p) => k + f(p, keptShare(shares, s.model, p.mesh)), 0), 0);
  const kept = storedTextures(
    flows.flatMap((f) => (f.sheet < 0 ? [slots[f.slot]] : [])),
    d,
    sizes,
  );
  return {
    flows,
    sheets,
    drawCalls: new DrawCallCounter(slots, d.join).count(
      assigned.map((a) => a.sheet),
      d.sheets,
    ),
    slots: outputSlots(slots, flows),
    textures: sheets.reduce((n, s) => n + s.maps.length, 0) + kept.length,
    bytes: [...sheets.map((s) => s.bytes), ...kept.map((k) => k.bytes)].reduce(addTextureBytes, {
      ...NO_TEXTURE_BYTES,
    }),
    triangles: sumParts((p, share) => Math.floor(p.own * share) * p.copies) + cuts,
    cutTriangles: cuts,
    gpuVertices: Math.round(sumParts((p, share) => p.gpuVertices * share) + VERTICES_A_CUT * cuts),
    largestTexture: Math.max(
      0,
      ...sheets.flatMap((s) => s.maps.map((m) => Math.max(m.width, m.height))),
      ...kept.map((k) => k.side),
    ),
    lowestDensity: lowestDensity(slots, flows, (sheet) => evenOf(sheet) !== null),
  };
}

/** The sheets of a plan, and px per texel of slots whose bays have sizes of their own. @param evenOf px/m of a sheet at even density, or null */
function predictSheets(
  bySheet: readonly PlanSlot[][],
  d: PredictDecisions,
  sizes: PictureSizes,
  packed: readonly (PackedFigures | null)[],
  evenOf: (sheet: number) => number | null,
): { sheets: PredictedSheet[]; ownSizes: Map<PlanSlot, number> } {
  const ownSizes = new Map<PlanSlot, number>();
  const sheets = d.sheets.map((sheet, s): PredictedSheet => {
    const own = bySheet[s];
    const groups = bayGroups(own, sheet.kind, d, sizes);
    const [width, height] = sheetSides(sheet);
    const found = packed[s];
    const estimate = estimateSheet(groups, sheet);
    const { scale, coverage } = found ?? estimate;
    estimate.sizes?.forEach((size, g) => {
      for (const f of groups[g].slots) ownSizes.set(f, size);
    });
    const maps = sheetMaps(sheet, own);
    const bytes = maps.reduce((n, m) => addTextureBytes(n, textureBytes(m.width, m.height)), {
      ...NO_TEXTURE_BYTES,
    } as TextureBytes);
    const evenCoverage = () => {
      const surface = own.reduce((n, f) => n + (f.density ? f.surface : 0), 0);
      return Math.min(1, (surface * (evenOf(s) ?? 0) ** 2) / (width * height));
    };
    return {
      coverage: evenOf(s) === null || found ? coverage : evenCoverage(),
      scale,
      slots: own.length,
      bays: groups.reduce((n, g) => n + Math.max(1, g.areas.length), 0),
      places: estimate.places ?? [],
      maps,
      bytes,
    };
  });
  return { sheets, ownSizes };
}

function flowOf(
  { allowed: _, ...a }: Assignment,
  slot: number,
  f: PlanSlot,
  sheets: readonly PredictedSheet[],
  d: PredictDecisions,
  even: number | null,
  sizes: PictureSizes,
  own: number | undefined,
): Flow {
  if (a.sheet < 0 || !f.density) return { ...a, slot, sharpness: 1, density: f.density };
  if (even !== null) {
    const [p5, median] = [f.evenProfile[1] * even, f.evenProfile[MEDIAN] * even];
    return { ...a, slot, sharpness: median / f.density.median, density: { p5, median } };
  }
  const s = sharpnessOf(d.scale === 'even' ? 'relative' : d.scale, weightOf(d.weights, f.name), usefulShare(f, sizes));
  const k = own ?? sizeAt(s, sheets[a.sheet].scale);
  return { ...a, slot, sharpness: k, density: { p5: f.density.p5 * k, median: f.density.median * k } };
}

/** Textures of slots that are not merged, mended as the repairs say; those with the same pixels and colour space once. */
export function storedTextures(apart: readonly PlanSlot[], d: PredictDecisions, sizes: PictureSizes) {
  const { repairs } = d;
  const kept = new Map<string, { bytes: TextureBytes; side: number }>();
  for (const f of apart)
    for (const [channel, own] of Object.entries(f.images)) {
      const colour = channel === 'baseColor' || channel === 'emissive';
      if (repairs.flatToFactor.includes(own)) continue;
      const key = repairs.shareNear[own] ?? own;
      const { width, height } = storedSize(sizes(key), repairs.storeAt[key]);
      kept.set(`${key}:${colour}`, { bytes: textureBytes(width, height), side: Math.max(width, height) });
    }
  return [...kept.values()];
}

/** Size of a picture that is stored at a smaller longest side. */
function storedSize(p: { width: number; height: number }, side: number | undefined): { width: number; height: number } {
  const k = side === undefined ? 1 : Math.min(1, side / Math.max(p.width, p.height));
  return { width: Math.max(1, Math.round(p.width * k)), height: Math.max(1, Math.round(p.height * k)) };
}

/** Which sheet each slot goes to: by hand or rule, else spread by area. */
function resolveRoutes(slots: readonly PlanSlot[], d: PredictDecisions): Assignment[] {
  const out = assign(slots.map(assignable), d);
  // Duplicates stay together unless they were routed or weighted apart by hand, so areas are counted once a look.
  const groups = new Map<string, { members: Assignment[]; slots: PlanSlot[]; form: BayForm }>();
  out.forEach((a, i) => {
    if (a.code) return;
    const s = slots[i];
    const form = formOf(a, s, d);
    const key = `${a.spread ? '' : a.sheet} ${weightOf(d.weights, s.name)} ${form} ${s.look}`;
    const known = groups.get(key);
    if (known) {
      known.members.push(a);
      known.slots.push(s);
    } else groups.set(key, { members: [a], slots: [s], form });
  });
  const rows = [...groups.values()].map((g) => ({
    area: bayAreas(g.slots, g.form).reduce((n, a) => n + a, 0),
    sheet: g.members[0].sheet,
    allowed: g.members[0].allowed,
    members: g.members,
  }));
  spread(rows, capacities(d.sheets)).forEach((sheet, g) => {
    for (const a of rows[g].members) a.sheet = sheet;
  });
  return out;
}

/** A slot that is spread goes to an atlas or a palette. */
const formOf = (a: Pick<Assignment, 'sheet'>, s: PlanSlot, d: PredictDecisions): BayForm =>
  bayForm(s, a.sheet < 0 ? 'atlas' : d.sheets[a.sheet].kind, d);

/** Texels of the bays of duplicates: of their islands, those that sample the same texels once, or of the whole texture. */
function bayAreas(duplicates: readonly PlanSlot[], form: BayForm): number[] {
  if (form !== 'islands') return duplicates[0].whole ? [duplicates[0].whole[0] * duplicates[0].whole[1]] : [];
  return [...new Map(duplicates.flatMap((f) => f.islands.map((i) => [i.key, i.area] as const))).values()];
}

/** What cutting at repeats adds. */
function cutTriangles(flows: readonly Flow[], slots: readonly PlanSlot[], d: PredictDecisions): number {
  return flows.reduce((n, f) => {
    const s = slots[f.slot];
    const axes = f.sheet < 0 ? null : cutAxes(s, d.sheets[f.sheet].kind, d);
    if (!axes) return n;
    return n + ((axes === 'both' ? s.cut : s.stripCut)?.triangles ?? 0);
  }, 0);
}

function outputSlots(slots: readonly PlanSlot[], flows: readonly Flow[]): number {
  const perModel = new Set<string>();
  for (const f of flows) {
    const s = slots[f.slot];
    perModel.add(f.sheet < 0 ? `${s.model}:own ${s.slot}` : `${s.model}:${f.sheet} ${s.classKey}`);
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
    flows.flatMap((f) => {
      const s = slots[f.slot];
      if (f.sheet < 0 || !f.density) return [];
      const even = isEven(f.sheet);
      const factor = even ? f.density.median / s.evenProfile[MEDIAN] : f.sharpness;
      return [{ profile: even ? s.evenProfile : s.densityProfile, factor, surface: s.surface }];
    }),
    0.05,
  );
}
