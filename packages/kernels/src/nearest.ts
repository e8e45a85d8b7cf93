import code from './generated/nearest.ts';
import { allocate, instantiate } from './wasm.ts';

interface Exports {
  nearest(mask: number, width: number, height: number, out: number, work: number): void;
}

/** No feature at all in the grid. */
export const NO_FEATURE = -1;

const round16 = (n: number) => Math.ceil(n / 16) * 16;

/**
 * For every cell the index (y · width + x) of the nearest cell whose `mask` is not 0; equal distances go to the lowest index. Exact: all distances are whole
 * numbers, squared (Felzenszwalb and Huttenlocher 2012, "Distance transforms of sampled functions", keeping the feature).
 * @param mask width × height cells, row by row @returns as many; `NO_FEATURE` everywhere when the mask is empty
 * @throws Error when more than 4 GiB are needed
 */
export function nearestFeature(mask: Uint8Array | Uint32Array, width: number, height: number): Int32Array {
  const cells = width * height;
  const maskAt = 16;
  const outAt = round16(maskAt + cells);
  const workAt = outAt + cells * 4;
  const memory = allocate(workAt + width * 28 + 64);
  const bytes = new Uint8Array(memory, maskAt, cells);
  if (mask instanceof Uint8Array) bytes.set(mask.subarray(0, cells));
  else for (let i = 0; i < cells; i++) bytes[i] = mask[i] === 0 ? 0 : 1;
  instantiate<Exports>(code, memory).nearest(maskAt, width, height, outAt, workAt);
  return new Int32Array(memory, outAt, cells);
}
