import { zlibSync } from 'fflate';

const TABLE = (() => {
  const t = new Uint32Array(256);
  for (let n = 0; n < 256; n++) {
    let c = n;
    for (let k = 0; k < 8; k++) c = c & 1 ? 0xedb88320 ^ (c >>> 1) : c >>> 1;
    t[n] = c >>> 0;
  }
  return t;
})();

function crc(bytes: Uint8Array): number {
  let c = 0xffffffff;
  for (const byte of bytes) c = TABLE[(c ^ byte) & 255] ^ (c >>> 8);
  return (c ^ 0xffffffff) >>> 0;
}

function chunk(type: string, data: Uint8Array): Uint8Array {
  const out = new Uint8Array(12 + data.length);
  const view = new DataView(out.buffer);
  view.setUint32(0, data.length);
  for (let i = 0; i < 4; i++) out[4 + i] = type.charCodeAt(i);
  out.set(data, 8);
  view.setUint32(8 + data.length, crc(out.subarray(4, 8 + data.length)));
  return out;
}

/** A PNG of 8 or 16 bits a channel (PNG specification, third edition); rows are predicted from the row above. */
export function writePng(
  data: Uint8Array | Uint16Array,
  width: number,
  height: number,
  channels: 1 | 3 | 4,
): Uint8Array {
  const deep = data instanceof Uint16Array;
  const stride = width * channels * (deep ? 2 : 1);
  const raw = new Uint8Array((stride + 1) * height);
  const row = new Uint8Array(stride);
  const above = new Uint8Array(stride);
  for (let y = 0; y < height; y++) {
    for (let i = 0; i < width * channels; i++) {
      const v = data[y * width * channels + i];
      if (deep) {
        row[i * 2] = v >> 8;
        row[i * 2 + 1] = v & 255;
      } else row[i] = v;
    }
    const o = y * (stride + 1);
    raw[o] = 2;
    for (let i = 0; i < stride; i++) raw[o + 1 + i] = row[i] - above[i];
    above.set(row);
  }
  const header = new Uint8Array(13);
  const view = new DataView(header.buffer);
  view.setUint32(0, width);
  view.setUint32(4, height);
  header[8] = deep ? 16 : 8;
  header[9] = channels === 1 ? 0 : channels === 3 ? 2 : 6;
  const parts = [
    Uint8Array.of(0x89, 0x50, 0x4e, 0x47, 0x0d, 0x0a, 0x1a, 0x0a),
    chunk('IHDR', header),
    chunk('IDAT', zlibSync(raw, { level: 4 })),
    chunk('IEND', new Uint8Array(0)),
  ];
  const out = new Uint8Array(parts.reduce((sum, part) => sum + part.length, 0));
  let at = 0;
  for (const part of parts) {
    out.set(part, at);
    at += part.length;
  }
  return out;
}
