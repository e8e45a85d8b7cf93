/** Cuts on one edge that are closer than this share of it are one. */
const SAME = 1e-5;

/**
 * Where edges are cut, for all triangles of a mesh that meet there: each edge, known by the two places that it joins, has one list of
 * points, so that triangles on both sides of it get the same vertices and no T-junction is left.
 */
export class EdgePoints {
  private readonly lists = new Map<number, number[]>();
  private finished = false;

  /** @param places how many places there are; edges are numbered by pairs of them */
  constructor(private readonly places: number) {}

  private key(a: number, b: number): number {
    return a < b ? a * this.places + b : b * this.places + a;
  }

  /** Notes a cut at the share `t` of the way from place a to place b. */
  add(a: number, b: number, t: number): void {
    if (a === b) return;
    const key = this.key(a, b);
    const share = a < b ? t : 1 - t;
    const list = this.lists.get(key);
    if (list) list.push(share);
    else this.lists.set(key, [share]);
  }

  /** Makes one of the cuts that are all but equal. To be called once, before `of`. */
  finish(): void {
    for (const [key, list] of this.lists) {
      list.sort((x, y) => x - y);
      this.lists.set(
        key,
        list.filter((t, i) => i === 0 || t - list[i - 1] > SAME),
      );
    }
    this.finished = true;
  }

  /** Shares of the way from the lower-numbered place to the other, ascending. */
  of(a: number, b: number): readonly number[] {
    if (!this.finished) throw new Error('settle comes first');
    return this.lists.get(this.key(a, b)) ?? [];
  }

  /** How many edges are cut. */
  get size(): number {
    return this.lists.size;
  }
}

/**
 * The settled cut that one found by a triangle became part of: the last that is not beyond it.
 * @param shares as `of` returns them @param t a share that was added, of the way from the lower-numbered place
 */
export function settledShare(shares: readonly number[], t: number): number {
  let low = 0;
  let high = shares.length - 1;
  while (low < high) {
    const mid = (low + high + 1) >> 1;
    if (shares[mid] <= t) low = mid;
    else high = mid - 1;
  }
  return shares[low];
}
