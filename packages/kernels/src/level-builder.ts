import code from './generated/levels.ts';
import { buildLevels, type LevelHome, type LevelSet, levelSetLength } from './sample.ts';
import { instantiateShared } from './wasm.ts';

interface Exports {
  convert(from: number, count: number, to: number, encoding: number, table: number): void;
  halve(from: number, width: number, to: number, w: number, h: number, weighted: number): void;
}

/** How stored bytes become the numbers that are filtered, by number of the kernel. */
const ENCODINGS = { srgb: 0, normal: 1, linear: 2 } as const;

/**
 * Fills a level set in its home from a picture of bytes, with all its levels.
 * @param data R G B A, a byte each; the smaller levels have room for them @param table linear light of each stored byte
 */
export function fillLevels(
  set: LevelSet & { home: LevelHome },
  data: Uint8Array,
  encoding: keyof typeof ENCODINGS,
  table: Float32Array,
): void {
  const { width, height, home, levels } = set;
  const { memory, at } = home;
  const run = instantiateShared<Exports>(code, memory);
  const start = set.data.byteOffset;
  const texels = width * height;
  // The picture's bytes lie where the smaller levels will be; the table where batches are read later.
  const end = start + levelSetLength(width, height, levels) * 4;
  const bytes = end - data.length;
  new Uint8Array(memory.buffer, bytes, data.length).set(data);
  new Float32Array(memory.buffer, at, table.length).set(table);
  run.convert(bytes, texels, start, ENCODINGS[encoding], at);
  buildLevels(set, ({ alphaWeighted }, src, dst, sw, w, h) =>
    run.halve(start + src * 4, sw, start + dst * 4, w, h, alphaWeighted ? 1 : 0),
  );
}
