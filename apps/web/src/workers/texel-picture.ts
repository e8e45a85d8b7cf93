import { encodeByte } from '@wembrel/core/image/srgb';
import type { TexelKind, TexelLevel } from './texel-values.ts';

/** Which channels are shown; a single one as grey. */
export interface ShownChannels {
  red: boolean;
  green: boolean;
  blue: boolean;
  alpha: boolean;
}

/** Side of the checks behind clear texels, texels. */
const CHECK = 8;

/**
 * A level as opaque R G B A bytes for the screen.
 * @param engine as a shader reads it: colours over checks where they are clear, data as light, normals with the Z that follows from X and Y
 */
export function texelPicture(
  level: TexelLevel,
  kind: TexelKind,
  shown: ShownChannels,
  engine: boolean,
): Uint8ClampedArray<ArrayBuffer> {
  const { width, height, data } = level;
  const out = new Uint8ClampedArray(width * height * 4);
  const toByte = data instanceof Uint16Array ? 1 / 257 : 1;
  const channels = [shown.red, shown.green, shown.blue].flatMap((on, c) => (on ? [c] : []));
  const single = channels.length + Number(shown.alpha) === 1 ? (shown.alpha ? 3 : channels[0]) : null;
  const value = [0, 0, 0, 0];
  for (let i = 0; i < width * height; i++) {
    for (let c = 0; c < 4; c++) value[c] = data[i * 4 + c] * toByte;
    if (engine) asRead(value, kind, checkOf(i % width, Math.floor(i / width)));
    for (let c = 0; c < 3; c++) out[i * 4 + c] = single !== null ? value[single] : channels.includes(c) ? value[c] : 0;
    out[i * 4 + 3] = 255;
  }
  return out;
}

const checkOf = (x: number, y: number): number => (((x / CHECK) ^ (y / CHECK)) & 1 ? 153 : 102);

/** Turns stored bytes into what a shader makes of them. */
function asRead(value: number[], kind: TexelKind, check: number): void {
  if (kind === 'colour') {
    const alpha = value[3] / 255;
    for (let c = 0; c < 3; c++) value[c] = value[c] * alpha + check * (1 - alpha);
  } else if (kind === 'data') for (let c = 0; c < 3; c++) value[c] = encodeByte(value[c] / 255);
  else {
    const [x, y] = [value[0] / 127.5 - 1, value[1] / 127.5 - 1];
    value[2] = (Math.sqrt(Math.max(0, 1 - x * x - y * y)) + 1) * 127.5;
  }
}
