import { nearest, type PlacedBorder } from './gaps.ts';

/** A layout of borders that is to keep a margin. */
export interface Kept {
  width: number;
  height: number;
  /** Least gap between borders, px; half of it to the sheet's. */
  margin: number;
  /** Stays where it is: pairs that both do need not keep the margin. */
  stays: (i: number) => boolean;
}

/** By how much more than what is missing borders are moved apart, px: what is moved by just that is short of it by rounding. */
const MORE = 1e-4;

/**
 * Moves borders that are too near to each other or to the sheet's border apart where they stand, by what is missing: for what is missing here and
 * there, where all around has a little room.
 * @param borders are moved @param rounds after which it is given up; at once where more than half of the margin is missing, so that nothing leaps
 * over a border
 * @returns what is still missing, px, and by how much each was moved
 */
export function nudge(
  borders: readonly PlacedBorder[],
  { width, height, margin, stays }: Kept,
  rounds: number,
): { short: number; x: Float64Array; y: Float64Array } {
  const n = borders.length;
  const [x, y, dx, dy] = [0, 1, 2, 3].map(() => new Float64Array(n));
  /** Those that were too near or have moved: only they can be too near now. */
  let open = new Uint8Array(n).fill(1);
  const order = borders.map((_, i) => i);
  for (let round = 0; ; round++) {
    let short = 0;
    const next = new Uint8Array(n);
    dx.fill(0);
    dy.fill(0);
    for (let i = 0; i < n; i++) {
      if (!open[i] || stays(i)) continue;
      const placedBorder = borders[i];
      const [left, right] = [margin / 2 - placedBorder.left, margin / 2 - (width - placedBorder.right)];
      const [top, bottom] = [margin / 2 - placedBorder.top, margin / 2 - (height - placedBorder.bottom)];
      const most = Math.max(left, right, top, bottom);
      if (most <= 0) continue;
      short = Math.max(short, most);
      next[i] = 1;
      dx[i] += push(left) - push(right);
      dy[i] += push(top) - push(bottom);
    }
    order.sort((a, b) => borders[a].left - borders[b].left || a - b);
    for (let k = 0; k < n; k++) {
      const i = order[k];
      const placedBorder = borders[i];
      for (let m = k + 1; m < n; m++) {
        const j = order[m];
        const b = borders[j];
        if (b.left > placedBorder.right + margin) break;
        if (b.top > placedBorder.bottom + margin || placedBorder.top > b.bottom + margin) continue;
        if (!(open[i] || open[j]) || (stays(i) && stays(j))) continue;
        const gap = nearest(placedBorder, b, margin);
        if (!gap) continue;
        const missing = margin - gap.width;
        short = Math.max(short, missing);
        next[i] = 1;
        next[j] = 1;
        const by = push(missing) * (stays(i) || stays(j) ? 1 : 0.5);
        dx[i] += gap.x * by;
        dy[i] += gap.y * by;
        dx[j] -= gap.x * by;
        dy[j] -= gap.y * by;
      }
    }
    if (short <= 0 || short > margin / 2 || round >= rounds) return { short, x, y };
    for (let i = 0; i < n; i++) {
      if (!next[i] || stays(i)) continue;
      x[i] += dx[i];
      y[i] += dy[i];
      move(borders[i], dx[i], dy[i]);
    }
    open = next;
  }
}

const push = (missing: number): number => (missing > 0 ? missing + MORE : 0);

function move(placedBorder: PlacedBorder, dx: number, dy: number): void {
  for (let i = 0; i < placedBorder.segments.length; i += 2) {
    placedBorder.segments[i] += dx;
    placedBorder.segments[i + 1] += dy;
  }
  placedBorder.left += dx;
  placedBorder.right += dx;
  placedBorder.top += dy;
  placedBorder.bottom += dy;
}
