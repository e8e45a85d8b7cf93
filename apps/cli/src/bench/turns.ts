/** One benchmark's line: our figure, the reference's, and how many times the reference ours is. */
export interface BenchRow {
  name: string;
  unit: string;
  ours: number | null;
  reference: number | null;
  /** What the reference is. */
  against: string;
  /** ours / reference; for times below 1 is better, for coverage and rates above 1. */
  ratio: number | null;
  note?: string;
}

/** Median of some numbers. */
export function median(values: number[]): number {
  const s = [...values].sort((a, b) => a - b);
  return s.length % 2 ? s[(s.length - 1) / 2] : (s[s.length / 2 - 1] + s[s.length / 2]) / 2;
}

/**
 * Measures two pieces of work in turns, so that a machine that slows down slows both; milliseconds, medians of the rounds.
 * One round of each is run first and not counted.
 */
export function inTurns(rounds: number, ours: () => void, reference: () => void): { ours: number; reference: number } {
  const a: number[] = [];
  const b: number[] = [];
  const time = (f: () => void) => {
    const t = performance.now();
    f();
    return performance.now() - t;
  };
  ours();
  reference();
  for (let i = 0; i < rounds; i++) {
    a.push(time(ours));
    b.push(time(reference));
  }
  return { ours: median(a), reference: median(b) };
}

export function timesRow(
  name: string,
  against: string,
  m: { ours: number; reference: number },
  note?: string,
): BenchRow {
  return {
    name,
    unit: 'ms',
    ours: round(m.ours),
    reference: round(m.reference),
    against,
    ratio: round(m.ours / m.reference),
    note,
  };
}

export function round(v: number): number {
  return Number(v.toPrecision(4));
}
