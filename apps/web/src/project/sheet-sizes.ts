/** Sides that a sheet may have, px. */
export const SHEET_SIZES = [64, 128, 256, 512, 1024, 2048, 4096, 8192];
