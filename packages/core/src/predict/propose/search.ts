import type { SheetDecision } from '../../decisions/sheets.ts';
import type { Candidate, Evaluator } from './evaluator.ts';
import { compareScores, type PlanLine, type Score } from './score.ts';

/** What new sheets may be like. */
export interface SheetChoice {
  /** New sheets at most. */
  most: number;
  /** Sides, px, ascending. */
  sizes: number[];
  /** A new sheet: its position among the new ones, side, and whether only slots of one colour lie on it. */
  make: (index: number, size: number, flat: boolean) => SheetDecision;
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
export function search(e: Evaluator, choice: SheetChoice, hooks: SearchHooks): Found | null {
  const exact = e.units.length <= EXACT_UNITS;
  return exact ? searchAll(e, choice, hooks) : climb(e, choice, hooks);
}

function candidate(e: Evaluator, choice: SheetChoice, g: Groups, sizes: readonly number[]): Candidate {
  const sheetOf = new Array<number>(e.units.length).fill(0);
  g.standing.forEach((list, s) => {
    for (const u of list) sheetOf[u] = s;
  });
  const sheets = e.d.sheets.slice(0, e.standing);
  g.fresh.forEach((list, i) => {
    for (const u of list) sheetOf[u] = e.standing + i;
    sheets.push(
      choice.make(
        i,
        sizes[i],
        list.every((u) => e.units[u].flat),
      ),
    );
  });
  return { sheetOf, sheets };
}

/** Every way to deal the units out over standing and new sheets, every size of the new ones. */
function searchAll(e: Evaluator, choice: SheetChoice, hooks: SearchHooks): Found | null {
  let best: Found | null = null;
  const g: Groups = { standing: Array.from({ length: e.standing }, () => []), fresh: [] };
  const sizesFor = (): void => {
    const first = g.fresh.map(() => choice.sizes[0]);
    // No size changes the draw calls: a plan with more of them cannot win once all budgets are met.
    if (best && best.score.excess === 0 && best.score.aside === 0) {
      if (e.drawCalls(candidate(e, choice, g, first)) > best.score.drawCalls) return;
    }
    const options = g.fresh.map((list) => usefulSizes(e, choice, list));
    const pick = (i: number, sizes: number[]): void => {
      if (i === options.length) {
        const c = candidate(e, choice, g, sizes);
        const score = e.score(c, hooks.aside);
        if (!best || compareScores(score, best.score) < 0) best = { ...c, score };
        return;
      }
      for (const s of options[i]) pick(i + 1, [...sizes, s]);
    };
    pick(0, []);
  };
  const deal = (u: number): void => {
    if (hooks.cancelled?.()) return;
    if (u === e.units.length) {
      sizesFor();
      return;
    }
    for (let s = 0; s < e.standing; s++) {
      if (e.refuses(e.units[u], e.d.sheets[s])) continue;
      g.standing[s].push(u);
      deal(u + 1);
      g.standing[s].pop();
    }
    for (let i = 0; i <= Math.min(g.fresh.length, choice.most - 1); i++) {
      if (i === g.fresh.length) g.fresh.push([]);
      g.fresh[i].push(u);
      deal(u + 1);
      g.fresh[i].pop();
      if (g.fresh[i].length === 0) g.fresh.pop();
    }
  };
  deal(0);
  return best;
}

/** Sizes that are worth trying: none beyond the first at which everything keeps all its sharpness. */
function usefulSizes(e: Evaluator, choice: SheetChoice, units: readonly number[]): number[] {
  const out: number[] = [];
  let last = -1;
  for (const size of choice.sizes) {
    const { scale } = e.sheetCost(
      choice.make(
        0,
        size,
        units.every((u) => e.units[u].flat),
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
function climb(e: Evaluator, choice: SheetChoice, hooks: SearchHooks): Found | null {
  let best: Found | null = null;
  let bestGroups: Groups | null = null;
  let bestSizes: number[] = [];
  const begun = e.count;
  const spent = () => e.count - begun >= hooks.effort || hooks.cancelled?.() === true;
  const attempt = (g: Groups, sizes: readonly number[]): boolean => {
    const c = candidate(e, choice, g, sizes);
    const score = e.score(c, hooks.aside);
    if (best && compareScores(score, best.score) >= 0) return false;
    best = { ...c, score };
    bestGroups = { standing: g.standing.map((l) => [...l]), fresh: g.fresh.map((l) => [...l]) };
    bestSizes = [...sizes];
    hooks.progress?.((e.count - begun) / hooks.effort);
    return true;
  };
  const all = e.units.map((_, i) => i);
  const noStanding = () => Array.from({ length: e.standing }, () => [] as number[]);
  // Everything on one sheet, then on several by clusters of models, each in every size.
  for (let k = 1; k <= choice.most; k++) {
    const fresh = k === 1 ? [all] : byClusters(e, k);
    if (fresh.length < k) break;
    for (const size of choice.sizes)
      attempt(
        { standing: noStanding(), fresh },
        fresh.map(() => size),
      );
    if (spent()) break;
  }
  for (let s = 0; s < e.standing; s++) {
    if (e.units.some((u) => e.refuses(u, e.d.sheets[s]))) continue;
    const standing = noStanding();
    standing[s] = all;
    attempt({ standing, fresh: [] }, []);
  }
  const clusters = clustersOf(e);
  for (let better = true; better && !spent(); ) {
    better = sizeMoves();
    for (const moved of [...clusters, ...all.map((u) => [u])]) {
      if (spent()) break;
      better = moveUnits(moved) || better;
    }
  }
  return best;

  function sizeMoves(): boolean {
    let better = false;
    for (let i = 0; i < bestSizes.length && !spent(); i++)
      for (const size of choice.sizes) {
        if (size === bestSizes[i]) continue;
        const sizes = bestSizes.map((s, k) => (k === i ? size : s));
        if (attempt(bestGroups as Groups, sizes)) better = true;
      }
    return better;
  }

  function moveUnits(moved: readonly number[]): boolean {
    const now = bestGroups as Groups;
    const sizesNow = bestSizes;
    const gone = new Set(moved);
    const without = (l: number[]) => l.filter((u) => !gone.has(u));
    let better = false;
    const targets = e.standing + now.fresh.length + (now.fresh.length < choice.most ? 1 : 0);
    for (let t = 0; t < targets && !spent(); t++) {
      const g: Groups = { standing: now.standing.map(without), fresh: now.fresh.map(without) };
      const sizes = [...sizesNow];
      if (t < e.standing) {
        if (moved.some((u) => e.refuses(e.units[u], e.d.sheets[t]))) continue;
        g.standing[t].push(...moved);
      } else if (t - e.standing < g.fresh.length) g.fresh[t - e.standing].push(...moved);
      else {
        g.fresh.push([...moved]);
        sizes.push(choice.sizes[choice.sizes.length - 1]);
      }
      // An emptied sheet goes.
      for (let i = g.fresh.length - 1; i >= 0; i--)
        if (g.fresh[i].length === 0) {
          g.fresh.splice(i, 1);
          sizes.splice(i, 1);
        }
      if (attempt(g, sizes)) better = true;
    }
    return better;
  }
}

/** Units that share models, so that parting them costs draw calls; largest first. */
function clustersOf(e: Evaluator): number[][] {
  const group = e.units.map((_, i) => i);
  const find = (i: number): number => {
    while (group[i] !== i) i = group[i];
    return i;
  };
  const first = new Map<number, number>();
  e.units.forEach((u, i) => {
    for (const m of u.models) {
      const other = first.get(m);
      if (other === undefined) first.set(m, i);
      else group[find(i)] = find(other);
    }
  });
  const lists = new Map<number, number[]>();
  e.units.forEach((_, i) => {
    const root = find(i);
    const list = lists.get(root);
    if (list) list.push(i);
    else lists.set(root, [i]);
  });
  const area = (l: number[]) => l.reduce((n, u) => n + e.units[u].area, 0);
  return [...lists.values()].sort((a, b) => area(b) - area(a) || a[0] - b[0]);
}

/** Clusters dealt out over k sheets, each to the one with least on it. */
function byClusters(e: Evaluator, k: number): number[][] {
  const load = new Array<number>(k).fill(0);
  const out: number[][] = load.map(() => []);
  for (const cluster of clustersOf(e)) {
    let least = 0;
    for (let i = 1; i < k; i++) if (load[i] < load[least]) least = i;
    out[least].push(...cluster);
    load[least] += cluster.reduce((n, u) => n + e.units[u].area, 0);
  }
  return out.filter((l) => l.length > 0);
}
