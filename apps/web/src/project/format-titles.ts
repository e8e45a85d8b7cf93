import type { Budget } from '@wembrel/core/decisions/budget';

export const FORMAT_TITLES: Record<Budget['format'], string> = {
  bc7: 'BC7',
  bc1: 'BC1',
  astc6x6: 'ASTC 6×6',
  astc4x4: 'ASTC 4×4',
  rgba8: 'RGBA8',
};
