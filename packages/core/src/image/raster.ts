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
  const min = [Infinity, Infinity, Infinity, Infinity];
  const max = [-Infinity, -Infinity, -Infinity, -Infinity];
  for (let i = 0; i < data.length; i += 4)
    for (let c = 0; c < 4; c++) {
      const v = data[i + c];
      if (v < min[c]) min[c] = v;
      if (v > max[c]) max[c] = v;
    }
  const k = raster.bits === 8 ? 1 / 255 : 1 / 65535;
  return {
    min: min.map((v) => v * k) as ChannelRange['min'],
    max: max.map((v) => v * k) as ChannelRange['max'],
  };
}

/** True when every texel has the same value, exactly: such a texture is a single colour. */
export function isExactlyFlat(range: ChannelRange): boolean {
  return range.min.every((v, i) => v === range.max[i]);
}
