/** What a click with keys does to what is selected. */
export interface Combine {
  add: boolean;
  remove: boolean;
}

/** A set of faces, one byte each, without those that are hidden. */
export const visible = (set: Uint8Array, hidden: Uint8Array | null): Uint8Array =>
  hidden ? set.map((v, f) => v & ~hidden[f] & 1) : set;

/** What is selected once a set has come to it; a set of another model takes its place. */
export function combined(old: Uint8Array, set: Uint8Array, { add, remove }: Combine): Uint8Array {
  if (old.length !== set.length || (!add && !remove)) return set;
  return set.map((v, f) => (remove ? old[f] & ~v & 1 : old[f] | v));
}
