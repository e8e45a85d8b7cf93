/** Bits by which numbers are sorted at a time. */
const BITS = 11;
const BINS = 1 << BITS;
const DIGITS = Math.ceil(64 / BITS);

/**
 * The order in which numbers rise, equal ones in the order in which they came: a radix sort of their bits.
 * @param values from 0 on, finite
 * @returns indices into `values`
 */
export function risingOrder(values: Float64Array): Uint32Array {
  const count = values.length;
  const counts = digitCounts(values);
  let order = new Uint32Array(count).map((_, i) => i);
  let next = new Uint32Array(count);
  const words = new Uint32Array(values.buffer, values.byteOffset, count * 2);
  for (let d = 0; d < DIGITS; d++) {
    const bins = counts.subarray(d * BINS, (d + 1) * BINS);
    // All numbers have the same digit here.
    if (bins.includes(count)) continue;
    let at = 0;
    for (let b = 0; b < BINS; b++) {
      const bin = bins[b];
      bins[b] = at;
      at += bin;
    }
    for (let k = 0; k < count; k++) {
      const i = order[k];
      next[bins[digitOf(words[i * 2], words[i * 2 + 1], d)]++] = i;
    }
    [order, next] = [next, order];
  }
  return order;
}

function digitCounts(values: Float64Array): Uint32Array {
  const words = new Uint32Array(values.buffer, values.byteOffset, values.length * 2);
  const counts = new Uint32Array(DIGITS * BINS);
  for (let i = 0; i < words.length; i += 2)
    for (let d = 0; d < DIGITS; d++) counts[d * BINS + digitOf(words[i], words[i + 1], d)]++;
  return counts;
}

/** One digit of a number of 64 bits, the lowest digit first. */
function digitOf(low: number, high: number, d: number): number {
  const from = d * BITS;
  if (from >= 32) return (high >>> (from - 32)) & (BINS - 1);
  const below = low >>> from;
  return (from + BITS > 32 ? below | (high << (32 - from)) : below) & (BINS - 1);
}
