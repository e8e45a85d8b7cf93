import { emptyMaps } from '@wembrel/core/bake/sheet-maps';
import { binTriangles, type SheetMaps } from '@wembrel/core/bake/transfer';
import { Recipe } from '@wembrel/core/decisions/recipe/recipe';
import { linearOf } from '@wembrel/core/image/srgb';
import { type Checkpoints, levelsOfDetail, RecipeEvaluator } from '@wembrel/core/recipes/evaluate';
import { NO_INPUTS, type RecipeInputs } from '@wembrel/core/recipes/inputs/input-maps';
import type { RecipeJob } from '@wembrel/core/recipes/job';
import { type LookData, PLAIN_LOOK } from '@wembrel/core/recipes/looks/look-data';
import { pxSteps } from '@wembrel/core/recipes/samples';
import { metresPerPx, type RecipeSurface } from '@wembrel/core/recipes/surface';
import { buildLevels, type LevelSet, levelCount, levelOffsets, levelSetLength } from '@wembrel/kernels/sample';

type Vec = [number, number, number];

/** Outward directions of the sides of a box, with those to the right and up for who looks at it. */
const SIDES: readonly { out: Vec; right: Vec; up: Vec }[] = [
  { out: [1, 0, 0], right: [0, 0, -1], up: [0, 1, 0] },
  { out: [-1, 0, 0], right: [0, 0, 1], up: [0, 1, 0] },
  { out: [0, 1, 0], right: [1, 0, 0], up: [0, 0, -1] },
  { out: [0, -1, 0], right: [1, 0, 0], up: [0, 0, 1] },
  { out: [0, 0, 1], right: [1, 0, 0], up: [0, 1, 0] },
  { out: [0, 0, -1], right: [-1, 0, 0], up: [0, 1, 0] },
];

export interface SceneOptions {
  /** px of the sheet, and of the gap around each island. */
  side?: number;
  gap?: number;
  /** Squares along a side of the box. */
  squares?: number;
  /** A ball of radius 1 instead of a box of sides 2. */
  ball?: boolean;
}

/** A box whose six sides are islands, in three columns and two rows, or a ball made of it; each side is a part of its own. */
export function sixSides({ side = 96, gap = 4, squares = 1, ball = false }: SceneOptions = {}): RecipeSurface {
  const count = 6 * squares * squares * 2;
  const shared = (n: number) => new Float32Array(new SharedArrayBuffer(n * 4));
  const place = new Float64Array(new SharedArrayBuffer(count * 48));
  const [positions, normals, tangents] = [shared(count * 9), shared(count * 9), shared(count * 12)];
  const island = new Uint32Array(new SharedArrayBuffer(count * 4));
  const part = new Uint16Array(new SharedArrayBuffer(count * 2));
  const [w, h] = [side / 3 - 2 * gap, side / 2 - 2 * gap];
  let corner = 0;
  SIDES.forEach(({ out, right, up }, s) => {
    const put = (i: number, j: number) => {
      const [u, v] = [(i / squares) * 2 - 1, 1 - (j / squares) * 2];
      let p = out.map((o, k) => o + u * right[k] + v * up[k]) as Vec;
      let [n, t] = [out, right];
      if (ball) {
        const length = Math.hypot(...p);
        p = p.map((x) => x / length) as Vec;
        n = p;
        const along = right[0] * n[0] + right[1] * n[1] + right[2] * n[2];
        const flat = right.map((x, k) => x - along * n[k]) as Vec;
        const m = Math.hypot(...flat);
        t = flat.map((x) => x / m) as Vec;
      }
      place[corner * 2] = (s % 3) * (side / 3) + gap + (i / squares) * w;
      place[corner * 2 + 1] = Math.floor(s / 3) * (side / 2) + gap + (j / squares) * h;
      positions.set(p, corner * 3);
      normals.set(n, corner * 3);
      tangents.set([...t, 1], corner * 4);
      corner++;
    };
    for (let j = 0; j < squares; j++)
      for (let i = 0; i < squares; i++) {
        const first = corner / 3;
        for (const [a, b] of [
          [0, 0],
          [0, 1],
          [1, 1],
          [0, 0],
          [1, 1],
          [1, 0],
        ])
          put(i + a, j + b);
        for (const triangle of [first, first + 1]) {
          island[triangle] = s + 1;
          part[triangle] = s;
        }
      }
  });
  const box = (s: number) => {
    const of = Array.from(part, (p, t) => (p === s ? t : -1)).filter((t) => t >= 0);
    const values = (k: number) => of.flatMap((t) => [0, 1, 2].map((c) => positions[t * 9 + c * 3 + k]));
    return [...[0, 1, 2].map((k) => Math.min(...values(k))), ...[0, 1, 2].map((k) => Math.max(...values(k)))];
  };
  return {
    width: side,
    height: side,
    count,
    place,
    positions,
    normals,
    tangents,
    island,
    part,
    parts: SIDES.map((_, s) => ({ model: 'box.glb', name: `side ${s}`, slot: s < 2 ? 'ends' : 'body', box: box(s) })),
    group: null,
    groups: [],
    boxes: { 'box.glb': [-1, -1, -1, 1, 1, 1] },
    wraps: null,
  };
}

/** A picture from a function of its texels; R G B A, linear. */
export function pictureOf(width: number, height: number, at: (x: number, y: number) => readonly number[]): LevelSet {
  const levels = levelCount(width, height);
  const data = new Float32Array(new SharedArrayBuffer(levelSetLength(width, height, levels) * 4));
  for (let y = 0; y < height; y++) for (let x = 0; x < width; x++) data.set(at(x, y), (y * width + x) * 4);
  const set = { width, height, levels, offsets: levelOffsets(width, height, levels), data, alphaWeighted: true };
  buildLevels(set);
  return set;
}

/** A look of one picture, `metres` wide. */
export const pictureLook = (set: LevelSet, metres: number): LookData => ({
  ...PLAIN_LOOK,
  name: 'picture',
  size: [metres, (metres * set.height) / set.width],
  sets: [set],
  pictures: { ...PLAIN_LOOK.pictures, color: 0 },
  channels: ['color', 'alpha'],
  gauss: [null],
});

/** A look of one colour. */
const plainLook = (hex: string): LookData => ({
  ...PLAIN_LOOK,
  color: [...linearOf(hex), 1],
  channels: ['color'],
});

export type LineInput = Record<string, unknown> & { name: string };

export const recipeOf = (lines: readonly LineInput[], more: Record<string, unknown> = {}): Recipe =>
  Recipe.parse({ recipe: 1, name: 'test', lines, ...more });

/** A line that lays a look of one colour. */
export const colourLine = (name: string, color: string, where: unknown = null, how: unknown = {}): LineInput => ({
  name,
  what: { look: { from: 'values', color } },
  where,
  how,
});

export interface Scene {
  recipe: Recipe;
  surface: RecipeSurface;
  /** By number of line; those of values are made. */
  looks?: Record<number, LookData>;
  inputs?: RecipeInputs;
  grid?: number;
  maps?: SheetMaps;
}

/** Maps of medium grey with everything. */
export function greyMaps(surface: RecipeSurface): SheetMaps {
  const maps = emptyMaps(surface.width, surface.height, {
    normal: true,
    emissive: true,
    alpha: false,
    emissiveStrength: 1,
  });
  for (let i = 0; i < maps.owner.length; i++) {
    maps.baseColor.set([120, 121, 122, 255], i * 4);
    maps.orm.set([200, 150, 20], i * 3);
  }
  return maps;
}

export function jobOf({ recipe, surface, looks = {}, inputs = NO_INPUTS, grid = 1, maps }: Scene): RecipeJob {
  const all: Record<number, LookData> = {};
  recipe.lines.forEach((line, i) => {
    if (!('look' in line.what)) return;
    const { look } = line.what;
    all[i] = looks[i] ?? (look.from === 'values' && look.color ? plainLook(look.color) : PLAIN_LOOK);
  });
  return {
    recipe,
    lines: recipe.lines.flatMap((line, i) => (line.off ? [] : [i])),
    looks: all,
    surface,
    steps: pxSteps(surface),
    lods: levelsOfDetail(metresPerPx(surface), grid),
    inputs,
    grid,
    maps: maps ?? greyMaps(surface),
  };
}

/** Evaluates all tiles here. @param reversed tiles from the last to the first, each by an evaluator of its own */
export function evaluated(scene: Scene, reversed = false, checkpoints: Checkpoints | null = null): SheetMaps {
  const job = jobOf(scene);
  const lists = binTriangles(job.surface, job.surface.width, job.surface.height);
  const tiles = [...lists.keys()].sort((a, b) => (reversed ? b - a : a - b));
  const one = new RecipeEvaluator(job, 0);
  for (const tile of tiles)
    (reversed ? new RecipeEvaluator(job, 0) : one).tile(tile, lists.get(tile) as Uint32Array, checkpoints);
  return job.maps;
}

/** Colour of the texel in the middle of a side's island. @param u, v 0 … 1 across it */
export function colourAt(maps: SheetMaps, side: number, u = 0.5, v = 0.5, gap = 4): number[] {
  const [w, h] = [maps.width / 3, maps.height / 2];
  const x = Math.floor((side % 3) * w + gap + u * (w - 2 * gap));
  const y = Math.floor(Math.floor(side / 3) * h + gap + v * (h - 2 * gap));
  return [...maps.baseColor.subarray((y * maps.width + x) * 4, (y * maps.width + x) * 4 + 3)];
}
