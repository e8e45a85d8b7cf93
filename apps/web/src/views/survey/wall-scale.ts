/** What a texture takes and what it needs, as it is drawn. */
export interface WallPicture {
  width: number;
  height: number;
  /** Longest side at which it loses nothing, px. */
  usefulSide: number;
  /** It holds one colour. */
  nearlyFlat: boolean;
}

/** Drawn px for each px of a texture, so that the largest one is `side` px long. */
export function wallScale(pictures: readonly WallPicture[], side: number): number {
  return side / Math.max(1, ...pictures.map(({ width, height }) => Math.max(width, height)));
}

/** Share of both sides that a texture needs: 1 where it uses all it has. */
export function neededShare({ width, height, usefulSide, nearlyFlat }: WallPicture): number {
  const longest = Math.max(width, height);
  return nearlyFlat ? Math.min(1, 1 / longest) : Math.min(1, usefulSide / longest);
}

/** Positions of pictures as they are hung: the largest first. */
export function wallOrder(pictures: readonly WallPicture[]): number[] {
  const area = ({ width, height }: WallPicture) => width * height;
  return pictures.map((_, i) => i).sort((a, b) => area(pictures[b]) - area(pictures[a]) || a - b);
}
