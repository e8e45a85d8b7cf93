import type { SheetDecision } from '../../decisions/sheets.ts';
import type { Candidate, Evaluator } from './evaluator.ts';
import { compareScores, type PlanLine, type Score } from './score.ts';

/** What new sheets may be like. */
export interface SheetChoice {
  /** New sheets at most. */
  most: number;
  /** Sides, px, ascending. */
  sizes: number[];
  /** A new sheet: its position among the new ones, width, whether only slots of one colour lie on it, and height, by default the width. */
  make: (index: number, size: number, flat: boolean, height?: number) => SheetDecision;
}

export interface Found extends Candidate {
  score: Score;
}

export interface SearchHooks {
  /** Plans to be scored at most, where not all can be. */
  effort: number;
  aside: PlanLine | null;
  cancelled?: () => boolean;
  progress?: (share: number) => void;
}

/** Units up to which all plans are looked at. */
export const EXACT_UNITS = 7;

/** Groups of units, one for each new sheet, and the units on each standing sheet. */
interface Groups {
  standing: number[][];
  fresh: number[][];
}

/** The best plan: of all plans for few units, else of as many as the effort allows, never worse than everything on one sheet. */
export function search(evaluator: Evaluator, choice: SheetChoice, hooks: SearchHooks): Found | null {
  const exact = evaluator.units.length <= EXACT_UNITS;
  return exact ? searchAll(evaluator, choice, hooks) : climb(evaluator, choice, hooks);
}

function candidate(evaluator: Evaluator, choice: SheetChoice, groups: Groups, sizes: readonly number[]): Candidate {
  const sheetOf = new Array<number>(evaluator.units.length).fill(0);
  groups.standing.forEach((list, s) => {
    for (const u of list) sheetOf[u] = s;
  });
  const sheets = evaluator.decisions.sheets.slice(0, evaluator.standing);
  groups.fresh.forEach((list, i) => {
    for (const u of list) sheetOf[u] = evaluator.standing + i;
    sheets.push(
      choice.make(
        i,
        sizes[i],
        list.every((u) => evaluator.units[u].flat),
      ),
    );
  });
  return { sheetOf, sheets };
}

/** Every way to deal the units out over standing and new sheets, every size of the new ones. */
function searchAll(evaluator: Evaluator, choice: SheetChoice, hooks: SearchHooks): Found | null {
  let best: Found | null = null;
  const groups: Groups = { standing: Array.from({ length: evaluator.standing }, () => []), fresh: [] };
  const sizesFor = (): void => {
    const first = groups.fresh.map(() => choice.sizes[0]);
    // No size changes the draw calls: a plan with more of them cannot win once all budgets are met.
    if (best && best.score.excess === 0 && best.score.aside === 0) {
      if (evaluator.drawCalls(candidate(evaluator, choice, groups, first)) > best.score.drawCalls) return;
    }
    const options = groups.fresh.map((list) => usefulSizes(evaluator, choice, list));
    const pick = (i: number, sizes: number[]): void => {
      if (i === options.length) {
        const c = candidate(evaluator, choice, groups, sizes);
        const score = evaluator.score(c, hooks.aside);
        if (!best || compareScores(score, best.score) < 0) best = { ...c, score };
        return;
      }
      for (const s of options[i]) pick(i + 1, [...sizes, s]);
    };
    pick(0, []);
  };
  const deal = (u: number): void => {
    if (hooks.cancelled?.()) return;
    if (u === evaluator.units.length) {
      sizesFor();
      return;
    }
    for (let s = 0; s < evaluator.standing; s++) {
      if (evaluator.refuses(evaluator.units[u], evaluator.decisions.sheets[s])) continue;
      groups.standing[s].push(u);
      deal(u + 1);
      groups.standing[s].pop();
    }
    for (let i = 0; i <= Math.min(groups.fresh.length, choice.most - 1); i++) {
      if (i === groups.fresh.length) groups.fresh.push([]);
      groups.fresh[i].push(u);
      deal(u + 1);
      groups.fresh[i].pop();
      if (groups.fresh[i].length === 0) groups.fresh.pop();
    }
  };
  deal(0);
  return best;
}

/** Sizes that are worth trying: none beyond the first at which everything keeps all its sharpness. */
function usefulSizes(evaluator: Evaluator, choice: SheetChoice, units: readonly number[]): number[] {
  const out: number[] = [];
  let last = -1;
  for (const size of choice.sizes) {
    const { scale } = evaluator.sheetCost(
      choice.make(
        0,
        size,
        units.every((u) => evaluator.units[u].flat),
      ),
      units,
    );
    if (scale === last) break;
    out.push(size);
    last = scale;
  }
  return out;
}

/** Deals units out by the models they share, then moves units and changes sizes for as long as that makes it better. */
const climb = (evaluator: Evaluator, choice: SheetChoice, hooks: SearchHooks): Found | null =>
  new Climb(evaluator, choice, hooks).run();

class Climb {
  private best: Found | null = null;
  private groups: Groups = { standing: [], fresh: [] };
  private sizes: number[] = [];
  private readonly begun: number;
  private readonly all: number[];

  constructor(
    private readonly evaluator: Evaluator,
    private readonly choice: SheetChoice,
    private readonly hooks: SearchHooks,
  ) {
    this.begun = evaluator.count;
    this.all = evaluator.units.map((_, i) => i);
  }

  run(): Found | null {
    this.begin();
    const clusters = clustersOf(this.evaluator);
    for (let better = true; better && !this.spent(); ) {
      better = this.sizeMoves();
      for (const moved of [...clusters, ...this.all.map((u) => [u])]) {
        if (this.spent()) break;
        better = this.moveUnits(moved) || better;
      }
    }
    return this.best;
  }

  private spent(): boolean {
    return this.evaluator.count - this.begun >= this.hooks.effort || this.hooks.cancelled?.() === true;
  }

  /** Takes what is better than all before. */
  private attempt(groups: Groups, sizes: readonly number[]): boolean {
    const c = candidate(this.evaluator, this.choice, groups, sizes);
    const score = this.evaluator.score(c, this.hooks.aside);
    if (this.best && compareScores(score, this.best.score) >= 0) return false;
    this.best = { ...c, score };
    this.groups = { standing: groups.standing.map((l) => [...l]), fresh: groups.fresh.map((l) => [...l]) };
    this.sizes = [...sizes];
    this.hooks.progress?.((this.evaluator.count - this.begun) / this.hooks.effort);
    return true;
  }

  /** Everything on one sheet, then on several by clusters of models, each in every size; then on each sheet that stands. */
  private begin(): void {
    const { evaluator, choice, all } = this;
    const noStanding = () => Array.from({ length: evaluator.standing }, () => [] as number[]);
    for (let k = 1; k <= choice.most; k++) {
      const fresh = k === 1 ? [all] : byClusters(evaluator, k);
      if (fresh.length < k) break;
      for (const size of choice.sizes)
        this.attempt(
          { standing: noStanding(), fresh },
          fresh.map(() => size),
        );
      if (this.spent()) break;
    }
    for (let s = 0; s < evaluator.standing; s++) {
      if (evaluator.units.some((u) => evaluator.refuses(u, evaluator.decisions.sheets[s]))) continue;
      const standing = noStanding();
      standing[s] = all;
      this.attempt({ standing, fresh: [] }, []);
    }
  }

  private sizeMoves(): boolean {
    let better = false;
    for (let i = 0; i < this.sizes.length && !this.spent(); i++)
      for (const size of this.choice.sizes) {
        if (size === this.sizes[i]) continue;
        const sizes = this.sizes.map((bestSize, k) => (k === i ? size : bestSize));
        if (this.attempt(this.groups, sizes)) better = true;
      }
    return better;
  }

  private moveUnits(moved: readonly number[]): boolean {
    const { evaluator, choice, groups: now, sizes: sizesNow } = this;
    const gone = new Set(moved);
    const without = (l: number[]) => l.filter((u) => !gone.has(u));
    let better = false;
    const targets = evaluator.standing + now.fresh.length + (now.fresh.length < choice.most ? 1 : 0);
    for (let t = 0; t < targets && !this.spent(); t++) {
      const groups: Groups = { standing: now.standing.map(without), fresh: now.fresh.map(without) };
      const sizes = [...sizesNow];
      if (t < evaluator.standing) {
        if (moved.some((u) => evaluator.refuses(evaluator.units[u], evaluator.decisions.sheets[t]))) continue;
        groups.standing[t].push(...moved);
      } else if (t - evaluator.standing < groups.fresh.length) groups.fresh[t - evaluator.standing].push(...moved);
      else {
        groups.fresh.push([...moved]);
        sizes.push(choice.sizes[choice.sizes.length - 1]);
      }
      // An emptied sheet goes.
      for (let i = groups.fresh.length - 1; i >= 0; i--)
        if (groups.fresh[i].length === 0) {
          groups.fresh.splice(i, 1);
          sizes.splice(i, 1);
        }
      if (this.attempt(groups, sizes)) better = true;
    }
    return better;
  }
}

/** Units that share models, so that parting them costs draw calls; largest first. */
function clustersOf(evaluator: Evaluator): number[][] {
  const group = evaluator.units.map((_, i) => i);
  const find = (i: number): number => {
    while (group[i] !== i) i = group[i];
    return i;
  };
  const first = new Map<number, number>();
  evaluator.units.forEach((u, i) => {
    for (const model of u.models) {
      const other = first.get(model);
      if (other === undefined) first.set(model, i);
      else group[find(i)] = find(other);
    }
  });
  const lists = new Map<number, number[]>();
  evaluator.units.forEach((_, i) => {
    const root = find(i);
    const list = lists.get(root);
    if (list) list.push(i);
    else lists.set(root, [i]);
  });
  const area = (l: number[]) => l.reduce((sum, u) => sum + evaluator.units[u].area, 0);
  return [...lists.values()].sort((a, b) => area(b) - area(a) || a[0] - b[0]);
}

/** Clusters dealt out over k sheets, each to the one with least on it. */
function byClusters(evaluator: Evaluator, k: number): number[][] {
  const load = new Array<number>(k).fill(0);
  const out: number[][] = load.map(() => []);
  for (const cluster of clustersOf(evaluator)) {
    let least = 0;
    for (let i = 1; i < k; i++) if (load[i] < load[least]) least = i;
    out[least].push(...cluster);
    load[least] += cluster.reduce((sum, u) => sum + evaluator.units[u].area, 0);
  }
  return out.filter((l) => l.length > 0);
}

/** A plan in which new sheets are half or twice as wide as high, where that is better. */
export function reshaped(evaluator: Evaluator, choice: SheetChoice, found: Found): Found {
  let best = found;
  const largest = choice.sizes[choice.sizes.length - 1];
  for (let i = evaluator.standing; i < found.sheets.length; i++) {
    const { size, kind } = found.sheets[i];
    for (const [width, height] of [
      [size, size / 2],
      [size * 2, size],
    ]) {
      if (width > largest || height < choice.sizes[0]) continue;
      const sheets = [...best.sheets];
      sheets[i] = choice.make(i - evaluator.standing, width, kind === 'palette', height);
      const score = evaluator.score({ sheetOf: best.sheetOf, sheets }, null);
      if (compareScores(score, best.score) < 0) best = { sheetOf: best.sheetOf, sheets, score };
    }
  }
  return best;
}
