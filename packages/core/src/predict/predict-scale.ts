import { type SheetDecision, SWATCH_SIDE, sheetSides } from '../decisions/sheets.ts';
import { type Sharpness, scaleLimit, sizeAt } from '../layout/sharpness.ts';
import { hasWholeBays, layCells, layStrips, type WholeTexture } from '../layout/whole-bays.ts';
import type { BayForm } from '../plan/assign.ts';
import type { PlanSlot } from './plan-slot.ts';

/** Something that takes room on a sheet: an island, or (area 0) a swatch. */
interface Bay extends Sharpness {
  /** Texels of the source. */
  area: number;
}

/** Share of a sheet that islands with their margins are assumed to fill: an assumption, not a measurement. */
const FILL = 0.8;

/** What of that is left for the islands alone at even density, where their margins are not counted one by one: assumed as well. */
const EVEN_FILL = 0.85;

/** What the reserves of a sheet leave free, px². */
function freeRoom(sheet: Pick<SheetDecision, 'size' | 'height' | 'reserves'>): number {
  const [w, h] = sheetSides(sheet);
  return Math.max(0, w * h - sheet.reserves.reduce((sum, reserve) => sum + reserve.width * reserve.height, 0));
}

export interface SheetEstimate {
  /** Common scale. */
  scale: number;
  coverage: number;
  /** px per texel of each group, where they do not follow from the common scale. */
  sizes?: number[];
  /** Where each group's bay lies, px, where that follows from sizes. */
  places?: BayPlace[];
}

export interface BayPlace {
  x: number;
  y: number;
  width: number;
  height: number;
}

/** What a sheet will be like; exact for strips and cells, an estimate for islands. A sheet on which they do not fit has scale 0. */
export function estimateSheet(
  groups: readonly (Sharpness & Pick<BayGroup, 'areas' | 'whole'>)[],
  sheet: SheetDecision,
): SheetEstimate {
  if (!hasWholeBays(sheet))
    return estimateScale(
      groups.flatMap((group): Bay[] =>
        group.areas.length === 0 ? [{ area: 0, factor: 0, most: 0 }] : group.areas.map((area) => ({ ...group, area })),
      ),
      sheet,
    );
  const [w, h] = sheetSides(sheet);
  if (groups.length === 0) return { scale: 1, coverage: 0, sizes: [] };
  const list = groups.map((group): WholeTexture => ({ ...group, width: group.whole[0], height: group.whole[1] }));
  const no = { scale: 0, coverage: 1, sizes: groups.map(() => 0) };
  if (sheet.kind === 'trim') {
    const found = layStrips(list, sheet);
    if (!found) return no;
    const sizes = found.strips.map((strip) => strip.scale);
    const places = found.strips.map(({ y, height }): BayPlace => ({ x: 0, y, width: w, height }));
    return { scale: found.common, coverage: places.reduce((sum, place) => sum + place.height, 0) / h, sizes, places };
  }
  const cells = layCells(list, sheet);
  if (!cells) return no;
  const sizes = cells.map((cell) => cell.scale);
  const places = cells.map(
    ({ x, y, scale }, i): BayPlace => ({ x, y, width: list[i].width * scale, height: list[i].height * scale }),
  );
  const covered = places.reduce((sum, place) => sum + place.width * place.height, 0);
  return { scale: Math.min(1, ...sizes), coverage: covered / (w * h), sizes, places };
}

/** The common scale at which the bays with half a margin around each fill the usable share of a sheet, and what they cover. */
function estimateScale(
  bays: readonly Bay[],
  sheet: Pick<SheetDecision, 'kind' | 'size' | 'height' | 'margin' | 'reserves' | 'swatch'>,
): { scale: number; coverage: number } {
  const swatch = sheet.kind === 'palette' ? sheet.swatch : SWATCH_SIDE;
  const sideOf = (bay: Bay, s: number) => (bay.area > 0 ? Math.sqrt(bay.area) * sizeAt(bay, s) : swatch);
  const taken = (s: number) => bays.reduce((sum, bay) => sum + (sideOf(bay, s) + sheet.margin) ** 2, 0);
  const [w, h] = sheetSides(sheet);
  const coverage = (s: number) => Math.min(1, bays.reduce((sum, bay) => sum + sideOf(bay, s) ** 2, 0) / (w * h));
  const room = FILL * freeRoom(sheet);
  let high = scaleLimit(bays.filter((bay) => bay.area > 0));
  if (taken(high) <= room) return { scale: high, coverage: coverage(high) };
  let low = 0;
  for (let i = 0; i < 40; i++) {
    const mid = (low + high) / 2;
    if (taken(mid) <= room) low = mid;
    else high = mid;
  }
  return { scale: low, coverage: coverage(low) };
}

/** The one density, px/m, at which everything fits its sheet, no sharper than the sharpest source; null when nothing is merged. */
export function estimateEvenDensity(
  bySheet: readonly (readonly PlanSlot[])[],
  sheets: readonly SheetDecision[],
): number | null {
  let lowest = Infinity;
  bySheet.forEach((slots, i) => {
    if (hasWholeBays(sheets[i])) return;
    const own = slots.filter((slot) => slot.density);
    const surface = own.reduce((sum, planSlot) => sum + planSlot.surface, 0);
    if (surface === 0) return;
    const filled = Math.sqrt((FILL * EVEN_FILL * freeRoom(sheets[i])) / surface);
    const sharpest = Math.max(...own.map((planSlot) => planSlot.density?.median ?? 0));
    lowest = Math.min(lowest, filled, sharpest);
  });
  return Number.isFinite(lowest) ? lowest : null;
}

/** Slots that share bays on a sheet: duplicates of one weight and form. */
export interface BayGroup<S = PlanSlot> extends Sharpness {
  slots: S[];
  form: BayForm;
  /** Texels of the bays, those that sample the same texels once; none for a swatch. */
  areas: number[];
  /** Size of the texture for a strip or a cell, texels. */
  whole: readonly [width: number, height: number];
}
