import { hashTriple } from '../math/hash.ts';
/** Vertices from face corners: corners with the same three indices become one vertex. */
export class CornerTable {
  private table: Int32Array;
  private readonly keys: number[] = [];
  count = 0;

  constructor(expected: number) {
    let capacity = 64;
    while (capacity < expected * 2) capacity *= 2;
    this.table = new Int32Array(capacity).fill(-1);
  }

  /** Number of the vertex of a corner; `keyAt` gives the indices of each. */
  add(a: number, b: number, c: number): number {
    if (this.count * 2 >= this.table.length) this.grow();
    let slot = this.slotOf(a, b, c);
    for (;;) {
      const v = this.table[slot];
      if (v < 0) {
        this.keys.push(a, b, c);
        this.table[slot] = this.count;
        return this.count++;
      }
      if (this.keys[v * 3] === a && this.keys[v * 3 + 1] === b && this.keys[v * 3 + 2] === c) return v;
      slot = (slot + 1) & (this.table.length - 1);
    }
  }

  keyAt(vertex: number, which: 0 | 1 | 2): number {
    return this.keys[vertex * 3 + which];
  }

  private slotOf(a: number, b: number, c: number): number {
    return hashTriple(a, b, c) & (this.table.length - 1);
  }

  private grow(): void {
    this.table = new Int32Array(this.table.length * 2).fill(-1);
    for (let v = 0; v < this.count; v++) {
      let slot = this.slotOf(this.keys[v * 3], this.keys[v * 3 + 1], this.keys[v * 3 + 2]);
      while (this.table[slot] >= 0) slot = (slot + 1) & (this.table.length - 1);
      this.table[slot] = v;
    }
  }
}
