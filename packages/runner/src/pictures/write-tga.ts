/** Uncompressed TGA of interleaved bytes, rows from the top (Truevision TGA file format, version 2.0). */
export function encodeTga(data: Uint8Array, width: number, height: number, channels: 1 | 3 | 4): Uint8Array {
  const HEADER = 18;
  const out = new Uint8Array(HEADER + width * height * channels);
  const view = new DataView(out.buffer);
  out[2] = channels === 1 ? 3 : 2;
  view.setUint16(12, width, true);
  view.setUint16(14, height, true);
  out[16] = channels * 8;
  // Bit 5: the first row is the upper one; below it how many bits are alpha.
  out[17] = 0x20 | (channels === 4 ? 8 : 0);
  for (let i = 0; i < width * height; i++) {
    const o = HEADER + i * channels;
    if (channels === 1) {
      out[o] = data[i];
      continue;
    }
    out[o] = data[i * channels + 2];
    out[o + 1] = data[i * channels + 1];
    out[o + 2] = data[i * channels];
    if (channels === 4) out[o + 3] = data[i * 4 + 3];
  }
  return out;
}
