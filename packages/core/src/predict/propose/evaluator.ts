import type { Budget } from '../../decisions/budget.ts';
import { weightOf } from '../../decisions/routes.ts';
import { type SheetDecision, sheetSides } from '../../decisions/sheets.ts';
import { textureBytes } from '../../image/texture-memory.ts';
import { sharpnessOf, sizeAt } from '../../layout/sharpness.ts';
import { type AssignableSlot, type Assignment, assign, refusal } from '../../plan/assign.ts';
import { DrawCallCounter, joiningOf } from '../../plan/draw-calls.ts';
import type { PlanSlot } from '../plan-slot.ts';
import {
  assignable,
  bayGroups,
  type PictureSizes,
  type PredictDecisions,
  sheetMaps,
  storedTextures,
  usefulShare,
} from '../predict.ts';
import { estimateSheet } from '../predict-scale.ts';
import { type PlanLine, type Score, type SlotShare, scoreOf, sourceMemory, wantedSharpness } from './score.ts';

/** Slots of one name that a proposal may send to any sheet; routes name slots by their names. */
export interface Unit {
  name: string;
  /** Positions among the slots. */
  slots: number[];
  /** Texels of its islands. */
  area: number;
  models: number[];
  classes: string[];
  flat: boolean;
}

/** Scales below are none: what lies on the sheet has no room at any size. */
const NO_SCALE = 1e-6;

/** What a sheet without room counts as over budget, more than any budget is. */
const NO_ROOM = 1000;

interface SheetCost {
  scale: number;
  /** px per texel of slots whose bays have sizes of their own. */
  sizes: ReadonlyMap<PlanSlot, number>;
  bytes: number;
  largest: number;
}

const NONE: ReadonlySet<number> = new Set();

/** A plan in short: where each unit goes, and the sheets. */
export interface Candidate {
  /** Position among `sheets` of each unit. */
  sheetOf: number[];
  sheets: SheetDecision[];
}

/**
 * Scores many plans of the same slots quickly, by the formulas of `predict`: what does not depend on the plan is gathered once, and
 * the cost of a sheet is kept by what lies on it.
 */
export class Evaluator {
  readonly units: Unit[] = [];
  /** Routes that stand: of slots kept apart and of those that somebody has sent to a sheet. */
  readonly fixed: Assignment[];
  private readonly traits: AssignableSlot[];
  private readonly counter: DrawCallCounter;
  private readonly useful: number[];
  private readonly kept: { bytes: number; largest: number };
  private readonly sourceBytes: number;
  private readonly costs = new Map<string, SheetCost>();
  /** How many plans were scored. */
  count = 0;

  /**
   * @param d decisions with the routes that stand, and with the sheets that stand first
   * @param standing how many of the sheets stand
   */
  constructor(
    readonly slots: readonly PlanSlot[],
    readonly decisions: PredictDecisions,
    readonly standing: number,
    readonly budget: Budget,
    private readonly sizes: PictureSizes,
  ) {
    this.traits = slots.map((slot) => assignable(slot, decisions, sizes));
    this.fixed = assign(this.traits, decisions);
    this.counter = new DrawCallCounter(slots, joiningOf(decisions));
    this.useful = slots.map((slot) => usefulShare(slot, sizes));
    const byName = new Map<string, Unit>();
    this.fixed.forEach((assignment, i) => {
      if (!assignment.spread) return;
      const planSlot = slots[i];
      let unit = byName.get(planSlot.name);
      if (!unit) {
        unit = { name: planSlot.name, slots: [], area: 0, models: [], classes: [], flat: true };
        byName.set(planSlot.name, unit);
        this.units.push(unit);
      }
      unit.slots.push(i);
      unit.area += planSlot.islands.reduce((sum, x) => sum + x.area, 0);
      if (!unit.models.includes(planSlot.model)) unit.models.push(planSlot.model);
      if (!unit.classes.includes(planSlot.classKey)) unit.classes.push(planSlot.classKey);
      unit.flat &&= planSlot.flat;
    });
    const apart = this.fixed.flatMap((assignment, i) => (!assignment.spread && assignment.sheet < 0 ? [slots[i]] : []));
    const stored = storedTextures(apart, decisions, sizes);
    this.sourceBytes = sourceMemory(storedTextures(slots, decisions, sizes), budget.format);
    this.kept = {
      bytes: stored.reduce((sum, t) => sum + t.bytes[budget.format], 0),
      largest: stored.reduce((greatest, t) => Math.max(greatest, t.side), 0),
    };
  }

  /** Why a unit cannot go on a sheet, or null. */
  refuses(unit: Unit, sheet: SheetDecision): boolean {
    return unit.slots.some((i) => refusal(this.traits[i], sheet.kind, this.decisions) !== null);
  }

  score(candidate: Candidate, aside: PlanLine | null): Score {
    this.count++;
    const sheetOf = new Int16Array(this.slots.length).fill(-1);
    const members: number[][] = candidate.sheets.map(() => []);
    this.fixed.forEach((assignment, i) => {
      if (!assignment.spread && assignment.sheet >= 0) {
        sheetOf[i] = assignment.sheet;
        members[assignment.sheet].push(i);
      }
    });
    const keys = candidate.sheets.map((sheet) => `${sheet.kind} ${sheetSides(sheet)} ${sheet.id}`);
    candidate.sheetOf.forEach((s, u) => {
      keys[s] += ` ${u}`;
      for (const i of this.units[u].slots) {
        sheetOf[i] = s;
        members[s].push(i);
      }
    });
    const costs = candidate.sheets.map((sheet, i) => this.cost(keys[i], sheet, members[i]));
    const shares: SlotShare[] = [];
    members.forEach((list, s) => {
      for (const i of list) {
        const { density, name } = this.slots[i];
        if (!density) continue;
        const weight = weightOf(this.decisions.weights, name);
        shares.push({
          sharpness:
            costs[s].sizes.get(this.slots[i]) ?? sizeAt(sharpnessOf('detail', weight, this.useful[i]), costs[s].scale),
          wanted: wantedSharpness(density.p5, this.useful[i], this.budget.density),
          weight,
        });
      }
    });
    const score = scoreOf(
      {
        drawCalls: this.counter.count(sheetOf),
        bytes: costs.reduce((sum, x) => sum + x.bytes, this.kept.bytes),
        largestTexture: costs.reduce((greatest, x) => Math.max(greatest, x.largest), this.kept.largest),
        shares,
      },
      this.budget,
      this.sourceBytes,
      aside,
    );
    const full = costs.filter((cost, s) => members[s].length > 0 && cost.scale < NO_SCALE).length;
    return { ...score, excess: score.excess + full * NO_ROOM };
  }

  /** Draw calls alone, which no size of a sheet changes. @param without units that are kept apart */
  drawCalls(candidate: Candidate, without: ReadonlySet<number> = NONE): number {
    const sheetOf = new Int16Array(this.slots.length).fill(-1);
    this.fixed.forEach((assignment, i) => {
      if (!assignment.spread) sheetOf[i] = assignment.sheet;
    });
    candidate.sheetOf.forEach((s, u) => {
      for (const i of this.units[u].slots) sheetOf[i] = without.has(u) ? -1 : s;
    });
    return this.counter.count(sheetOf);
  }

  /** Texture memory of a sheet with these units alone, bytes, and the sharpness that they keep. */
  sheetCost(sheet: SheetDecision, units: readonly number[]): SheetCost {
    const members = units.flatMap((u) => this.units[u].slots);
    return this.cost(`${sheet.kind} ${sheetSides(sheet)} ${sheet.id} ${units.join(' ')}`, sheet, members);
  }

  private cost(key: string, sheet: SheetDecision, members: readonly number[]): SheetCost {
    const known = this.costs.get(key);
    if (known) return known;
    const own = members.map((i) => this.slots[i]);
    const maps = sheetMaps(sheet, own);
    const groups = bayGroups(own, sheet.kind, this.decisions, this.sizes);
    const estimate = estimateSheet(groups, sheet);
    const cost: SheetCost = {
      scale: estimate.scale,
      sizes: new Map(estimate.sizes?.flatMap((size, g) => groups[g].slots.map((slot) => [slot, size] as const))),
      bytes: maps.reduce((sum, map) => sum + textureBytes(map.width, map.height)[this.budget.format], 0),
      largest: maps.reduce((greatest, map) => Math.max(greatest, map.width, map.height), 0),
    };
    if (this.costs.size > 200_000) this.costs.clear();
    this.costs.set(key, cost);
    return cost;
  }
}
