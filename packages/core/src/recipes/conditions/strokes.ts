import type { SingleCondition, Vector } from '../../decisions/recipe/condition.ts';
import { SpaceGrid } from '../space-grid.ts';

type Strokes = Extract<SingleCondition, { of: 'strokes' }>;

/** A ball, or the way from one ball to the next, x y z radius each; m. */
interface Mark {
  from: Vector;
  along: Vector;
  radius: [number, number];
}

function boxOf({ from, along, radius }: Mark): number[] {
  const reach = Math.max(...radius);
  return [
    ...from.map((v, k) => Math.min(v, v + along[k]) - reach),
    ...from.map((v, k) => Math.max(v, v + along[k]) + reach),
  ];
}

/** Points painted on a model: the greatest of what any of them reaches. They lie in object space, so that they survive another unwrap. */
export class StrokeField {
  private readonly marks: Mark[] = [];
  private readonly grid: SpaceGrid;

  constructor(private readonly strokes: Strokes) {
    let copies: Vector[] = [[1, 1, 1]];
    for (const axis of strokes.mirror)
      copies = copies.concat(copies.map((copy) => copy.map((v, k) => (k === 'xyz'.indexOf(axis) ? -v : v)) as Vector));
    for (const sign of copies) this.addCopy(sign);
    const widest = Math.max(...this.marks.map(({ radius }) => Math.max(...radius)));
    this.grid = new SpaceGrid(this.marks.map(boxOf), widest * 2);
  }

  private addCopy(sign: Vector): void {
    const { points } = this.strokes;
    const placed = points.map(({ at }) => at.map((v, k) => v * sign[k]) as Vector);
    points.forEach(({ radius, joined }, i) => {
      const from = joined && i > 0 ? i - 1 : i;
      this.marks.push({
        from: placed[from],
        along: placed[i].map((v, k) => v - placed[from][k]) as Vector,
        radius: [points[from].radius / 1000, radius / 1000],
      });
    });
  }

  /** 0 … 1 at a point, m. */
  at(x: number, y: number, z: number): number {
    const [from, to] = this.grid.range(this.grid.cellAt(x, y, z));
    let most = 0;
    for (let i = from; i < to; i++) most = Math.max(most, this.reached(this.marks[this.grid.items[i]], x, y, z));
    return most;
  }

  private reached({ from, along, radius }: Mark, x: number, y: number, z: number): number {
    const [dx, dy, dz] = [x - from[0], y - from[1], z - from[2]];
    const length = along[0] ** 2 + along[1] ** 2 + along[2] ** 2;
    const t = length > 0 ? Math.min(1, Math.max(0, (dx * along[0] + dy * along[1] + dz * along[2]) / length)) : 0;
    const d = Math.sqrt((dx - t * along[0]) ** 2 + (dy - t * along[1]) ** 2 + (dz - t * along[2]) ** 2);
    const r = radius[0] + t * (radius[1] - radius[0]);
    const fade = r * this.strokes.falloff;
    const s = fade > 0 ? Math.min(1, Math.max(0, (r - d) / fade)) : Number(d <= r);
    return s * s * (3 - 2 * s);
  }
}
