import { DataTexture, FloatType, RGBAFormat } from 'three';
import { EXRExporter, ZIP_COMPRESSION } from 'three/examples/jsm/exporters/EXRExporter.js';

/** An EXR of 32-bit floats, R G B A; one channel is written three times, alpha is 1. Rows begin on top. */
export async function encodeExr(
  data: Float32Array,
  width: number,
  height: number,
  channels: 1 | 3,
): Promise<Uint8Array> {
  const values = new Float32Array(width * height * 4).fill(1);
  for (let y = 0; y < height; y++)
    for (let x = 0; x < width; x++) {
      // The library's rows begin at the bottom.
      const from = (y * width + x) * channels;
      const to = ((height - 1 - y) * width + x) * 4;
      for (let c = 0; c < 3; c++) values[to + c] = data[from + (channels === 1 ? 0 : c)];
    }
  const texture = new DataTexture(values, width, height, RGBAFormat, FloatType);
  const file: unknown = await new EXRExporter().parse(texture, { type: FloatType, compression: ZIP_COMPRESSION });
  return file as Uint8Array;
}
