/** A decoded image: R G B A interleaved, as stored (not yet linear), row 0 on top. */
export interface Raster {
  width: number;
  height: number;
  /** Bits of a channel: 8 with Uint8Array, 16 with Uint16Array. */
  bits: 8 | 16;
  data: Uint8Array | Uint16Array;
}

/** Least and greatest value of each channel, in 0 … 1. */
export interface ChannelRange {
  min: [number, number, number, number];
  max: [number, number, number, number];
}

export function channelRange(raster: Raster): ChannelRange {
  const { data } = raster;
  let [r0, g0, b0, a0] = [65535, 65535, 65535, 65535];
  let [r1, g1, b1, a1] = [0, 0, 0, 0];
  for (let i = 0; i < data.length; i += 4) {
    const r = data[i];
    const g = data[i + 1];
    const b = data[i + 2];
    const a = data[i + 3];
    if (r < r0) r0 = r;
    if (r > r1) r1 = r;
    if (g < g0) g0 = g;
    if (g > g1) g1 = g;
    if (b < b0) b0 = b;
    if (b > b1) b1 = b;
    if (a < a0) a0 = a;
    if (a > a1) a1 = a;
  }
  const full = raster.bits === 8 ? 255 : 65535;
  return {
    min: [r0 / full, g0 / full, b0 / full, a0 / full],
    max: [r1 / full, g1 / full, b1 / full, a1 / full],
  };
}

/** Mean of R, G and B as stored, 0 … 255; a coarse grid of texels is enough for a swatch. */
export function meanColour(raster: Raster): [number, number, number] {
  const { data, width, height } = raster;
  const step = Math.max(1, Math.floor(Math.max(width, height) / 128));
  const sum = [0, 0, 0];
  let n = 0;
  for (let y = 0; y < height; y += step)
    for (let x = 0; x < width; x += step) {
      const o = (y * width + x) * 4;
      for (let c = 0; c < 3; c++) sum[c] += data[o + c];
      n++;
    }
  const k = (raster.bits === 8 ? 1 : 1 / 257) / n;
  return [sum[0] * k, sum[1] * k, sum[2] * k];
}

/** True when every texel has the same value, exactly: such a texture is a single colour. */
export function isExactlyFlat(range: ChannelRange): boolean {
  return range.min.every((v, i) => v === range.max[i]);
}
