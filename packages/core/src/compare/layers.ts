import type { LayerList, ViewKernel } from '@wembrel/kernels/view-kernel';

/** Layers of alpha-blended triangles over a band, as they are found triangle by triangle. */
export class LayerCollector {
  private count = 0;
  private pixel = new Int32Array(1024);
  private ids = new Int32Array(1024);
  /** Samples, and sums over them of nearness, x and y. */
  private sums = new Float64Array(4096);

  /** Adds what the kernel found of a triangle. @param id its number among all */
  add(id: number, { layerOut }: ViewKernel, found: number): void {
    while (this.count + found > this.ids.length) this.grow();
    for (let i = 0; i < found; i++) {
      const k = this.count++;
      this.pixel[k] = layerOut[i * 5];
      this.ids[k] = id;
      this.sums.set(layerOut.subarray(i * 5 + 1, i * 5 + 5), k * 4);
    }
  }

  private grow(): void {
    const length = this.ids.length * 2;
    const longer = <T extends Int32Array | Float64Array>(from: T, to: T): T => {
      to.set(from);
      return to;
    };
    this.pixel = longer(this.pixel, new Int32Array(length));
    this.ids = longer(this.ids, new Int32Array(length));
    this.sums = longer(this.sums, new Float64Array(length * 4));
  }

  /**
   * By pixel of the band's columns, the farthest first; those equally far in the order in which they came.
   * @param size side of the picture, px @returns null where there are none
   */
  list(size: number, [first, last]: readonly [number, number], rows: number): LayerList | null {
    const { count, pixel, sums } = this;
    if (count === 0) return null;
    const columns = last - first + 1;
    const place = new Int32Array(count);
    const starts = new Int32Array(columns * rows + 1);
    for (let k = 0; k < count; k++) {
      const row = Math.floor(pixel[k] / size);
      place[k] = row * columns + pixel[k] - row * size - first;
      starts[place[k] + 1]++;
    }
    for (let p = 1; p < starts.length; p++) starts[p] += starts[p - 1];
    const next = starts.slice();
    const order = new Int32Array(count);
    const near = new Float64Array(count);
    for (let k = 0; k < count; k++) {
      const nearness = sums[k * 4 + 1] / sums[k * 4];
      // A few lie over a pixel: each goes behind those that are no nearer.
      let at = next[place[k]]++;
      for (; at > starts[place[k]] && near[at - 1] > nearness; at--) {
        near[at] = near[at - 1];
        order[at] = order[at - 1];
      }
      near[at] = nearness;
      order[at] = k;
    }
    const list: LayerList = {
      starts,
      ids: new Int32Array(count),
      samples: new Float64Array(count),
      x: new Float64Array(count),
      y: new Float64Array(count),
    };
    for (let i = 0; i < count; i++) {
      const k = order[i];
      list.ids[i] = this.ids[k];
      list.samples[i] = sums[k * 4];
      list.x[i] = sums[k * 4 + 2];
      list.y[i] = sums[k * 4 + 3];
    }
    return list;
  }
}
