import { InputError } from '../../errors.ts';

const MAGIC = 0x46546c67;
const JSON_CHUNK = 0x4e4f534a;
const BIN_CHUNK = 0x004e4942;

/** The two chunks of a GLB container (glTF 2.0 specification, section "GLB File Format"). */
export interface GlbParts {
  json: unknown;
  bin: Uint8Array | null;
}

export function isGlb(bytes: Uint8Array): boolean {
  return bytes.length >= 4 && new DataView(bytes.buffer, bytes.byteOffset, 4).getUint32(0, true) === MAGIC;
}

/** Text of UTF-8 bytes, without a decoder of the platform; invalid sequences become U+FFFD. */
export function utf8(bytes: Uint8Array): string {
  let out = '';
  let i = 0;
  const n = bytes.length;
  const part: number[] = [];
  while (i < n) {
    const a = bytes[i++];
    let cp = a;
    if (a >= 0x80) {
      const extra = a >= 0xf0 ? 3 : a >= 0xe0 ? 2 : a >= 0xc0 ? 1 : 0;
      cp = extra === 0 ? 0xfffd : a & (0x3f >> extra);
      for (let k = 0; k < extra && cp !== 0xfffd; k++) {
        const b = i < n ? bytes[i] : 0;
        if ((b & 0xc0) !== 0x80) cp = 0xfffd;
        else {
          cp = (cp << 6) | (b & 0x3f);
          i++;
        }
      }
      if (cp > 0x10ffff) cp = 0xfffd;
    }
    part.push(cp);
    if (part.length === 4096) {
      out += String.fromCodePoint(...part);
      part.length = 0;
    }
  }
  return out + String.fromCodePoint(...part);
}

/** UTF-8 bytes of a text. */
export function utf8Bytes(text: string): Uint8Array {
  const out: number[] = [];
  for (const ch of text) {
    const c = ch.codePointAt(0) as number;
    if (c < 0x80) out.push(c);
    else if (c < 0x800) out.push(0xc0 | (c >> 6), 0x80 | (c & 63));
    else if (c < 0x10000) out.push(0xe0 | (c >> 12), 0x80 | ((c >> 6) & 63), 0x80 | (c & 63));
    else out.push(0xf0 | (c >> 18), 0x80 | ((c >> 12) & 63), 0x80 | ((c >> 6) & 63), 0x80 | (c & 63));
  }
  return Uint8Array.from(out);
}

/** Parses JSON text of a glTF document; the reason names the position. */
export function parseJson(path: string, bytes: Uint8Array): unknown {
  try {
    return JSON.parse(utf8(bytes).replace(/^\uFEFF/, ''));
  } catch (error) {
    const at = /position (\d+)/.exec(String(error))?.[1];
    throw new InputError(path, `the JSON part cannot be read${at ? ` (near character ${at})` : ''}`);
  }
}

/** @throws InputError when the container is cut short, of another version, or inconsistent */
export function parseGlb(path: string, bytes: Uint8Array): GlbParts {
  const view = new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength);
  if (bytes.length < 20)
    throw new InputError(path, `the file ends after ${bytes.length} bytes, before its first chunk`);
  const version = view.getUint32(4, true);
  if (version !== 2) throw new InputError(path, `GLB version ${version} is not supported (2 is)`);
  const length = view.getUint32(8, true);
  if (length > bytes.length)
    throw new InputError(path, `the file is cut short: it says ${length} bytes and has ${bytes.length}`);
  let json: Uint8Array | null = null;
  let bin: Uint8Array | null = null;
  let at = 12;
  while (at + 8 <= length) {
    const size = view.getUint32(at, true);
    const type = view.getUint32(at + 4, true);
    if (at + 8 + size > length)
      throw new InputError(path, `the chunk at byte ${at} says ${size} bytes, more than the file holds`);
    const chunk = bytes.subarray(at + 8, at + 8 + size);
    if (json === null) {
      if (type !== JSON_CHUNK) throw new InputError(path, 'the first chunk is not JSON');
      json = chunk;
    } else if (type === BIN_CHUNK && bin === null) bin = chunk;
    at += 8 + size;
  }
  if (json === null) throw new InputError(path, 'the file has no JSON chunk');
  return { json: parseJson(path, json), bin };
}

/** Puts a GLB together; both chunks are padded to four bytes as the specification asks. */
export function buildGlb(json: unknown, bin: Uint8Array | null): Uint8Array {
  const text = utf8Bytes(JSON.stringify(json));
  const jsonSize = (text.length + 3) & ~3;
  const binSize = bin === null ? 0 : (bin.length + 3) & ~3;
  const total = 12 + 8 + jsonSize + (bin === null ? 0 : 8 + binSize);
  const out = new Uint8Array(total);
  const view = new DataView(out.buffer);
  view.setUint32(0, MAGIC, true);
  view.setUint32(4, 2, true);
  view.setUint32(8, total, true);
  view.setUint32(12, jsonSize, true);
  view.setUint32(16, JSON_CHUNK, true);
  out.fill(0x20, 20, 20 + jsonSize);
  out.set(text, 20);
  if (bin !== null) {
    const o = 20 + jsonSize;
    view.setUint32(o, binSize, true);
    view.setUint32(o + 4, BIN_CHUNK, true);
    out.set(bin, o + 8);
  }
  return out;
}
