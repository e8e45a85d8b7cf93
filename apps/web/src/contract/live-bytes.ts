/** JSON with bytes behind it: the length of the JSON as 32 bits, little-endian; the JSON; then each block behind its length. */

/** @param head anything that is JSON */
export function joinLive(head: unknown, blocks: readonly Uint8Array[]): Uint8Array<ArrayBuffer> {
  const parts = [new TextEncoder().encode(JSON.stringify(head)), ...blocks];
  const out = new Uint8Array(parts.reduce((sum, part) => sum + 4 + part.length, 0));
  const view = new DataView(out.buffer);
  let at = 0;
  for (const part of parts) {
    view.setUint32(at, part.length, true);
    out.set(part, at + 4);
    at += 4 + part.length;
  }
  return out;
}

/** The blocks are parts of `bytes`. @throws RangeError where there is less than it says */
export function splitLive(bytes: Uint8Array): { head: unknown; blocks: Uint8Array[] } {
  const view = new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength);
  const parts: Uint8Array[] = [];
  for (let at = 0; at < bytes.length; ) {
    const length = view.getUint32(at, true);
    if (at + 4 + length > bytes.length) throw new RangeError('the answer is cut off');
    parts.push(bytes.subarray(at + 4, at + 4 + length));
    at += 4 + length;
  }
  const [head, ...blocks] = parts;
  return { head: JSON.parse(new TextDecoder().decode(head)), blocks };
}
