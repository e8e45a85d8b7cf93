import { type Cell, cellsAt, layered, stretchedNoise, valueNoise } from '../noise/periodic.ts';
import { blend, clamp, mix, type StockPainter, step } from './surface-point.ts';

const newCell = (): Cell => ({ near: 0, next: 0, id: 0 });

/** Boards of oak beside each other, grain along u, each butted once. */
const BOARDS = 4;
export const oak: StockPainter = {
  metres: 1,
  relief: 3,
  // A board may begin anywhere.
  courses: { across: 16, down: BOARDS },
  at: (u, v) => {
    const row = Math.floor(v * BOARDS);
    const fv = v * BOARDS - row;
    const joint = (((u + row * 0.37) % 1) + 1) % 1;
    const gap = Math.min(fv, 1 - fv) / BOARDS;
    const butt = Math.min(joint, 1 - joint);
    const open = 1 - step(0.002, 0.006, Math.min(gap, butt));
    const own = valueNoise(row + 0.001, 0.5, BOARDS, 71);
    const sway = layered(u, v, 3, 2, 73) * 2.4;
    const rings = stretchedNoise(u * 3 + own * 7, v * 60 + sway * 3, [3, 60], 74);
    const pores = step(0.7, 0.9, stretchedNoise(u * 60, v * 420, [60, 420], 76));
    const tone = clamp(rings * 0.55 + own * 0.3 + layered(u, v, 24, 2, 79) * 0.15);
    return {
      color: blend(blend(blend([124, 88, 54], [178, 138, 92], tone), [92, 62, 38], pores * 0.55), [34, 24, 18], open),
      roughness: clamp(mix(0.5, 0.66, rings) + pores * 0.1 + open * 0.3),
      metallic: 0,
      occlusion: mix(1, 0.45, open) * (1 - pores * 0.08),
      height: mix(2.6 + rings * 0.25 - pores * 0.2 + own * 0.3, 0, open),
    };
  },
};

/** Bricks in a running bond: four across, twelve courses. */
const BRICKS = { across: 4, down: 12 };
export const brick: StockPainter = {
  metres: 1,
  relief: 9,
  courses: BRICKS,
  at: (u, v) => {
    const wobble = (layered(u, v, 26, 2, 81) - 0.5) * 0.04;
    const row = Math.floor(v * BRICKS.down + wobble);
    const fv = v * BRICKS.down + wobble - row;
    const x = u * BRICKS.across + (((row % 2) + 2) % 2) * 0.5 + wobble * 0.4;
    const column = ((Math.floor(x) % BRICKS.across) + BRICKS.across) % BRICKS.across;
    const fu = x - Math.floor(x);
    const edge = Math.min(Math.min(fu, 1 - fu) * (BRICKS.down / BRICKS.across), Math.min(fv, 1 - fv));
    const face = step(0.055, 0.13, edge);
    const course = ((row % BRICKS.down) + BRICKS.down) % BRICKS.down;
    const id = valueNoise(column * 3 + 0.001, course + 0.001, 12, 84);
    const grain = layered(u, v, 42, 3, 86);
    const burnt = step(0.72, 0.9, valueNoise(column * 3 + 1.001, course + 0.001, 12, 89));
    const mortar: readonly [number, number, number] = [
      mix(142, 170, grain),
      mix(136, 163, grain),
      mix(124, 150, grain),
    ];
    const clay = blend(
      blend([138, 70, 52], [178, 102, 74], clamp(id * 0.65 + grain * 0.35)),
      [88, 54, 52],
      burnt * 0.7,
    );
    return {
      color: blend(mortar, clay, face),
      roughness: mix(0.94, 0.8 - burnt * 0.15, face),
      metallic: 0,
      occlusion: mix(0.68, 1, face),
      height: face * (6.4 + id * 1.2) + grain * 1.1,
    };
  },
};

/** Cushions of moss; it covers by its alpha. */
export const moss: StockPainter = {
  metres: 0.35,
  relief: 9,
  courses: null,
  at: (u, v) => {
    const warp = layered(u, v, 9, 2, 91);
    const tuft = cellsAt(u * 13 + warp * 0.8, v * 13 - warp * 0.8, 13, 93, newCell());
    const round = clamp(1 - tuft.near * 1.05);
    const leaf = layered(u, v, 64, 2, 96);
    const tone = layered(u, v, 5, 4, 99);
    const dry = step(0.6, 0.85, layered(u, v, 8, 3, 104));
    return {
      color: blend(
        blend([44, 58, 22], [104, 122, 46], clamp(round * 0.5 + leaf * 0.35 + tone * 0.15)),
        [128, 112, 58],
        dry * 0.5,
      ),
      alpha: step(0.16, 0.34, round * 0.62 + leaf * 0.38),
      roughness: 0.96,
      metallic: 0,
      occlusion: mix(0.5, 1, clamp(round * 0.75 + leaf * 0.25)),
      height: round * 6 + leaf * 1.8,
    };
  },
};

/** A film of dirt that has run and dried. */
export const grime: StockPainter = {
  metres: 0.6,
  relief: 0.4,
  courses: null,
  at: (u, v) => {
    const cloud = layered(u, v, 6, 5, 111);
    const runs = stretchedNoise(u * 34, v * 4, [34, 4], 115) * 0.6 + stretchedNoise(u * 80, v * 9, [80, 9], 117) * 0.4;
    const grit = layered(u, v, 70, 2, 119);
    const thick = clamp(cloud * 0.6 + runs * 0.4);
    return {
      color: blend([36, 30, 24], [82, 70, 54], clamp(grit * 0.5 + cloud * 0.5)),
      alpha: clamp(0.35 + step(0.3, 0.66, thick) * 0.65),
      roughness: mix(0.82, 0.97, grit),
      metallic: 0,
      occlusion: mix(0.9, 1, grit),
      height: thick * 0.2 + grit * 0.1,
    };
  },
};

/** Worn asphalt: stones in bitumen. */
export const asphalt: StockPainter = {
  metres: 0.8,
  relief: 4,
  courses: null,
  at: (u, v) => {
    const coarse = cellsAt(u * 58, v * 58, 58, 121, newCell());
    const stone = step(0.08, 0.32, coarse.next - coarse.near) * step(0.3, 0.5, coarse.id);
    const fine = layered(u, v, 96, 2, 124);
    const worn = layered(u, v, 5, 4, 127);
    return {
      color: blend(
        blend([42, 42, 44], [66, 66, 68], clamp(fine * 0.6 + worn * 0.4)),
        blend([112, 110, 106], [150, 146, 138], coarse.id),
        stone * (0.3 + 0.5 * worn),
      ),
      roughness: mix(0.95, 0.78, stone * worn),
      metallic: 0,
      occlusion: mix(0.74, 1, clamp(stone + fine * 0.5)),
      height: stone * (1.6 + coarse.id) + fine * 1,
    };
  },
};

/** Brushed oil paint over a rough ground, in off-white that takes any tint. */
export const paint: StockPainter = {
  metres: 0.5,
  relief: 0.8,
  courses: null,
  at: (u, v) => {
    const brush =
      stretchedNoise(u * 90, v * 5, [90, 5], 131) * 0.6 + stretchedNoise(u * 200, v * 10, [200, 10], 133) * 0.4;
    const ground = layered(u, v, 18, 3, 136);
    const tone = layered(u, v, 4, 3, 139);
    return {
      color: blend([214, 210, 198], [236, 233, 223], clamp(tone * 0.6 + brush * 0.4)),
      roughness: mix(0.42, 0.6, clamp(ground * 0.5 + brush * 0.5)),
      metallic: 0,
      occlusion: mix(0.95, 1, brush),
      height: brush * 0.18 + ground * 0.3,
    };
  },
};

/** Poster paper: pulp, folds where it was stored. */
export const paper: StockPainter = {
  metres: 0.6,
  relief: 0.5,
  courses: null,
  at: (u, v) => {
    const pulp = layered(u, v, 80, 2, 141);
    const tone = layered(u, v, 4, 3, 144);
    const fold =
      1 - step(0.0015, 0.005, Math.min(Math.abs(u - 0.5), Math.abs(v - 0.5), Math.min(u, 1 - u), Math.min(v, 1 - v)));
    return {
      color: blend(
        blend([222, 212, 188], [236, 229, 210], clamp(pulp * 0.5 + tone * 0.5)),
        [196, 184, 160],
        fold * 0.6,
      ),
      roughness: mix(0.84, 0.93, pulp),
      metallic: 0,
      occlusion: mix(1, 0.92, fold),
      height: pulp * 0.05 + tone * 0.2 - fold * 0.15,
    };
  },
};
