/** Union-find over a fixed number of elements; the root of a set is its lowest element. */
export class DisjointSet {
  private readonly parent: Int32Array;
  constructor(size: number) {
    this.parent = new Int32Array(size);
    for (let i = 0; i < size; i++) this.parent[i] = i;
  }
  find(i: number): number {
    const parent = this.parent;
    while (parent[i] !== i) {
      parent[i] = parent[parent[i]];
      i = parent[i];
    }
    return i;
  }
  /** @returns false where they were in one set already */
  join(a: number, b: number): boolean {
    const x = this.find(a);
    const y = this.find(b);
    if (x === y) return false;
    if (x < y) this.parent[y] = x;
    else this.parent[x] = y;
    return true;
  }
}
