/** A shape on the grid, as runs of cells: `runs` holds (row, start, length) triples, ordered by row. */
export interface RunMask {
  width: number;
  height: number;
  runs: Int32Array;
  cells: number;
  /** Where a sheet in WebAssembly has its runs. */
  held?: { by: object; forgotten: number; at: number };
}

/** Run form of a byte mask. */
export function toRuns(mask: Uint8Array, width: number, height: number): RunMask {
  const runs: number[] = [];
  let cells = 0;
  for (let y = 0; y < height; y++) {
    for (let x = 0; x < width; ) {
      if (!mask[y * width + x]) {
        x++;
        continue;
      }
      const s = x;
      while (x < width && mask[y * width + x]) x++;
      runs.push(y, s, x - s);
      cells += x - s;
    }
  }
  return { width, height, runs: Int32Array.from(runs), cells };
}
