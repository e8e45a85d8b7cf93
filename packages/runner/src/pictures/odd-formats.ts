import { readFileSync } from 'node:fs';
import { createRequire } from 'node:module';
import { InputError } from '@wembrel/core/errors';
import type { Raster } from '@wembrel/core/image/raster';
import { linearToSrgb } from '@wembrel/core/image/srgb';
import { LIMITS } from '@wembrel/core/limits';
import { FloatType } from 'three';
import { EXRLoader } from 'three/examples/jsm/loaders/EXRLoader.js';
import { TGALoader } from 'three/examples/jsm/loaders/TGALoader.js';
import { exrSize, ktx2Size } from './headers.ts';

/** Picture formats that the main codec does not know, each through the library that is kept for it. */

/** @throws InputError when it is larger than may be read */
export function checkSize(path: string, name: string, width: number, height: number): void {
  if (!(width > 0 && height > 0)) throw new InputError(path, `the image "${name}" has no pixels`);
  if (width > LIMITS.textureSide || height > LIMITS.textureSide)
    throw new InputError(
      path,
      `the image "${name}" is ${width}×${height}; at most ${LIMITS.textureSide} px a side are read`,
    );
}

/** No picture packs this many texels into a byte; a header that claims so is damaged, and memory is not taken for it. */
const TEXELS_A_BYTE = 5_000;

function checkShare(path: string, name: string, texels: number, bytes: number): void {
  if (texels > bytes * TEXELS_A_BYTE)
    throw new InputError(path, `the image "${name}" cannot be decoded; the file may be cut short`);
}

function exact(bytes: Uint8Array): ArrayBuffer {
  return bytes.buffer.slice(bytes.byteOffset, bytes.byteOffset + bytes.byteLength) as ArrayBuffer;
}

function shared8(data: ArrayLike<number>): Uint8Array {
  const out = new Uint8Array(new SharedArrayBuffer(data.length));
  out.set(data);
  return out;
}

/** Calls a decoder that is not ours: whatever it throws, and whatever it prints, becomes our sentence. */
function guarded<T>(path: string, name: string, work: () => T): T {
  const { error, warn } = console;
  console.error = () => {};
  console.warn = () => {};
  try {
    return work();
  } catch (e) {
    if (e instanceof InputError) throw e;
    throw new InputError(path, `the image "${name}" cannot be decoded; the file may be cut short`);
  } finally {
    console.error = error;
    console.warn = warn;
  }
}

/** R G B A of a TGA, row 0 on top. */
export function decodeTga(path: string, name: string, bytes: Uint8Array): Raster {
  const width = bytes[12] | (bytes[13] << 8);
  const height = bytes[14] | (bytes[15] << 8);
  checkSize(path, name, width, height);
  return guarded(path, name, () => {
    const packed = bytes[2] > 8;
    const least = packed ? 0 : (width * height * bytes[16]) / 8;
    if (bytes.length < 18 + bytes[0] + least) throw new Error('short');
    // A run covers at most 128 pixels.
    if (packed && (bytes.length - 18) * 128 < width * height) throw new Error('short');
    const read = new TGALoader().parse(exact(bytes)) as { data: Uint8Array };
    if (read.data.length !== width * height * 4) throw new Error('size');
    return { width, height, bits: 8, data: shared8(read.data) };
  });
}

/**
 * R G B A of an EXR at 16 bit, values clamped to 0 … 1.
 * @param as `colour` encodes the linear values as sRGB, which is how colour maps are kept; `stored` leaves them linear
 */
export function decodeExr(path: string, name: string, bytes: Uint8Array, as: 'stored' | 'colour'): Raster {
  const size = exrSize(bytes);
  if (!size) throw new InputError(path, `the image "${name}" cannot be decoded; the file may be cut short`);
  checkSize(path, name, ...size);
  checkShare(path, name, size[0] * size[1], bytes.length);
  return guarded(path, name, () => {
    const read = new EXRLoader().setDataType(FloatType).parse(exact(bytes)) as unknown as {
      width: number;
      height: number;
      data: Float32Array;
    };
    const { width, height, data } = read;
    const channels = data.length / (width * height);
    if (channels !== 1 && channels !== 4) throw new Error('channels');
    const out = new Uint16Array(new SharedArrayBuffer(width * height * 8));
    const encode = (v: number) => {
      const x = Math.min(1, Math.max(0, Number.isFinite(v) ? v : 0));
      return Math.round(65535 * (as === 'colour' ? linearToSrgb(x) : x));
    };
    for (let y = 0; y < height; y++)
      for (let x = 0; x < width; x++) {
        // The library's rows begin at the bottom.
        const i = ((height - 1 - y) * width + x) * channels;
        const o = (y * width + x) * 4;
        for (let c = 0; c < 3; c++) out[o + c] = encode(data[i + (channels === 1 ? 0 : c)]);
        out[o + 3] =
          channels === 1
            ? 65535
            : Math.round(65535 * Math.min(1, Math.max(0, Number.isFinite(data[i + 3]) ? data[i + 3] : 1)));
      }
    return { width, height, bits: 16, data: out };
  });
}

interface Transcoder {
  initializeBasis(): void;
  KTX2File: new (
    bytes: Uint8Array,
  ) => {
    isValid(): boolean | number;
    getWidth(): number;
    getHeight(): number;
    startTranscoding(): boolean | number;
    getImageTranscodedSizeInBytes(level: number, layer: number, face: number, format: number): number;
    transcodeImage(
      dst: Uint8Array,
      level: number,
      layer: number,
      face: number,
      format: number,
      flags: number,
      channel0: number,
      channel1: number,
    ): boolean | number;
    close(): void;
    delete(): void;
  };
}

let transcoder: Promise<Transcoder> | null = null;

/** The transcoder is a script for the browser that ships beside the 3D library; here it is run as a module of its own. */
export function loadTranscoder(): Promise<Transcoder> {
  transcoder ??= (async () => {
    const require = createRequire(import.meta.url);
    const file = require.resolve('three/examples/jsm/libs/basis/basis_transcoder.js');
    const module = { exports: {} as unknown };
    new Function('module', 'exports', 'require', '__dirname', '__filename', readFileSync(file, 'utf8'))(
      module,
      module.exports,
      require,
      file.slice(0, file.lastIndexOf('/')),
      file,
    );
    const start = module.exports as (options: object) => Promise<Transcoder>;
    const made = await start({ wasmBinary: readFileSync(file.replace(/\.js$/, '.wasm')) });
    made.initializeBasis();
    return made;
  })();
  return transcoder;
}

const RGBA32 = 13;

/** What the transcoder refuses by its answer; anything that it throws is an abort. */
class Refused extends Error {}

/** R G B A of the largest level of a KTX2 picture in one of the universal formats. */
export async function decodeKtx2(path: string, name: string, bytes: Uint8Array): Promise<Raster> {
  const size = ktx2Size(bytes);
  if (!size) throw new InputError(path, `the image "${name}" cannot be decoded; the file may be cut short`);
  if (new DataView(bytes.buffer, bytes.byteOffset).getUint32(12, true) !== 0)
    throw new InputError(path, `the image "${name}" is KTX2 in a format of one kind of device; ETC1S or UASTC is read`);
  checkSize(path, name, ...size);
  checkShare(path, name, size[0] * size[1], bytes.length);
  const library = await loadTranscoder();
  return guarded(path, name, () => {
    let file: InstanceType<Transcoder['KTX2File']> | null = null;
    try {
      file = new library.KTX2File(bytes);
      if (!file.isValid() || !file.startTranscoding()) throw new Refused();
      const width = file.getWidth();
      const height = file.getHeight();
      checkSize(path, name, width, height);
      const out = new Uint8Array(file.getImageTranscodedSizeInBytes(0, 0, 0, RGBA32));
      if (!file.transcodeImage(out, 0, 0, 0, RGBA32, 0, -1, -1)) throw new Refused();
      if (out.length !== width * height * 4) throw new Refused();
      return { width, height, bits: 8, data: shared8(out) };
    } catch (error) {
      // After an abort the module is of no use any more.
      if (!(error instanceof Refused || error instanceof InputError)) {
        transcoder = null;
        file = null;
      }
      throw error;
    } finally {
      file?.close();
      file?.delete();
    }
  });
}
