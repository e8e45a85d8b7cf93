import type { Field } from '@wembrel/kernels/field';

/** Orders in which shapes are constructed, as keys: those with greater ones come first. */

/** What comes first: large and long. */
const ORDERS: ((field: Field) => number)[] = [
  (field) => Math.sqrt(field.area) + 2 * Math.max(field.halfWidth, field.halfHeight),
  (field) => field.area,
  (field) => Math.sqrt(field.halfWidth * field.halfHeight) + field.halfWidth + field.halfHeight,
  (field) => field.halfWidth * field.halfHeight,
  (field) => Math.max(field.halfWidth, field.halfHeight),
];

/** The usual orders, with keys that are 1 on average. */
export function initialOrders(fields: readonly Field[]): Float64Array[] {
  return ORDERS.map((f) => {
    const k = Float64Array.from(fields, f);
    const mean = k.reduce((sum, b) => sum + b, 0) / Math.max(1, k.length);
    return k.map((v) => v / Math.max(mean, 1e-9));
  });
}

/**
 * Other keys: for one of those that had no room, so that it comes sooner (what causes trouble goes first, Joslin and Clements 1999), or a
 * little other ones for all, or for some.
 * @param late shapes that had no room @param k counts the tries, which differ in how far they go
 */
export function changedOrder(
  keys: Float64Array,
  late: readonly number[],
  k: number,
  random: () => number,
): Float64Array {
  const out = keys.slice();
  const vary = (i: number, amount: number) => {
    out[i] *= 1 + (random() * 2 - 1) * amount;
  };
  const kind = random();
  if (kind < 0.5 && late.length > 0)
    out[late[Math.floor(random() * late.length)]] *= 1 + random() * [0.1, 0.4, 1][k % 3];
  else if (kind < 0.65) for (let i = 0; i < out.length; i++) vary(i, [0.02, 0.05, 0.15][k % 3]);
  else
    for (let n = 1 + Math.floor(random() * Math.max(2, out.length / 20)); n > 0; n--)
      vary(Math.floor(random() * out.length), [0.1, 0.3, 0.6][k % 3]);
  return out;
}

/** Keys that all differ a little, by a share of them at most. */
export function perturbedOrder(keys: Float64Array, random: () => number, share: number): Float64Array {
  return keys.map((v) => v * (1 + (random() * 2 - 1) * share));
}
