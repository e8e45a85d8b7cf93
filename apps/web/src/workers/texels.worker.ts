import { type Texture, WebIO } from '@gltf-transform/core';
import { ALL_EXTENSIONS } from '@gltf-transform/extensions';
import { toLevels } from '@wembrel/core/image/levels';
import { encodeByte, unitByte } from '@wembrel/core/image/srgb';
import { type LevelSet, levelCount, levelSetLength } from '@wembrel/kernels/sample';
import { decode } from 'fast-png';
import { type ShownChannels, texelPicture } from './texel-picture.ts';
import type { TexelKind, TexelLevel } from './texel-values.ts';

/** A picture by itself, or a texture inside a model. */
export interface TexelSource {
  url: string;
  /** Name of the texture, where the address is that of a model. */
  texture?: string;
}

export type TexelRequest =
  | { open: TexelSource; kind: TexelKind }
  | { number: number; level: number; shown: ShownChannels; engine: boolean };

export type TexelAnswer =
  | { opened: { width: number; height: number; bits: number; levels: number } }
  | { number: number; texels: TexelLevel; bitmap: ImageBitmap }
  | { failed: string };

let picture: (TexelLevel & { kind: TexelKind }) | null = null;
let levels: LevelSet | null = null;
const made = new Map<number, TexelLevel>();

self.onmessage = async ({ data }: MessageEvent<TexelRequest>) => {
  try {
    if ('open' in data) {
      picture = { ...(await opened(data.open)), kind: data.kind };
      const { width, height } = picture;
      const bits = picture.data instanceof Uint16Array ? 16 : 8;
      answer({ opened: { width, height, bits, levels: levelCount(width, height) } });
      return;
    }
    if (!picture) return;
    const level = levelOf(picture, data.level);
    const bytes = texelPicture(level, picture.kind, data.shown, data.engine);
    const bitmap = await createImageBitmap(new ImageData(bytes, level.width, level.height));
    answer({ number: data.number, texels: level, bitmap }, [bitmap]);
  } catch (error) {
    answer({ failed: error instanceof Error ? error.message : String(error) });
  }
};

const answer = (message: TexelAnswer, transfer: Transferable[] = []) => self.postMessage(message, { transfer });

async function opened({ url, texture }: TexelSource): Promise<TexelLevel> {
  const response = await fetch(url);
  if (!response.ok) throw new Error(`the server answered ${response.status}`);
  const bytes = new Uint8Array(await response.arrayBuffer());
  if (texture === undefined) return decoded(bytes, response.headers.get('content-type') ?? 'image/png');
  const found = await textureOf(bytes, texture);
  return decoded(found.getImage() as Uint8Array, found.getMimeType());
}

async function textureOf(model: Uint8Array, name: string): Promise<Texture> {
  const document = await new WebIO().registerExtensions(ALL_EXTENSIONS).readBinary(model);
  const found = document
    .getRoot()
    .listTextures()
    .find((texture) => (texture.getName() || texture.getURI()) === name && texture.getImage());
  if (!found) throw new Error(`the model holds no texture "${name}"`);
  return found;
}

/** R G B A as stored: PNG exactly, whatever its alpha; other formats as the browser reads them. */
/** R G B A as stored: PNG of 8 and 16 bits exactly, whatever its alpha; all else as the browser reads it. */
async function decoded(bytes: Uint8Array, type: string): Promise<TexelLevel> {
  const exact = type === 'image/png' ? fromPng(bytes) : null;
  if (exact) return exact;
  const bitmap = await createImageBitmap(new Blob([bytes.slice()], { type }), {
    colorSpaceConversion: 'none',
    premultiplyAlpha: 'none',
  });
  const canvas = new OffscreenCanvas(bitmap.width, bitmap.height);
  const context = canvas.getContext('2d', { willReadFrequently: true });
  if (!context) throw new Error('the browser cannot draw');
  context.drawImage(bitmap, 0, 0);
  const { width, height, data } = context.getImageData(0, 0, bitmap.width, bitmap.height);
  return { width, height, data: new Uint8Array(data) };
}

/** Null for palettes and fewer than 8 bits. */
function fromPng(bytes: Uint8Array): TexelLevel | null {
  const { width, height, channels, depth, data, palette } = decode(bytes);
  if (palette || depth < 8) return null;
  const deep = depth === 16;
  const out = deep ? new Uint16Array(width * height * 4) : new Uint8Array(width * height * 4);
  const alpha = channels === 2 || channels === 4;
  const step = channels < 3 ? 0 : 1;
  for (let i = 0; i < width * height; i++) {
    for (let c = 0; c < 3; c++) out[i * 4 + c] = data[i * channels + c * step];
    out[i * 4 + 3] = alpha ? data[i * channels + channels - 1] : deep ? 65535 : 255;
  }
  return { width, height, data: out };
}

function levelOf(base: TexelLevel & { kind: TexelKind }, level: number): TexelLevel {
  if (level === 0) return { width: base.width, height: base.height, data: base.data };
  const known = made.get(level);
  if (known) return known;
  levels ??= levelsOf(base);
  const width = Math.max(1, base.width >> level);
  const height = Math.max(1, base.height >> level);
  const from = levels.data.subarray(levels.offsets[level], levels.offsets[level] + width * height * 4);
  const stored = Uint8Array.from(from, (value, i) =>
    (i & 3) === 3
      ? unitByte(value)
      : base.kind === 'colour'
        ? encodeByte(value)
        : unitByte(base.kind === 'normal' ? value * 0.5 + 0.5 : value),
  );
  const out = { width, height, data: stored };
  made.set(level, out);
  return out;
}

function levelsOf({ width, height, data, kind }: TexelLevel & { kind: TexelKind }): LevelSet {
  const bits = data instanceof Uint16Array ? 16 : 8;
  const encoding = kind === 'colour' ? 'srgb' : kind === 'normal' ? 'normal' : 'linear';
  const length = levelSetLength(width, height, levelCount(width, height));
  return toLevels({ width, height, bits, data }, encoding, false, true, new ArrayBuffer(length * 4));
}
