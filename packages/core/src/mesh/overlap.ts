/**
 * Overlap of UV triangles. All functions take triangles as six numbers (x0 y0 x1 y1 x2 y2) in texels.
 */

/** True when the triangles share more than a sliver: separating axes with a depth of `eps` texels. */
export function trianglesOverlap(a: Float64Array, i: number, b: Float64Array, j: number, eps: number): boolean {
  return !apart(a, i, b, j, eps) && !separated(a, i, b, j, eps) && !separated(b, j, a, i, eps);
}

/** Whether the boxes share no more than that: then one of the sides' axes separates as well, since none of all directions is less deep than the best of those. */
function apart(a: Float64Array, i: number, b: Float64Array, j: number, eps: number): boolean {
  for (let k = 0; k < 2; k++) {
    const a0 = a[i + k];
    const a1 = a[i + k + 2];
    const a2 = a[i + k + 4];
    const b0 = b[j + k];
    const b1 = b[j + k + 2];
    const b2 = b[j + k + 4];
    if (Math.max(a0, a1, a2) - eps <= Math.min(b0, b1, b2)) return true;
    if (Math.max(b0, b1, b2) - eps <= Math.min(a0, a1, a2)) return true;
  }
  return false;
}

function separated(a: Float64Array, i: number, b: Float64Array, j: number, eps: number): boolean {
  for (let k = 0; k < 3; k++) {
    const p = i + k * 2;
    const q = i + ((k + 1) % 3) * 2;
    const nx = a[q + 1] - a[p + 1];
    const ny = a[p] - a[q];
    const length = Math.sqrt(nx * nx + ny * ny);
    if (length === 0) continue;
    let la = Infinity;
    let ha = -Infinity;
    let lb = Infinity;
    let hb = -Infinity;
    for (let m = 0; m < 6; m += 2) {
      const da = (nx * a[i + m] + ny * a[i + m + 1]) / length;
      const db = (nx * b[j + m] + ny * b[j + m + 1]) / length;
      la = Math.min(la, da);
      ha = Math.max(ha, da);
      lb = Math.min(lb, db);
      hb = Math.max(hb, db);
    }
    if (ha - eps <= lb || hb - eps <= la) return true;
  }
  return false;
}

/** Calls `visit(i, j)`, i < j, once or more for pairs of triangles whose boxes share a grid cell; stops early on false. */
export class TriangleGrid {
  private readonly cells = new Map<number, number[]>();
  private readonly size: number;
  private readonly minX: number;
  private readonly minY: number;
  private readonly columns: number;

  constructor(
    private readonly triangles: Float64Array,
    members: ArrayLike<number>,
  ) {
    let lx = Infinity;
    let ly = Infinity;
    let hx = -Infinity;
    let hy = -Infinity;
    for (let m = 0; m < members.length; m++)
      for (let k = 0; k < 6; k += 2) {
        lx = Math.min(lx, triangles[members[m] * 6 + k]);
        hx = Math.max(hx, triangles[members[m] * 6 + k]);
        ly = Math.min(ly, triangles[members[m] * 6 + k + 1]);
        hy = Math.max(hy, triangles[members[m] * 6 + k + 1]);
      }
    const side = Math.max(8, Math.min(2048, Math.ceil(Math.sqrt(members.length))));
    this.minX = lx;
    this.minY = ly;
    this.size = Math.max((hx - lx) / side, (hy - ly) / side, 1e-9);
    this.columns = side + 2;
  }

  /** Triangles already added whose boxes come near triangle t; t is added afterwards. */
  nearThenAdd(t: number, visit: (other: number) => void): void {
    const o = t * 6;
    const v = this.triangles;
    const x0 = Math.floor((Math.min(v[o], v[o + 2], v[o + 4]) - this.minX) / this.size);
    const x1 = Math.floor((Math.max(v[o], v[o + 2], v[o + 4]) - this.minX) / this.size);
    const y0 = Math.floor((Math.min(v[o + 1], v[o + 3], v[o + 5]) - this.minY) / this.size);
    const y1 = Math.floor((Math.max(v[o + 1], v[o + 3], v[o + 5]) - this.minY) / this.size);
    for (let y = y0; y <= y1; y++)
      for (let x = x0; x <= x1; x++) {
        const key = y * this.columns + x;
        const cell = this.cells.get(key);
        if (cell) for (const other of cell) visit(other);
        if (cell) cell.push(t);
        else this.cells.set(key, [t]);
      }
  }
}

/**
 * Splits a set of connected triangles into groups without overlap inside a group: grown over shared vertices, a triangle that
 * would overlap its group starts or joins another. Used only where overlapping faces look different.
 * @param neighbours for each triangle (position in `members`) the positions of its neighbours
 */
export function splitOverlaps(triangles: Float64Array, members: Uint32Array, neighbours: number[][]): Uint32Array[] {
  const eps = 0.05;
  const clashes: Set<number>[] = Array.from(members, () => new Set());
  const grid = new TriangleGrid(triangles, members);
  const position = new Map<number, number>();
  members.forEach((member, p) => {
    position.set(member, p);
    grid.nearThenAdd(member, (other) => {
      if (!trianglesOverlap(triangles, member * 6, triangles, other * 6, eps)) return;
      const q = position.get(other) as number;
      clashes[p].add(q);
      clashes[q].add(p);
    });
  });
  const group = new Int32Array(members.length).fill(-1);
  let groups = 0;
  for (let seed = 0; seed < members.length; seed++) {
    if (group[seed] >= 0) continue;
    const g = groups++;
    const queue = [seed];
    group[seed] = g;
    for (let at = 0; at < queue.length; at++) {
      for (const n of neighbours[queue[at]]) {
        if (group[n] >= 0) continue;
        let free = true;
        for (const c of clashes[n]) if (group[c] === g) free = false;
        if (!free) continue;
        group[n] = g;
        queue.push(n);
      }
    }
  }
  return Array.from({ length: groups }, (_, g) => members.filter((_, p) => group[p] === g));
}
