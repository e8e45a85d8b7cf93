/** A weighted graph's Laplacian, for two right sides at once; its first place stays where it is. */
export class Laplacian {
  private readonly start: Int32Array;
  private readonly column: Int32Array;
  private readonly weight: Float64Array;
  /** Where the columns of a row that lie behind its diagonal begin. */
  private readonly behind: Int32Array;
  private readonly diagonal: Float64Array;
  /** Reciprocals of the pivots of the incomplete factors. */
  private readonly pivot: Float64Array;

  /** @param corners three places a triangle @param weights of the sides from each corner to the next; a side of two triangles has the sum of both */
  constructor(n: number, corners: Uint32Array, weights: Float64Array) {
    const end = (s: number) => corners[s % 3 === 2 ? s - 2 : s + 1];
    const first = new Int32Array(n + 1);
    for (let s = 0; s < corners.length; s++) {
      first[corners[s] + 1]++;
      first[end(s) + 1]++;
    }
    for (let i = 0; i < n; i++) first[i + 1] += first[i];
    const at = first.slice(0, n);
    const columns = new Int32Array(2 * corners.length);
    const values = new Float64Array(2 * corners.length);
    this.diagonal = new Float64Array(n);
    const put = (a: number, b: number, w: number) => {
      this.diagonal[a] += w;
      // Rows are short: the other triangle of a side has put it there already, or not yet.
      for (let k = first[a]; k < at[a]; k++)
        if (columns[k] === b) {
          values[k] += w;
          return;
        }
      let k = at[a]++;
      for (; k > first[a] && columns[k - 1] > b; k--) {
        columns[k] = columns[k - 1];
        values[k] = values[k - 1];
      }
      columns[k] = b;
      values[k] = w;
    };
    for (let s = 0; s < corners.length; s++) {
      if (corners[s] === end(s)) continue;
      put(corners[s], end(s), weights[s]);
      put(end(s), corners[s], weights[s]);
    }
    this.start = new Int32Array(n + 1);
    for (let i = 0; i < n; i++) this.start[i + 1] = this.start[i] + at[i] - first[i];
    this.column = new Int32Array(this.start[n]);
    this.weight = new Float64Array(this.start[n]);
    this.behind = new Int32Array(n);
    for (let i = 0; i < n; i++) {
      this.column.set(columns.subarray(first[i], at[i]), this.start[i]);
      this.weight.set(values.subarray(first[i], at[i]), this.start[i]);
      let k = this.start[i];
      while (k < this.start[i + 1] && this.column[k] < i) k++;
      this.behind[i] = k;
    }
    this.pivot = this.factors();
  }

  /** Pivots of an incomplete Cholesky factor that keeps the matrix's own entries (Meijerink and van der Vorst 1977, with the diagonal alone changed). */
  private factors(): Float64Array {
    const { diagonal, start, behind, column, weight } = this;
    const out = new Float64Array(diagonal.length);
    for (let i = 0; i < out.length; i++) {
      let d = diagonal[i];
      for (let k = start[i]; k < behind[i]; k++) d -= weight[k] * weight[k] * out[column[k]];
      // The last one would be 0: all may move together.
      out[i] = 1 / Math.max(d, 0.02 * diagonal[i], 1e-12);
    }
    return out;
  }

  private times(x: Float64Array, out: Float64Array): void {
    const { diagonal, start, column, weight } = this;
    for (let i = 0; i < diagonal.length; i++) {
      let u = diagonal[i] * x[2 * i];
      let v = diagonal[i] * x[2 * i + 1];
      for (let k = start[i]; k < start[i + 1]; k++) {
        const j = 2 * column[k];
        u -= weight[k] * x[j];
        v -= weight[k] * x[j + 1];
      }
      out[2 * i] = u;
      out[2 * i + 1] = v;
    }
  }

  /** Solves with the incomplete factors: forward, then backward. */
  private precondition(r: Float64Array, z: Float64Array): void {
    const { start, behind, column, weight, pivot } = this;
    const n = pivot.length;
    for (let i = 0; i < n; i++) {
      let u = r[2 * i];
      let v = r[2 * i + 1];
      for (let k = start[i]; k < behind[i]; k++) {
        const j = 2 * column[k];
        u += weight[k] * z[j];
        v += weight[k] * z[j + 1];
      }
      z[2 * i] = u * pivot[i];
      z[2 * i + 1] = v * pivot[i];
    }
    for (let i = n - 1; i >= 0; i--) {
      let u = 0;
      let v = 0;
      for (let k = behind[i]; k < start[i + 1]; k++) {
        const j = 2 * column[k];
        u += weight[k] * z[j];
        v += weight[k] * z[j + 1];
      }
      z[2 * i] += u * pivot[i];
      z[2 * i + 1] += v * pivot[i];
    }
  }

  /** Conjugate gradients, preconditioned. The sum of the right side is 0, so the free move does no harm. @param most rounds */
  solve(right: Float64Array, from: Float64Array, most: number): Float64Array {
    const n = right.length;
    const x = from.slice();
    const r = new Float64Array(n);
    const q = new Float64Array(n);
    const z = new Float64Array(n);
    this.times(x, q);
    let left = 0;
    let scale = 0;
    for (let i = 0; i < n; i++) {
      r[i] = right[i] - q[i];
      left += r[i] * r[i];
      scale += right[i] * right[i];
    }
    this.precondition(r, z);
    const p = z.slice();
    let rz = dot(r, z);
    for (let k = 0; k < most && left > 1e-7 * scale; k++) {
      this.times(p, q);
      const curve = dot(p, q);
      if (!(curve > 0)) break;
      const a = rz / curve;
      left = 0;
      for (let i = 0; i < n; i++) {
        x[i] += a * p[i];
        r[i] -= a * q[i];
        left += r[i] * r[i];
      }
      this.precondition(r, z);
      const next = dot(r, z);
      const b = next / rz;
      rz = next;
      for (let i = 0; i < n; i++) p[i] = z[i] + b * p[i];
    }
    return x;
  }
}

function dot(a: Float64Array, b: Float64Array): number {
  let sum = 0;
  for (let i = 0; i < a.length; i++) sum += a[i] * b[i];
  return sum;
}
