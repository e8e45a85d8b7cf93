/**
 * Looks at the headers of formats whose decoders trust them: what is not plausible is refused before the decoder sees it, since some of
 * them would run for ever.
 */

/** Lines in a block of an EXR by its compression (specification "OpenEXR file layout"). */
const BLOCK_LINES = [1, 1, 1, 16, 32, 16, 32, 32, 32, 256];

/** Attributes that every EXR has, with their sizes in bytes; −1: any. */
const NEEDED: Record<string, number> = {
  channels: -1,
  compression: 1,
  dataWindow: 16,
  displayWindow: 16,
  lineOrder: 1,
  pixelAspectRatio: 4,
  screenWindowCenter: 8,
  screenWindowWidth: 4,
};

/** Size of an EXR picture in pixels, or null when its header or table of lines cannot be right. */
export function exrSize(bytes: Uint8Array): [number, number] | null {
  const view = new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength);
  if (bytes.length < 16 || view.getUint32(0, true) !== 20000630 || view.getUint32(4, true) !== 2) return null;
  let at = 8;
  const word = (): string | null => {
    const from = at;
    while (at < bytes.length && bytes[at] !== 0 && at - from < 256) at++;
    if (at >= bytes.length || bytes[at] !== 0) return null;
    return String.fromCharCode(...bytes.subarray(from, at++));
  };
  const found = new Map<string, number>();
  for (;;) {
    const attribute = word();
    if (attribute === null) return null;
    if (attribute === '') break;
    if (word() === null || at + 4 > bytes.length) return null;
    const size = view.getInt32(at, true);
    at += 4;
    if (size < 0 || at + size > bytes.length) return null;
    const needed = NEEDED[attribute];
    if (needed !== undefined && needed >= 0 && needed !== size) return null;
    found.set(attribute, at);
    at += size;
  }
  const place = (name: string) => found.get(name) as number;
  if (Object.keys(NEEDED).some((name) => !found.has(name)) || !channelsHold(bytes, view, place('channels')))
    return null;
  const lines = BLOCK_LINES[bytes[place('compression')]];
  const window = [0, 4, 8, 12].map((k) => view.getInt32(place('dataWindow') + k, true));
  const [width, height] = [window[2] - window[0] + 1, window[3] - window[1] + 1];
  if (lines === undefined || !(width > 0 && height > 0 && width < 1e6 && height < 1e6)) return null;
  const blocks = Math.ceil(height / lines);
  if (at + blocks * 8 > bytes.length) return null;
  const first = at + blocks * 8;
  for (let b = 0; b < blocks; b++) {
    const offset = view.getUint32(at + b * 8, true);
    if (view.getUint32(at + b * 8 + 4, true) !== 0 || offset < first || offset + 8 > bytes.length) return null;
    const line = view.getInt32(offset, true) - window[1];
    const size = view.getInt32(offset + 4, true);
    if (line < 0 || line >= height || line % lines !== 0 || size < 0 || offset + 8 + size > bytes.length) return null;
  }
  return [width, height];
}

/** True for a list of at most 64 channels of known types without subsampling. */
function channelsHold(bytes: Uint8Array, view: DataView, from: number): boolean {
  let at = from;
  const end = from + view.getInt32(from - 4, true);
  for (let n = 0; n < 64; n++) {
    if (bytes[at] === 0) return n > 0 && at + 1 === end;
    while (at < end && bytes[at] !== 0) at++;
    at++;
    if (at + 16 > end || view.getInt32(at, true) < 0 || view.getInt32(at, true) > 2) return false;
    if (view.getInt32(at + 8, true) !== 1 || view.getInt32(at + 12, true) !== 1) return false;
    at += 16;
  }
  return false;
}

/** Size of a KTX2 picture, or null when its header or table of levels cannot be right (KTX 2.0 specification, chapter 3). */
export function ktx2Size(bytes: Uint8Array): [number, number] | null {
  const view = new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength);
  if (bytes.length < 104) return null;
  const [width, height] = [view.getUint32(20, true), view.getUint32(24, true)];
  const [depth, layers, faces, levels, packing] = [28, 32, 36, 40, 44].map((o) => view.getUint32(o, true));
  if (depth !== 0 || layers > 1 || faces !== 1 || levels < 1 || levels > 16 || packing > 2) return null;
  if (width < 1 || height < 1 || levels > Math.floor(Math.log2(Math.max(width, height))) + 1) return null;
  const inside = (offset: number, length: number) => offset + length <= bytes.length;
  for (const o of [48, 56]) if (!inside(view.getUint32(o, true), view.getUint32(o + 4, true))) return null;
  const long = (o: number) => view.getUint32(o, true) + view.getUint32(o + 4, true) * 2 ** 32;
  if (!inside(long(64), long(72)) || 80 + levels * 24 > bytes.length) return null;
  for (let l = 0; l < levels; l++) {
    const o = 80 + l * 24;
    if (long(o) < 80 + levels * 24 || !inside(long(o), long(o + 8)) || long(o + 8) === 0) return null;
  }
  return [width, height];
}
