/** A picture with holes, read and written as linear values. */
export interface HoleyPicture {
  width: number;
  height: number;
  /** Values a texel. */
  channels: number;
  /** One byte a texel: other than 0 where it has a value of its own, which stays. */
  known: Uint8Array;
  /** Puts the values of a known texel into `out`: linear, premultiplied where there is alpha. */
  read(texel: number, out: Float64Array): void;
  /** Stores the values of a texel that had none. */
  write(texel: number, values: Float64Array): void;
}

/** A coarser picture: means of what is known below each texel, and how much that is, 0 … 1. */
interface Level {
  width: number;
  height: number;
  values: Float32Array;
  weights: Float32Array;
}

/**
 * Fills the holes of a picture smoothly from what is around them, over any distance: pull–push (Gortler et al. 1996). Every level halves the one below it by
 * weighted means; then each hole takes what the level above it shows, bilinearly. Nothing is filled where nothing is known. The order is fixed and the arithmetic
 * plain, so that the result is the same everywhere.
 *
 * @example pullPush({ width, height, channels: 1, known, read: (i, out) => { out[0] = grey[i]; }, write: (i, v) => { grey[i] = v[0]; } })
 */
export function pullPush(picture: HoleyPicture): void {
  const { width, height } = picture;
  if (width * height === 1) return;
  const levels = [halvedPicture(picture)];
  for (let last = levels[0]; last.width > 1 || last.height > 1; last = levels[levels.length - 1])
    levels.push(halvedLevel(last, picture.channels));
  if (!(levels[levels.length - 1].weights[0] > 0)) return;
  for (let k = levels.length - 2; k >= 0; k--) pushLevel(levels[k], levels[k + 1], picture.channels);
  pushPicture(picture, levels[0]);
}

const emptyLevel = (width: number, height: number, channels: number): Level => ({
  width,
  height,
  values: new Float32Array(width * height * channels),
  weights: new Float32Array(width * height),
});

function halvedPicture({ width, height, channels, known, read }: HoleyPicture): Level {
  const level = emptyLevel((width + 1) >> 1, (height + 1) >> 1, channels);
  const texel = new Float64Array(channels);
  const sum = new Float64Array(channels);
  for (let y = 0; y < level.height; y++)
    for (let x = 0; x < level.width; x++) {
      let count = 0;
      sum.fill(0);
      for (let v = y * 2; v < Math.min(height, y * 2 + 2); v++)
        for (let u = x * 2; u < Math.min(width, x * 2 + 2); u++) {
          if (known[v * width + u] === 0) continue;
          read(v * width + u, texel);
          for (let c = 0; c < channels; c++) sum[c] += texel[c];
          count++;
        }
      if (count === 0) continue;
      const at = y * level.width + x;
      level.weights[at] = 1;
      for (let c = 0; c < channels; c++) level.values[at * channels + c] = sum[c] / count;
    }
  return level;
}

function halvedLevel(below: Level, channels: number): Level {
  const level = emptyLevel((below.width + 1) >> 1, (below.height + 1) >> 1, channels);
  for (let y = 0; y < level.height; y++)
    for (let x = 0; x < level.width; x++) {
      const at = y * level.width + x;
      let weight = 0;
      for (let v = y * 2; v < Math.min(below.height, y * 2 + 2); v++)
        for (let u = x * 2; u < Math.min(below.width, x * 2 + 2); u++) {
          const from = v * below.width + u;
          const own = below.weights[from];
          if (own === 0) continue;
          weight += own;
          for (let c = 0; c < channels; c++) level.values[at * channels + c] += own * below.values[from * channels + c];
        }
      if (weight === 0) continue;
      for (let c = 0; c < channels; c++) level.values[at * channels + c] /= weight;
      level.weights[at] = Math.min(1, weight);
    }
  return level;
}

/** Completes a level by the share of it that is not known. */
function pushLevel(level: Level, above: Level, channels: number): void {
  const wide = new Float64Array(channels);
  for (let y = 0; y < level.height; y++)
    for (let x = 0; x < level.width; x++) {
      const at = y * level.width + x;
      const own = level.weights[at];
      if (own >= 1) continue;
      sampleAbove(above, x, y, wide);
      for (let c = 0; c < channels; c++) {
        const i = at * channels + c;
        level.values[i] = own * level.values[i] + (1 - own) * wide[c];
      }
    }
}

function pushPicture({ width, height, channels, known, write }: HoleyPicture, above: Level): void {
  const values = new Float64Array(channels);
  for (let y = 0; y < height; y++)
    for (let x = 0; x < width; x++) {
      if (known[y * width + x] !== 0) continue;
      sampleAbove(above, x, y, values);
      write(y * width + x, values);
    }
}

/** What the level above shows at the middle of a texel, bilinearly; at its border the outermost texels go on. */
function sampleAbove({ width, height, values }: Level, x: number, y: number, out: Float64Array): void {
  const channels = out.length;
  // The middle of a texel lies a quarter of a coarse texel beside the middle of the coarse one that holds it.
  const u0 = x >> 1;
  const v0 = y >> 1;
  const u1 = Math.min(width - 1, Math.max(0, u0 + ((x & 1) === 0 ? -1 : 1)));
  const v1 = Math.min(height - 1, Math.max(0, v0 + ((y & 1) === 0 ? -1 : 1)));
  const a = (v0 * width + u0) * channels;
  const b = (v0 * width + u1) * channels;
  const c = (v1 * width + u0) * channels;
  const d = (v1 * width + u1) * channels;
  for (let k = 0; k < channels; k++)
    out[k] = (values[a + k] * 9 + values[b + k] * 3 + values[c + k] * 3 + values[d + k]) / 16;
}
