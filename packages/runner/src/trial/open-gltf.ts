import { readFile } from 'node:fs/promises';
import type { GltfJson } from '@wembrel/core/handover/trial/gltf-json';

/** A model as a stranger's loader sees it: its JSON, and the piece that a GLB carries. */
export interface OpenedGltf {
  json: GltfJson;
  binary: Uint8Array | null;
}

const GLB = 0x46546c67;
const JSON_CHUNK = 0x4e4f534a;
const BINARY_CHUNK = 0x004e4942;

/** Opens a GLB or glTF by the specification alone, with no reader of ours. @throws Error in one sentence */
export async function openGltf(path: string): Promise<OpenedGltf> {
  const bytes = new Uint8Array(await readFile(path));
  const view = new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength);
  if (bytes.length < 12 || view.getUint32(0, true) !== GLB) return { json: parsed(bytes), binary: null };
  let json: GltfJson | null = null;
  let binary: Uint8Array | null = null;
  for (let at = 12; at + 8 <= bytes.length; ) {
    const length = view.getUint32(at, true);
    const piece = bytes.subarray(at + 8, at + 8 + length);
    if (piece.length < length) throw new Error('it ends in the middle');
    if (view.getUint32(at + 4, true) === JSON_CHUNK) json = parsed(piece);
    if (view.getUint32(at + 4, true) === BINARY_CHUNK) binary = piece;
    at += 8 + length;
  }
  if (!json) throw new Error('it has no JSON');
  return { json, binary };
}

function parsed(bytes: Uint8Array): GltfJson {
  try {
    const value: unknown = JSON.parse(new TextDecoder().decode(bytes));
    if (typeof value === 'object' && value !== null && !Array.isArray(value)) return value;
  } catch {
    // Said below, in words.
  }
  throw new Error('its JSON cannot be read');
}

/** Bytes of an image inside the file; null where they are not there. */
export function insideImage({ json, binary }: OpenedGltf, image: number): Uint8Array | null {
  const { uri, bufferView } = json.images?.[image] ?? {};
  const data = uri ? /^data:[^,]*;base64,(.*)$/s.exec(uri) : null;
  if (data) return new Uint8Array(Buffer.from(data[1], 'base64'));
  const { byteOffset = 0, byteLength = 0, buffer } = json.bufferViews?.[bufferView ?? -1] ?? {};
  if (bufferView === undefined || buffer !== 0 || !binary) return null;
  const bytes = binary.subarray(byteOffset, byteOffset + byteLength);
  return bytes.length === byteLength && byteLength > 0 ? bytes : null;
}
