import type { SheetMaps } from './transfer.ts';

/**
 * The one value that a map has wherever islands lie, or null where it has several or no island lies on the sheet.
 * @param data 8 bits a channel @param channels 3 or 4
 */
export function constantOf(data: Uint8Array, channels: 3 | 4, owner: SheetMaps['owner']): number[] | null {
  const first = owner.findIndex((o) => o !== 0);
  if (first < 0) return null;
  const value = Array.from(data.subarray(first * channels, (first + 1) * channels));
  for (let i = first + 1; i < owner.length; i++) {
    if (owner[i] === 0) continue;
    for (let c = 0; c < channels; c++) if (data[i * channels + c] !== value[c]) return null;
  }
  return value;
}
