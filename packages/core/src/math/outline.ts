/** A point of a plane. */
export type Point = readonly [x: number, y: number];

/** Whether a point lies within a closed outline, which may cross itself: within where a line to it crosses the outline an odd number of times. */
export function insideOutline(outline: readonly Point[], x: number, y: number): boolean {
  let odd = false;
  for (let i = 0, last = outline.length - 1; i < outline.length; last = i++) {
    const [ax, ay] = outline[last];
    const [bx, by] = outline[i];
    if (ay > y !== by > y && x < ((bx - ax) * (y - ay)) / (by - ay) + ax) odd = !odd;
  }
  return odd;
}

/** Left, top, right and bottom of an outline. */
export function outlineBox(outline: readonly Point[]): [number, number, number, number] {
  const box: [number, number, number, number] = [Infinity, Infinity, -Infinity, -Infinity];
  for (const [x, y] of outline) {
    box[0] = Math.min(box[0], x);
    box[1] = Math.min(box[1], y);
    box[2] = Math.max(box[2], x);
    box[3] = Math.max(box[3], y);
  }
  return box;
}
