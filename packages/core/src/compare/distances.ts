import type { View, ViewPictures } from './project.ts';

/** How far the eye is, in times the distance at which the models fill the picture; reference, "Picture oracle". */
export const DISTANCES = { near: 0.4, framed: 1, far: 3 } as const;
export type DistanceName = keyof typeof DISTANCES;

/** Blocks along a side of the framing picture, among which the near view looks for the one that it shows. */
const BLOCKS = 20;

/** Side of a near picture, as a share of that of the framing one: so it costs a seventh of it. */
const NEAR_SHARE = 0.375;

/** The view from afar: as many pixels as the models fill there. */
export function farView(framed: View): View {
  return { ...framed, window: whole(framed), size: Math.max(1, Math.round(framed.size / DISTANCES.far)) };
}

/** The view from nearby, of that part of the framing picture in which two pictures differ most. */
export function nearView(framed: View, a: ViewPictures, b: ViewPictures): View {
  const size = Math.max(1, Math.round(framed.size * NEAR_SHARE));
  const side = framed.size * NEAR_SHARE * DISTANCES.near;
  const [x, y] = worstCorner(a, b, Math.round(BLOCKS * NEAR_SHARE * DISTANCES.near));
  return { ...framed, size, window: { x: (x * framed.size) / BLOCKS, y: (y * framed.size) / BLOCKS, side } };
}

const whole = ({ size }: View) => ({ x: 0, y: 0, side: size });

/** The corner of the square of blocks that differs most; where nothing differs, of the one that shows most. */
function worstCorner(a: ViewPictures, b: ViewPictures, side: number): [number, number] {
  const blocks = blockWeights(a, b);
  let best: [number, number] = [0, 0];
  let most = -1;
  for (let y = 0; y <= BLOCKS - side; y++)
    for (let x = 0; x <= BLOCKS - side; x++) {
      let sum = 0;
      for (let j = 0; j < side; j++) for (let i = 0; i < side; i++) sum += blocks[(y + j) * BLOCKS + x + i];
      if (sum <= most) continue;
      most = sum;
      best = [x, y];
    }
  return best;
}

/** By block: squares of the difference, and a hair for every pixel that shows something. */
function blockWeights(a: ViewPictures, b: ViewPictures): Float64Array {
  const { size } = a;
  const out = new Float64Array(BLOCKS * BLOCKS);
  const blockOf = (p: number) => Math.min(BLOCKS - 1, Math.floor((p * BLOCKS) / size));
  for (let y = 0, i = 0; y < size; y++)
    for (let x = 0; x < size; x++, i++) {
      if (!a.coverage[i] && !b.coverage[i]) continue;
      let squares = 0;
      for (let c = i * 3; c < i * 3 + 3; c++) squares += (a.unlit[c] - b.unlit[c]) ** 2 + (a.lit[c] - b.lit[c]) ** 2;
      out[blockOf(y) * BLOCKS + blockOf(x)] += squares + 1e-6;
    }
  return out;
}
