import { NO_FEATURE } from './nearest.ts';

/**
 * Exact nearest-feature transform on a grid, in plain TypeScript: the tests hold the kernel against it.
 *
 * Method: Felzenszwalb & Huttenlocher 2012, "Distance transforms of sampled functions", lower envelope of parabolas,
 * carried out on columns and then rows, keeping the feature's index. All distances are integers (squared, in texels),
 * so the result is exact; equal distances go to the feature with the lowest index.
 */

/**
 * For every cell the index (y * width + x) of the nearest cell whose `mask` is not 0.
 *
 * @param mask width × height cells, row by row
 * @returns Int32Array of the same length; `NO_FEATURE` everywhere when the mask is empty
 */
export function nearestReference(mask: Uint8Array | Uint32Array, width: number, height: number): Int32Array {
  const far = 1 << 29;
  // Column pass: nearest feature row in the same column; ties go to the upper one, which has the lower index.
  const rowOf = new Int32Array(width * height).fill(-1);
  const last = new Int32Array(width).fill(-1);
  for (let y = 0; y < height; y++) {
    const row = y * width;
    for (let x = 0; x < width; x++) {
      if (mask[row + x]) last[x] = y;
      rowOf[row + x] = last[x];
    }
  }
  last.fill(-1);
  for (let y = height - 1; y >= 0; y--) {
    const row = y * width;
    for (let x = 0; x < width; x++) {
      if (mask[row + x]) last[x] = y;
      const below = last[x];
      const above = rowOf[row + x];
      if (below >= 0 && (above < 0 || below - y < y - above)) rowOf[row + x] = below;
    }
  }
  const out = new Int32Array(width * height).fill(NO_FEATURE);
  const site = new Int32Array(width);
  const from = new Float64Array(width + 1);
  const cost = new Float64Array(width);
  for (let y = 0; y < height; y++) {
    const row = y * width;
    let count = 0;
    for (let x = 0; x < width; x++) {
      const r = rowOf[row + x];
      cost[x] = r < 0 ? far : (r - y) * (r - y);
      if (r < 0) continue;
      let start = -Infinity;
      while (count > 0) {
        const s = site[count - 1];
        start = (cost[x] + x * x - cost[s] - s * s) / (2 * (x - s));
        if (start >= from[count - 1]) break;
        count--;
        start = -Infinity;
      }
      site[count] = x;
      from[count] = count === 0 ? -Infinity : start;
      count++;
    }
    if (count === 0) continue;
    let k = 0;
    for (let x = 0; x < width; x++) {
      while (k + 1 < count && from[k + 1] < x) k++;
      let s = site[k];
      let index = rowOf[row + s] * width + s;
      // At an exact tie both parabolas are equally near: the lowest index wins.
      let j = k + 1;
      while (j < count && from[j] === x) {
        const t = site[j];
        const other = rowOf[row + t] * width + t;
        if (other < index) {
          index = other;
          s = t;
        }
        j++;
      }
      out[row + x] = index;
    }
  }
  return out;
}
