import type { MergeDecisions } from '@wembrel/core/decisions/decisions';
import { PROPOSED_SIDES, type SheetDecision, sheetSides } from '@wembrel/core/decisions/sheets';
import { InputError } from '@wembrel/core/errors';
import { packSheets, scaleFactors } from '@wembrel/core/layout/layout';
import { isSheetCrowded } from '@wembrel/core/layout/pack-sheet';
import { scaleLimit } from '@wembrel/core/layout/sharpness';
import { tangentsReady } from '@wembrel/core/mesh/tangents';
import { storedTextures } from '@wembrel/core/predict/predict';
import { sourceMemory } from '@wembrel/core/predict/propose/score';
import type { StageContext } from '../stages/context.ts';
import { gatherPlots } from '../stages/lay-out.ts';
import { routePlanned } from '../stages/route.ts';
import { type PlanBasis, predictBasis, proposeBasis } from './plan-basis.ts';

/** Sides of sheets, px, each followed by its half: in order of area. */
const SHAPES = PROPOSED_SIDES.flatMap((side, i): [number, number][] =>
  i === 0
    ? [[side, side]]
    : [
        [side, side / 2],
        [side, side],
      ],
);

/** Rounds of the packer while sizes are tried. */
const TRIAL_EFFORT = 1;

/** What is said of the default plan before it is made. */
export interface DefaultPlanOptions {
  /** Each object gets a sheet of its own; see `planForEachObject`. */
  eachObject?: boolean;
  /** Sheets at most; otherwise one, or more where one is not enough. */
  sheets?: number;
  /** How sharp islands are, where somebody said so; otherwise by detail. */
  scale?: MergeDecisions['scale'];
}

/**
 * The plan that a project begins with; reference, "Worth it": what gains something is merged, on sheets of the least size at which everything has the
 * sharpness that its source really has, within the memory of the sources. Sizes are found by packing, and stand in the plan as numbers.
 * @throws Cancelled
 */
export async function defaultPlan(
  basis: PlanBasis,
  decisions: MergeDecisions,
  context: StageContext,
  options: DefaultPlanOptions = {},
): Promise<MergeDecisions> {
  await tangentsReady;
  context.report('plan', 0.5, 'weighing what is gained');
  if (decisions.only.length > 0 && (options.sheets ?? 1) === 1)
    return planForChosen(basis, decisions, context, options);
  const proposal = proposeBasis(basis, decisions, context.scope, { sheets: options.sheets, cautious: true });
  let found = { ...proposal.decisions, scale: options.scale ?? proposal.decisions.scale };
  const proposed = new Set(proposal.sheets.map((sheet) => sheet.id));
  for (const [s, sheet] of found.sheets.entries())
    if (proposed.has(sheet.id)) found = withSheet(found, s, leastSheet(basis, found, s, context));
  return {
    ...found,
    proposed: found.proposed && { ...found.proposed, sheets: found.sheets.filter((x) => proposed.has(x.id)) },
  };
}

/**
 * A plan in which each object has a sheet of its own, of the least size at which it has its sharpness.
 * @param basis of models whose objects have slots of their own @throws Cancelled
 */
export async function planForEachObject(
  basis: PlanBasis,
  decisions: MergeDecisions,
  context: StageContext,
): Promise<MergeDecisions> {
  await tangentsReady;
  let found = decisions;
  for (const key of decisions.sheets.keys()) found = withSheet(found, key, leastSheet(basis, found, key, context));
  return found;
}

/** Who chooses objects wants them on one sheet, as sharp as they are, whatever that takes. */
function planForChosen(
  basis: PlanBasis,
  decisions: MergeDecisions,
  context: StageContext,
  { scale }: DefaultPlanOptions,
): MergeDecisions {
  const sheets = decisions.sheets.slice(0, 1);
  const plain: MergeDecisions = { ...decisions, sheets, routes: [], leftOut: [], scale: scale ?? 'detail' };
  const found = withSheet(plain, 0, leastSheet(basis, plain, 0, context, true));
  return { ...found, proposed: { routes: [], sheets: found.sheets, cuts: [] } };
}

const withSheet = (decisions: MergeDecisions, s: number, sheet: SheetDecision): MergeDecisions => ({
  ...decisions,
  sheets: decisions.sheets.map((x, i) => (i === s ? sheet : x)),
});

/** The sheet at the least size at which all its islands have their sharpness; else, where islands may be resampled, at the greatest size within memory. */
function leastSheet(
  basis: PlanBasis,
  decisions: MergeDecisions,
  s: number,
  context: StageContext,
  whateverItTakes = false,
): SheetDecision {
  const sized = ([size, height]: [number, number]): SheetDecision => ({
    ...decisions.sheets[s],
    size,
    height: height === size ? null : height,
  });
  const { plots } = gatherPlots(routePlanned(basis.read, decisions), decisions);
  if ((plots[s] ?? []).length === 0) return decisions.sheets[s];
  const own = plots.map((list, i) => (i === s ? list : []));
  // What is read without blending is copied texel by texel or looks different, so its sheet grows whatever it takes.
  const free = whateverItTakes || plots[s].some((plot) => plot.exact);
  const packs = (shape: [number, number]): 'full' | 'smaller' | 'none' => {
    context.scope.checkpoint();
    context.report('plan', 0.6, `trying ${shape[0]} × ${shape[1]} px for ${decisions.sheets[s].name}`);
    const tried = withSheet({ ...decisions, effort: TRIAL_EFFORT }, s, sized(shape));
    const full = scaleLimit(scaleFactors(own, tried.scale, tried.sheets)[s]);
    try {
      const { scale } = packSheets(own, tried, { cancelled: () => context.scope.cancelled })[s];
      return scale >= full * (1 - 1e-9) ? 'full' : 'smaller';
    } catch (error) {
      if (error instanceof InputError || !(error instanceof Error)) throw error;
      return 'none';
    }
  };
  // Told without packing: the last of the smaller shapes is nearly always far too small.
  const crowds = (shape: [number, number]): boolean => {
    const tried = withSheet(decisions, s, sized(shape));
    const factors = scaleFactors(own, tried.scale, tried.sheets)[s];
    return isSheetCrowded(own[s], factors, { sheet: tried.sheets[s], index: s, decisions: tried });
  };
  const limit = memoryLimit(basis, decisions);
  const within = (shape: [number, number]) =>
    predictBasis(basis, withSheet(decisions, s, sized(shape))).bytes[decisions.budget.format] <= limit;
  const [width, height] = sheetSides(decisions.sheets[s]);
  let at = SHAPES.findIndex(([w, h]) => w === width && h === height);
  if (at < 0) return decisions.sheets[s];
  let now = packs(SHAPES[at]);
  if (now === 'full') while (at > 0 && !crowds(SHAPES[at - 1]) && packs(SHAPES[at - 1]) === 'full') at--;
  else
    while (
      now !== 'full' &&
      at + 1 < SHAPES.length &&
      fitsDevice(decisions, SHAPES[at + 1]) &&
      (free || now === 'none' || within(SHAPES[at + 1]))
    )
      now = packs(SHAPES[++at]);
  return sized(SHAPES[at]);
}

const fitsDevice = ({ budget }: MergeDecisions, [width]: [number, number]): boolean =>
  budget.largestTexture === null || width <= budget.largestTexture;

function memoryLimit(basis: PlanBasis, decisions: MergeDecisions): number {
  const { textureBytes, format } = decisions.budget;
  return textureBytes ?? sourceMemory(storedTextures(basis.slots, decisions, basis.sizes), format);
}
