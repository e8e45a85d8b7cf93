import type { PackItem, PackResult, Placement } from './items.ts';
import { scaledBox } from './rasterise.ts';

/** Texels that keep together: so the mips 0 to 2 of what is copied are those of its source, and so are blocks of 4 × 4; reference, "Picture oracle". */
export const LATTICE = 4;

const up = (v: number): number => Math.ceil(v / LATTICE) * LATTICE;

/**
 * Items that stand on the lattice of their sources where they have the size of these: framed so that every quarter turn of the frame keeps
 * the lattice. Null where none has.
 * @param scale common scale
 */
export function latticeItems(items: readonly PackItem[], scale: number): PackItem[] | null {
  let some = false;
  const out = items.map((item): PackItem => {
    const size = Math.min(item.most ?? Number.POSITIVE_INFINITY, scale * item.factor);
    if (!item.lattice || item.fixedSide || size !== 1) return item;
    some = true;
    const [left, top] = item.lattice;
    const [width, height] = scaledBox(item.shape, 1);
    return {
      ...item,
      shape: item.shape.map((v, k) => v + (k % 2 === 0 ? left : top)),
      box: [up(left + width), up(top + height)],
      align: Math.max(item.align ?? 1, LATTICE),
    };
  });
  return some ? out : null;
}

/** Places of the items themselves, from those of their frames. */
export function withoutFrames(result: PackResult, items: readonly PackItem[], framed: readonly PackItem[]): PackResult {
  return {
    ...result,
    placements: result.placements.map((place, i): Placement => {
      const { box } = framed[i];
      const { lattice } = items[i];
      if (!box || !lattice) return place;
      const [left, top] = lattice;
      const [width, height] = scaledBox(items[i].shape, 1);
      const [right, bottom] = [box[0] - left - width, box[1] - top - height];
      const [dx, dy] = [
        [left, top],
        [bottom, left],
        [right, bottom],
        [top, right],
      ][place.turns];
      return { ...place, x: place.x + dx, y: place.y + dy };
    }),
  };
}
