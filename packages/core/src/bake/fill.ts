import { pullPush } from '../image/pull-push.ts';
import { decodeTable, encodeByte, unitByte } from '../image/srgb.ts';
import type { SheetMaps } from './transfer.ts';

/** The maps of a sheet that are filled, each by itself. */
export const FILLED_MAPS = ['baseColor', 'orm', 'normal', 'emissive'] as const;
export type FilledMap = (typeof FILLED_MAPS)[number];

/** So much of a colour counts where alpha is 0, so that clear texels have a colour as well. */
const CLEAR = 1 / 1024;

/**
 * Fills a map beyond the padding, so that no background colour exists and no mip, however small, darkens a border. Reference: "Margin, padding, mips".
 * @param known one byte a texel, other than 0 where islands or padding lie; see `padSheet`
 */
export function fillBeyond(maps: SheetMaps, map: FilledMap, known: Uint8Array): void {
  const data = maps[map];
  if (!data) return;
  const { width, height } = maps;
  const common = { width, height, known };
  if (map === 'baseColor') pullPush({ ...common, channels: 4, ...colourWithAlpha(data) });
  else if (map === 'emissive') pullPush({ ...common, channels: 3, ...colour(data) });
  else if (map === 'normal') pullPush({ ...common, channels: 3, ...vectors(data) });
  else pullPush({ ...common, channels: 3, ...plain(data) });
}

type Access = Pick<Parameters<typeof pullPush>[0], 'read' | 'write'>;

function colourWithAlpha(data: Uint8Array): Access {
  const linear = decodeTable(8);
  return {
    read: (i, out) => {
      const alpha = data[i * 4 + 3] / 255;
      for (let c = 0; c < 3; c++) out[c] = linear[data[i * 4 + c]] * (alpha + CLEAR);
      out[3] = alpha;
    },
    write: (i, values) => {
      for (let c = 0; c < 3; c++) data[i * 4 + c] = encodeByte(values[c] / (values[3] + CLEAR));
      data[i * 4 + 3] = unitByte(values[3]);
    },
  };
}

function colour(data: Uint8Array): Access {
  const linear = decodeTable(8);
  return {
    read: (i, out) => {
      for (let c = 0; c < 3; c++) out[c] = linear[data[i * 3 + c]];
    },
    write: (i, values) => {
      for (let c = 0; c < 3; c++) data[i * 3 + c] = encodeByte(values[c]);
    },
  };
}

function plain(data: Uint8Array): Access {
  return {
    read: (i, out) => {
      for (let c = 0; c < 3; c++) out[c] = data[i * 3 + c] / 255;
    },
    write: (i, values) => {
      for (let c = 0; c < 3; c++) data[i * 3 + c] = unitByte(values[c]);
    },
  };
}

/** Directions: their means are brought to length 1; where they cancel each other out the map is flat. */
function vectors(data: Uint8Array): Access {
  return {
    read: (i, out) => {
      for (let c = 0; c < 3; c++) out[c] = data[i * 3 + c] / 127.5 - 1;
    },
    write: (i, values) => {
      const length = Math.sqrt(values[0] ** 2 + values[1] ** 2 + values[2] ** 2);
      for (let c = 0; c < 3; c++) {
        const unit = length > 1e-6 ? values[c] / length : Number(c === 2);
        data[i * 3 + c] = unitByte(unit * 0.5 + 0.5);
      }
    },
  };
}
