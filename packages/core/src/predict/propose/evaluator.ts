import type { Budget } from '../../decisions/budget.ts';
import { weightOf } from '../../decisions/routes.ts';
import { type SheetDecision, sheetSides } from '../../decisions/sheets.ts';
import { sharpnessOf, sizeAt } from '../../layout/sharpness.ts';
import { type Assignment, assign, refusal } from '../../plan/assign.ts';
import { textureBytes } from '../../survey/texture-memory.ts';
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
import { DrawCallCounter } from '../predict-calls.ts';
import { estimateSheet } from '../predict-scale.ts';
import { type PlanLine, type Score, type SlotShare, scoreOf, wantedSharpness } from './score.ts';

/** Slots of one name that a proposal may send to any sheet; routes name slots by their names. */
export interface Unit {
  name: string;
  /** Positions among the slots. */
  slots: number[];
  /** Texels of its islands. */
  area: number;
  models: number[];
  flat: boolean;
}

interface SheetCost {
  scale: number;
  /** px per texel of slots whose bays have sizes of their own. */
  sizes: ReadonlyMap<PlanSlot, number>;
  bytes: number;
  largest: number;
}

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
  private readonly counter: DrawCallCounter;
  private readonly useful: number[];
  private readonly kept: { bytes: number; largest: number };
  private readonly costs = new Map<string, SheetCost>();
  /** How many plans were scored. */
  count = 0;

  /**
   * @param d decisions with the routes that stand, and with the sheets that stand first
   * @param standing how many of the sheets stand
   */
  constructor(
    readonly slots: readonly PlanSlot[],
    readonly d: PredictDecisions,
    readonly standing: number,
    readonly budget: Budget,
    private readonly sizes: PictureSizes,
  ) {
    this.fixed = assign(slots.map(assignable), d);
    this.counter = new DrawCallCounter(slots, d.join);
    this.useful = slots.map((s) => usefulShare(s, sizes));
    const byName = new Map<string, Unit>();
    this.fixed.forEach((a, i) => {
      if (!a.spread) return;
      const s = slots[i];
      let unit = byName.get(s.name);
      if (!unit) {
        unit = { name: s.name, slots: [], area: 0, models: [], flat: true };
        byName.set(s.name, unit);
        this.units.push(unit);
      }
      unit.slots.push(i);
      unit.area += s.islands.reduce((n, x) => n + x.area, 0);
      if (!unit.models.includes(s.model)) unit.models.push(s.model);
      unit.flat &&= s.flat;
    });
    const apart = this.fixed.flatMap((a, i) => (!a.spread && a.sheet < 0 ? [slots[i]] : []));
    const stored = storedTextures(apart, d, sizes);
    this.kept = {
      bytes: stored.reduce((n, t) => n + t.bytes[budget.format], 0),
      largest: stored.reduce((n, t) => Math.max(n, t.side), 0),
    };
  }

  /** Why a unit cannot go on a sheet, or null. */
  refuses(unit: Unit, sheet: SheetDecision): boolean {
    return unit.slots.some((i) => refusal(assignable(this.slots[i]), sheet.kind, this.d) !== null);
  }

  score(c: Candidate, aside: PlanLine | null): Score {
    this.count++;
    const sheetOf = new Int16Array(this.slots.length).fill(-1);
    const members: number[][] = c.sheets.map(() => []);
    this.fixed.forEach((a, i) => {
      if (!a.spread && a.sheet >= 0) {
        sheetOf[i] = a.sheet;
        members[a.sheet].push(i);
      }
    });
    const keys = c.sheets.map((s) => `${s.kind} ${sheetSides(s)} ${s.id}`);
    c.sheetOf.forEach((s, u) => {
      keys[s] += ` ${u}`;
      for (const i of this.units[u].slots) {
        sheetOf[i] = s;
        members[s].push(i);
      }
    });
    const costs = c.sheets.map((s, i) => this.cost(keys[i], s, members[i]));
    const shares: SlotShare[] = [];
    members.forEach((list, s) => {
      for (const i of list) {
        const { density, name } = this.slots[i];
        if (!density) continue;
        const weight = weightOf(this.d.weights, name);
        shares.push({
          sharpness:
            costs[s].sizes.get(this.slots[i]) ?? sizeAt(sharpnessOf('detail', weight, this.useful[i]), costs[s].scale),
          wanted: wantedSharpness(density.p5, this.useful[i], this.budget.density),
          weight,
        });
      }
    });
    return scoreOf(
      {
        drawCalls: this.counter.count(sheetOf, c.sheets),
        bytes: costs.reduce((n, x) => n + x.bytes, this.kept.bytes),
        largestTexture: costs.reduce((n, x) => Math.max(n, x.largest), this.kept.largest),
        shares,
      },
      this.budget,
      aside,
    );
  }

  /** Draw calls alone, which no size of a sheet changes. */
  drawCalls(c: Candidate): number {
    const sheetOf = new Int16Array(this.slots.length).fill(-1);
    this.fixed.forEach((a, i) => {
      if (!a.spread) sheetOf[i] = a.sheet;
    });
    c.sheetOf.forEach((s, u) => {
      for (const i of this.units[u].slots) sheetOf[i] = s;
    });
    return this.counter.count(sheetOf, c.sheets);
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
    const groups = bayGroups(own, sheet.kind, this.d, this.sizes);
    const estimate = estimateSheet(groups, sheet);
    const cost: SheetCost = {
      scale: estimate.scale,
      sizes: new Map(estimate.sizes?.flatMap((size, g) => groups[g].slots.map((s) => [s, size] as const))),
      bytes: maps.reduce((n, m) => n + textureBytes(m.width, m.height)[this.budget.format], 0),
      largest: maps.reduce((n, m) => Math.max(n, m.width, m.height), 0),
    };
    if (this.costs.size > 200_000) this.costs.clear();
    this.costs.set(key, cost);
    return cost;
  }
}
