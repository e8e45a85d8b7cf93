/** So many places, free, for as many tasks as run at one time. */
export const freePlaces = (count: number): Int32Array => new Int32Array(new SharedArrayBuffer(count * 4));

/** Holds a place that no other task has while some work lasts. @param work gets its number; one too many where all are taken */
export function inPlace<T>(places: Int32Array, work: (place: number) => T): T {
  let place = 0;
  while (place < places.length && Atomics.compareExchange(places, place, 0, 1) !== 0) place++;
  try {
    return work(place);
  } finally {
    if (place < places.length) Atomics.store(places, place, 0);
  }
}
