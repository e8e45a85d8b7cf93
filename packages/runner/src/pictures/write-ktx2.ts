import { encodeToKTX2 } from 'ktx2-encoder';

/** Most texels that the encoder takes at once. */
export const MOST_TEXELS = 12 * 1024 * 1024;

let started: Promise<unknown> | null = null;

/**
 * The encoder says what it does on standard output, where results of the command line go. It writes by what `console.log` is when it starts, which is with
 * its first picture.
 */
async function start(): Promise<void> {
  const { log } = console;
  console.log = () => {};
  try {
    await encodeToKTX2(new Uint8Array(0), {
      isKTX2File: true,
      imageDecoder: async () => ({ width: 4, height: 4, data: new Uint8Array(64) }),
    });
  } finally {
    console.log = log;
  }
}

export interface Ktx2Options {
  /** ETC1S: small; UASTC: near to the original, supercompressed by Zstandard. */
  as: 'etc1s' | 'uastc';
  /** Values are sRGB colours; else linear data. */
  srgb: boolean;
  normals: boolean;
}

/**
 * KTX2 of R G B A bytes with all mips inside (KTX file format 2.0, Basis Universal).
 * @throws Error where the picture has more than `MOST_TEXELS`
 */
export async function encodeKtx2(
  rgba: Uint8Array,
  width: number,
  height: number,
  { as, srgb, normals }: Ktx2Options,
): Promise<Uint8Array> {
  if (width * height > MOST_TEXELS)
    throw new Error(
      `KTX2 is written of at most 12 Mpx, this image has ${width} × ${height} px; store it at half the side`,
    );
  started ??= start();
  await started;
  return encodeToKTX2(new Uint8Array(0), {
    isUASTC: as === 'uastc',
    ...(as === 'uastc'
      ? { needSupercompression: true, uastcLDRQualityLevel: 2 }
      : { qualityLevel: 190, compressionLevel: 2 }),
    isKTX2File: true,
    generateMipmap: true,
    isPerceptual: srgb,
    isSetKTX2SRGBTransferFunc: srgb,
    isNormalMap: normals,
    imageDecoder: async () => ({ width, height, data: rgba }),
  });
}
