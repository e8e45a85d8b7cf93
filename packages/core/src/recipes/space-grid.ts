/** The greatest number of cells along an axis. */
const MOST_CELLS = 96;

/** Finds which of many small boxes may hold a point: a regular grid over all of them, each filed under every cell that it touches. */
export class SpaceGrid {
  /** Numbers of boxes, cell by cell, ascending within each; those of a cell lie between its two marks. */
  readonly items: Uint32Array;
  private readonly marks: Uint32Array;
  private readonly low: number[];
  private readonly cell: number;
  private readonly cells: number[];

  /** @param boxes low x y z and high x y z of each @param width of a cell, about that of a box */
  constructor(boxes: readonly (readonly number[])[], width: number) {
    this.low = [0, 1, 2].map((k) => Math.min(...boxes.map((box) => box[k])));
    const high = [3, 4, 5].map((k) => Math.max(...boxes.map((box) => box[k])));
    const spans = high.map((v, k) => v - this.low[k]);
    this.cell = Math.max(width, ...spans.map((span) => span / MOST_CELLS), 1e-9);
    this.cells = spans.map((span) => Math.max(1, Math.ceil(span / this.cell)));
    const counts = new Uint32Array(this.cells[0] * this.cells[1] * this.cells[2] + 1);
    this.eachCell(boxes, (cell) => counts[cell + 1]++);
    for (let i = 1; i < counts.length; i++) counts[i] += counts[i - 1];
    this.marks = counts;
    this.items = new Uint32Array(counts[counts.length - 1]);
    const next = counts.slice();
    this.eachCell(boxes, (cell, box) => {
      this.items[next[cell]++] = box;
    });
  }

  private eachCell(boxes: readonly (readonly number[])[], visit: (cell: number, box: number) => void): void {
    const [nx, ny] = this.cells;
    boxes.forEach((box, b) => {
      const from = [0, 1, 2].map((k) => this.along(box[k], k));
      const to = [0, 1, 2].map((k) => this.along(box[k + 3], k));
      for (let z = from[2]; z <= to[2]; z++)
        for (let y = from[1]; y <= to[1]; y++) for (let x = from[0]; x <= to[0]; x++) visit((z * ny + y) * nx + x, b);
    });
  }

  private along(v: number, k: number): number {
    const i = Math.floor((v - this.low[k]) / this.cell);
    return i < 0 ? 0 : i >= this.cells[k] ? this.cells[k] - 1 : i;
  }

  /** The cell of a point, or −1 where there is nothing. */
  cellAt(x: number, y: number, z: number): number {
    const [i, j, k] = [x, y, z].map((v, axis) => Math.floor((v - this.low[axis]) / this.cell));
    const [nx, ny, nz] = this.cells;
    // A point on the far side of the last cell belongs to it.
    const inside = (v: number, n: number) => v >= 0 && v <= n;
    if (!inside(i, nx) || !inside(j, ny) || !inside(k, nz)) return -1;
    return (Math.min(k, nz - 1) * ny + Math.min(j, ny - 1)) * nx + Math.min(i, nx - 1);
  }

  /** Where the numbers of a cell begin and end in `items`. */
  range(cell: number): readonly [number, number] {
    return cell < 0 ? [0, 0] : [this.marks[cell], this.marks[cell + 1]];
  }
}
