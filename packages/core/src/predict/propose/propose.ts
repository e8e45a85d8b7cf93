import { overBudget } from '../../decisions/budget.ts';
import type { LeftOut, MergeDecisions } from '../../decisions/decisions.ts';
import { mergeRoutes, routeTo, weightOf } from '../../decisions/routes.ts';
import { APART, mergesWithoutGain } from '../../decisions/rules.ts';
import { PROPOSED_SIDES, plainSheet, type SheetDecision } from '../../decisions/sheets.ts';
import { Cancelled } from '../../errors.ts';
import type { PlanSlot } from '../plan-slot.ts';
import { plannedName, withPlannedRoutes } from '../planned.ts';
import { type PictureSizes, type Prediction, predict, usefulShare } from '../predict.ts';
import { type ProposedReduction, reductionsFor } from '../reduction.ts';
import { withVertexColours } from '../vertex-colours.ts';
import { worthCutting } from './cuts.ts';
import { Evaluator, type Unit } from './evaluator.ts';
import { cautiousTrial, gainful, type Trial } from './leave-out.ts';
import {
  compareScores,
  leastShare,
  PLAN_LINES,
  type PlanLine,
  type Score,
  type SlotShare,
  wantedSharpness,
} from './score.ts';
import { EXACT_UNITS, type Found, reshaped, type SheetChoice, search } from './search.ts';

/** What of the decisions a proposal reads. */
export type ProposeDecisions = MergeDecisions;

export interface ProposeOptions {
  /** New sheets at most. */
  sheets?: number;
  /** Nothing is joined or cut that was not before, and what would starve its sheet is left out: what a new project begins with. */
  cautious?: boolean;
  /** The sheets stay as they are; only routes are proposed. */
  keepSheets?: boolean;
  /** Plans to be scored at most, where there are too many to score all. */
  effort?: number;
  cancelled?: () => boolean;
  progress?: (share: number) => void;
}

/** One slot of a proposal. */
interface ProposedRoute {
  name: string;
  /** Id of the sheet. */
  to: string;
  why: string;
}

/** A line of the budget that stands in the way. */
interface InTheWay {
  line: PlanLine;
  /** How far over it the least plan is that meets all other lines: 1.25 is a quarter over. */
  by: number;
}

export interface Proposal {
  /** The decisions with the whole proposal taken. */
  decisions: MergeDecisions;
  routes: ProposedRoute[];
  /** Sheets that are new or other than before. */
  sheets: SheetDecision[];
  /** What it will cost; and the plan as it stood. */
  after: Prediction;
  before: Prediction;
  /** Meshes to be reduced so that the triangles keep to the budget; see `reductionsFor`. */
  reductions: ProposedReduction[];
  /** Lines of the budget that are still over, with how far. */
  over: ReturnType<typeof overBudget>;
  /** The least share of the sharpness wanted that any slot gets, before and after. */
  kept: { before: number; after: number };
  /** When no plan meets the budget: the line that could be moved least far for the others to be met. Null when it is met. */
  inTheWay: InTheWay | null;
  /** Slots that are kept apart, since merging them gains nothing or costs the others too much. */
  leftOut: readonly LeftOut[];
  /** How many plans were scored, and whether these were all that there are. */
  scored: number;
  exhaustive: boolean;
}

/** Sides of new sheets, px. */
const EFFORT = 3000;

/**
 * Finds which slots share which sheet, of which size: budgets met first, then fewest draw calls, then, without a budget for it, no more texture memory than
 * the sources take, then the greatest least weighted density (as a share of what is wanted and the source has, so that no slot is starved for the others),
 * then least memory. What nothing is gained by is left out. Routes, rules and sheets that somebody made stay as they are; what an earlier proposal
 * made may change.
 *
 * @param sizes table of pictures @throws Cancelled
 */
export function propose(
  sources: readonly PlanSlot[],
  decisions: ProposeDecisions,
  sizes: PictureSizes,
  options: ProposeOptions = {},
): Proposal {
  const routed = withPlannedRoutes(decisions, decisions.planned);
  const slots = withVertexColours(sources, routed);
  const start = withoutProposal(routed, options.keepSheets ?? false);
  const join = options.cautious ? decisions.join : true;
  const uncut: MergeDecisions = {
    ...start.decisions,
    scale: 'detail',
    join,
    keepAll: false,
    mergeAll: true,
    leftOut: [],
  };
  const cuts = options.cautious ? [] : worthCutting(slots, uncut, sizes);
  const d: MergeDecisions = { ...uncut, cutRepeats: [...uncut.cutRepeats, ...cuts] };
  const hooks = { effort: options.effort ?? EFFORT, cancelled: options.cancelled, progress: options.progress };
  let scored = 0;
  const trial = (leftOut: readonly LeftOut[], most: number): Trial => {
    const evaluator = new Evaluator(slots, { ...d, leftOut: [...leftOut] }, start.standing, d.budget, sizes);
    const choice = sheetChoice(decisions, d, start.standing, { ...options, sheets: most });
    const found = search(evaluator, choice, { ...hooks, aside: null });
    if (options.cancelled?.() || !found) throw new Cancelled();
    scored += evaluator.count;
    return { evaluator, choice, found: reshaped(evaluator, choice, found), leftOut };
  };
  const all = mergesWithoutGain(decisions);
  const best = options.cautious
    ? cautiousTrial(trial, { sheets: options.sheets, all })
    : gainful((list) => trial(list, options.sheets ?? 4), { leftOut: [], all });
  const { evaluator, choice, found } = best;
  const inTheWay = found.score.excess > 1e-9 ? blocking(evaluator, choice, hooks) : null;
  const planned = decisionsWith(decisions, { ...d, leftOut: [...best.leftOut] }, evaluator, found, cuts);
  const reductions = reductionsOf(slots, planned, sizes);
  const reduce = {
    ...planned.repairs.reduce,
    ...Object.fromEntries(reductions.map((reduction) => [reduction.name, reduction.to])),
  };
  const taken = { ...planned, repairs: { ...planned.repairs, reduce } };
  const before = predict(slots, routed, sizes);
  const after = predict(slots, withPlannedRoutes(taken, taken.planned), sizes);
  return {
    decisions: taken,
    routes: evaluator.units.map((u, i) => {
      const sheet = found.sheets[found.sheetOf[i]];
      return {
        name: u.name,
        to: sheet.id,
        why: [...cutWhy(slots, u, d), whyThere(evaluator, found, i, sizes)].join('; '),
      };
    }),
    sheets: taken.sheets.filter(
      (sheet) => JSON.stringify(sheet) !== JSON.stringify(decisions.sheets.find((x) => x.id === sheet.id)),
    ),
    after,
    before,
    reductions,
    over: overPlan(slots, after, taken, sizes),
    kept: {
      before: leastShare(sharesOf(slots, before, decisions, sizes)),
      after: leastShare(sharesOf(slots, after, taken, sizes)),
    },
    inTheWay,
    leftOut: best.leftOut,
    scored,
    exhaustive: evaluator.units.length <= EXACT_UNITS,
  };
}

/** What every slot with a picture on a sheet gets of what is wanted; `slot` is its position. */
export function sharesOf(
  slots: readonly PlanSlot[],
  prediction: Prediction,
  decisions: Pick<MergeDecisions, 'budget' | 'weights'>,
  sizes: PictureSizes,
): (SlotShare & { slot: number })[] {
  return prediction.flows.flatMap((flow) => {
    const planSlot = slots[flow.slot];
    if (flow.sheet < 0 || !planSlot.density) return [];
    const wanted = wantedSharpness(planSlot.density.p5, usefulShare(planSlot, sizes), decisions.budget.density);
    return [{ slot: flow.slot, sharpness: flow.sharpness, wanted, weight: weightOf(decisions.weights, planSlot.name) }];
  });
}

/** The lines of a budget that a predicted plan is over. The density wanted is not held against surfaces whose sources never had it. */
export function overPlan(
  slots: readonly PlanSlot[],
  prediction: Prediction,
  decisions: Pick<MergeDecisions, 'budget' | 'weights'>,
  sizes: PictureSizes,
): ReturnType<typeof overBudget> {
  const { budget } = decisions;
  const out = overBudget(budget, {
    drawCalls: prediction.drawCalls,
    textureBytes: prediction.bytes[budget.format],
    triangles: prediction.triangles,
    gpuVertices: prediction.gpuVertices,
    largestTexture: prediction.largestTexture,
  });
  if (budget.density !== null) {
    const share = leastShare(sharesOf(slots, prediction, decisions, sizes));
    if (share < 1) out.density = 1 / Math.max(share, 1e-9);
  }
  return out;
}

/** What has to be reduced for a plan to keep to its triangles; nothing where no reduction is enough. */
function reductionsOf(slots: readonly PlanSlot[], decisions: MergeDecisions, sizes: PictureSizes): ProposedReduction[] {
  const limit = decisions.budget.triangles;
  if (limit === null) return [];
  const prediction = predict(slots, withPlannedRoutes(decisions, decisions.planned), sizes);
  if (prediction.triangles <= limit) return [];
  return reductionsFor(slots, limit, prediction.cutTriangles) ?? [];
}

/** The plan without what an earlier proposal made of it, and how many of its sheets stand. */
function withoutProposal(
  decisions: MergeDecisions,
  keepSheets: boolean,
): { decisions: MergeDecisions; standing: number } {
  const own = decisions.proposed;
  const routes = decisions.routes.filter(({ slot, to }) => !own || routeTo(own.routes, slot) !== to || to === APART);
  const led = new Set([...routes, ...decisions.rules].map((r) => r.to));
  // Looking for a tighter layout changes nothing of what was proposed.
  const text = (sheet: SheetDecision) => JSON.stringify({ ...sheet, search: null });
  const proposedAsIs = (sheet: SheetDecision) => own?.sheets.some((x) => text(x) === text(sheet)) ?? false;
  // Before the first proposal, sheets that nothing leads to are as good as none.
  const stands = (sheet: SheetDecision) => keepSheets || led.has(sheet.id) || (own !== null && !proposedAsIs(sheet));
  const standing = decisions.sheets.filter(stands);
  const cutRepeats = decisions.cutRepeats.filter((cutRepeat) => !own?.cuts.includes(cutRepeat));
  return {
    decisions: {
      ...decisions,
      routes,
      cutRepeats,
      sheets: [...standing, ...decisions.sheets.filter((sheet) => !stands(sheet))],
    },
    standing: standing.length,
  };
}

function sheetChoice(
  before: MergeDecisions,
  decisions: MergeDecisions,
  standing: number,
  options: ProposeOptions,
): SheetChoice {
  const largest = Math.min(decisions.budget.largestTexture ?? 4096, 8192);
  const sizes = PROPOSED_SIDES.filter((s) => s <= largest);
  const loose = decisions.sheets.slice(standing);
  const used = new Set(decisions.sheets.slice(0, standing).map((sheet) => sheet.id));
  const names = new Set(decisions.sheets.slice(0, standing).map((sheet) => sheet.name.toLowerCase()));
  // New sheets take the ids, names and margins of loose ones first, so that nothing changes its name without need.
  const bases: { id: string; name: string; margin: number }[] = loose.map(({ id, name, margin }) => ({
    id,
    name,
    margin,
  }));
  const pattern = before.sheets[0];
  const stem = pattern.name.replace(/_\d+$/, '').slice(0, 56);
  for (const base of bases) {
    used.add(base.id);
    names.add(base.name.toLowerCase());
  }
  for (let n = 1; bases.length < 16; n++) {
    const name = `${stem}_${n}`;
    if (used.has(String(n)) || names.has(name.toLowerCase())) continue;
    bases.push({ id: String(n), name, margin: pattern.margin });
  }
  const made = new Map<string, SheetDecision>();
  return {
    most: options.keepSheets && standing > 0 ? 0 : Math.min(options.sheets ?? 4, 16 - standing),
    sizes: sizes.length > 0 ? sizes : [128],
    make: (i, size, flat, height = size) => {
      const key = `${i} ${size} ${height} ${flat}`;
      let sheet = made.get(key);
      if (!sheet) {
        const { id, name, margin } = bases[i];
        sheet = { ...plainSheet(id, name, size, margin), kind: flat ? 'palette' : 'atlas' };
        if (height !== size) sheet.height = height;
        made.set(key, sheet);
      }
      return sheet;
    },
  };
}

/** The line that could be moved least far for the others to be met; when no single one is enough, the one that helps most. */
function blocking(
  evaluator: Evaluator,
  choice: SheetChoice,
  hooks: { effort: number; cancelled?: () => boolean },
): InTheWay | null {
  let best: { line: PlanLine; score: Score } | null = null;
  for (const line of PLAN_LINES) {
    if (evaluator.budget[line] === null) continue;
    const found = search(evaluator, choice, { ...hooks, aside: line });
    if (hooks.cancelled?.() || !found) throw new Cancelled();
    const { excess, aside } = found.score;
    if (aside <= 0) continue;
    const better = !best || compareScores({ ...found.score, excess, aside }, { ...best.score }) < 0;
    if (better) best = { line, score: found.score };
  }
  return best && { line: best.line, by: Math.exp(best.score.aside) };
}

function decisionsWith(
  before: MergeDecisions,
  decisions: MergeDecisions,
  evaluator: Evaluator,
  found: Found,
  cuts: string[],
): MergeDecisions {
  const routes = evaluator.units.map((u, i) => ({ slot: u.name, to: found.sheets[found.sheetOf[i]].id }));
  const taken = new Set((found.sheets.length > 0 ? found.sheets : before.sheets).map((sheet) => sheet.id));
  // Nothing may lead to a sheet that is gone.
  const to = (id: string | null) => (id === null || id === APART || taken.has(id) ? id : null);
  const fresh = found.sheets.slice(evaluator.standing);
  const planned = new Set(before.planned.map(plannedName));
  const ofSlots = mergeRoutes(decisions.routes, routes).filter(({ slot }) => !planned.has(slot));
  return {
    ...before,
    scale: 'detail',
    join: decisions.join,
    keepAll: false,
    leftOut: decisions.leftOut,
    // A plan has one sheet at least, though nothing lies on it.
    sheets: found.sheets.length > 0 ? found.sheets : before.sheets,
    routes: ofSlots,
    planned: before.planned.map((planned) => ({
      ...planned,
      to: to(routeTo(routes, plannedName(planned)) ?? planned.to),
    })),
    cutRepeats: decisions.cutRepeats,
    proposed: { routes, sheets: fresh, cuts },
  };
}

const cutWhy = (slots: readonly PlanSlot[], u: Unit, decisions: MergeDecisions): string[] => {
  if (!decisions.cutRepeats.includes(u.name)) return [];
  const more = u.slots.reduce((sum, i) => sum + (slots[i].cut?.triangles ?? 0), 0);
  return more > 0 ? [`cut at its repeats, ${more} more triangles`] : [];
};

/** Why a unit lies where it does, in a sentence. */
function whyThere(evaluator: Evaluator, found: Found, unit: number, sizes: PictureSizes): string {
  const u = evaluator.units[unit];
  const here = found.sheetOf[unit];
  const sheet = found.sheets[here];
  const parts: string[] = [];
  const sameModel = evaluator.units.filter(
    (x, i) => i !== unit && found.sheetOf[i] === here && x.models.some((model) => u.models.includes(model)),
  );
  const others = evaluator.units.filter((_, i) => i !== unit && found.sheetOf[i] === here).length;
  if (sameModel.length > 0) {
    const away: Found = { ...found, sheetOf: [...found.sheetOf] };
    const alone = { ...sheet, id: 'alone' };
    away.sheets = [...found.sheets, alone];
    away.sheetOf[unit] = found.sheets.length;
    const more = evaluator.drawCalls(away) - found.score.drawCalls;
    parts.push(
      more > 0
        ? `with ${few(sameModel.map((x) => x.name))} of its model: apart from them ${more} more draw call${more === 1 ? '' : 's'}`
        : `with ${few(sameModel.map((x) => x.name))} of its model`,
    );
  } else if (others > 0) parts.push('no other slot of its model is merged: it goes where room is');
  else parts.push('alone on its sheet');
  if (u.flat) parts.push('one colour: a swatch');
  const useful = Math.max(...u.slots.map((i) => usefulShare(evaluator.slots[i], sizes)));
  if (useful < 1)
    parts.push(`its pictures show no more than ${Math.round(useful * 100)} % of their side, and get no more`);
  const { scale } = evaluator.sheetCost(
    sheet,
    found.sheetOf.flatMap((s, i) => (s === here ? [i] : [])),
  );
  if (!u.flat && scale < 0.995)
    parts.push(`keeps about ${Math.round(Math.min(1, scale) * 100)} % of the sharpness that is of use`);
  return parts.join('; ');
}

const few = (names: string[]): string =>
  names.length <= 3 ? names.join(', ') : `${names.slice(0, 2).join(', ')} and ${names.length - 2} others`;
