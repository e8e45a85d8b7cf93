import type { MapCondition } from '@wembrel/core/decisions/recipe/condition';
import type { Recipe } from '@wembrel/core/decisions/recipe/recipe';
import { sentence } from '@wembrel/core/errors';
import type { BakedMap } from '@wembrel/core/rays/maps/baked-maps';
import { idBorders, uvBorders } from '@wembrel/core/recipes/inputs/borders';
import { spreadDistances } from '@wembrel/core/recipes/inputs/distances';
import { chosenIds, type IdMap, type IdPicture } from '@wembrel/core/recipes/inputs/id-picture';
import type { InputMap, RecipeInputs } from '@wembrel/core/recipes/inputs/input-maps';
import { type DistanceNeed, recipeNeeds } from '@wembrel/core/recipes/inputs/needs';
import type { RecipeSurface } from '@wembrel/core/recipes/surface';
import type { LevelSet } from '@wembrel/kernels/sample';
import type { JobScope } from '../pool/job-scope.ts';
import { rayTasks } from '../rays/ray-tasks.ts';
import type { Looks } from './looks.ts';
import { recipeTasks } from './recipe-tasks.ts';
import { overTiles, sharedTiles } from './tiles.ts';

/** What conditions read, and what of it could not be read. */
export interface FoundInputs {
  inputs: RecipeInputs;
  /** By file: why. */
  missing: Map<string, string>;
  /** Texels of pictures of IDs whose colour is none of the IDs, by file. */
  odd: Map<string, number>;
}

/** What was baked for conditions, at the size of the surface. */
export interface BakedInputs {
  maps: readonly BakedMap[];
  /** Names of the colours of the ID map. */
  legend: readonly { name: string; colour: number }[];
}

/** What was read or measured before and may be asked for again, by what it depends on. */
export class KnownInputs {
  readonly ids = new Map<string, IdPicture>();
  readonly masks = new Map<string, LevelSet>();
  readonly distances = new Map<string, Float32Array>();
}

export const NOTHING_BAKED: BakedInputs = { maps: [], legend: [] };

export async function findInputs(
  recipe: Recipe,
  surface: RecipeSurface,
  baked: BakedInputs,
  { looks, known = new KnownInputs() }: { looks: Looks; known?: KnownInputs },
  scope: JobScope,
): Promise<FoundInputs> {
  const needs = recipeNeeds(recipe);
  const missing = new Map<string, string>();
  const odd = new Map<string, number>();
  const maps: Partial<Record<MapCondition, InputMap>> = {};
  for (const kind of needs.maps) {
    const map = baked.maps.find((one) => one.kind === kind);
    if (map) maps[kind] = inputMap(map);
  }
  const ids: Record<string, IdMap> = {};
  const idMap = baked.maps.find((one) => one.kind === 'id');
  if (needs.bakedIds && idMap) ids[''] = idsOfMap(idMap, baked.legend);
  for (const name of needs.idPictures)
    await found(name, missing, looks, async (file) => {
      const read = await once(known.ids, file.path, async () => {
        const raster = await looks.decoded(file);
        return scope.run(recipeTasks.readIds, { path: file.name, raster, size: [surface.width, surface.height] });
      });
      ids[name] = read;
      odd.set(name, read.odd);
    });
  const masks: Record<string, LevelSet> = {};
  for (const name of needs.masks)
    await found(name, missing, looks, async (file) => {
      masks[name] = await once(known.masks, file.path, () => looks.mask(file));
    });
  const distances: Record<string, Float32Array> = {};
  for (const need of needs.distances) {
    scope.checkpoint();
    const from = need.to === 'uv' ? '' : (looks.picture(need.picture)?.path ?? JSON.stringify(recipe.inputs.ids));
    const field = await once(known.distances, `${need.key} ${need.reach} ${from}`, () =>
      distanceField(need, surface, ids, scope),
    );
    if (field) distances[need.key] = field;
  }
  return { inputs: { maps, ids, masks, distances }, missing, odd };
}

async function once<V extends T, T>(known: Map<string, V>, key: string, make: () => Promise<T>): Promise<T> {
  const before = known.get(key);
  if (before !== undefined) return before;
  const made = await make();
  if (made !== null) known.set(key, made as V);
  return made;
}

/** Reads a picture that a condition names, or notes why it cannot. */
async function found(
  name: string,
  missing: Map<string, string>,
  looks: Looks,
  read: (file: NonNullable<ReturnType<Looks['picture']>>) => Promise<void>,
): Promise<void> {
  const file = looks.picture(name);
  try {
    if (file) await read(file);
    else missing.set(name, 'there is no such picture beside the recipe');
  } catch (error) {
    missing.set(name, sentence(error));
  }
}

/** A baked map with the values that conditions speak of: curvature −1 … 1, heights mm. */
function inputMap({ kind, data }: BakedMap): InputMap {
  const unit = data instanceof Uint8Array ? 1 / 255 : data instanceof Uint16Array ? 1 / 65535 : 1;
  if (kind === 'curvature') return { data, scale: 2 * unit, offset: -1 };
  return { data, scale: kind === 'height' ? 1000 : unit, offset: 0 };
}

function idsOfMap({ data }: BakedMap, legend: BakedInputs['legend']): IdMap {
  const texels = new Uint32Array(new SharedArrayBuffer((data.length / 3) * 4));
  const counts = new Map<number, number>();
  for (let i = 0; i < texels.length; i++) {
    const code = data[i * 3] | (data[i * 3 + 1] << 8) | (data[i * 3 + 2] << 16);
    texels[i] = code;
    counts.set(code, (counts.get(code) ?? 0) + 1);
  }
  const colours = [...counts].sort(([a, m], [b, k]) => k - m || a - b).map(([code]) => code);
  return { texels, colours, names: Object.fromEntries(legend.map(({ colour, name }) => [colour, name])) };
}

/** Distances to a border at every texel, mm; null where there are no IDs to have borders. */
async function distanceField(
  need: DistanceNeed,
  surface: RecipeSurface,
  ids: Readonly<Record<string, IdMap>>,
  scope: JobScope,
): Promise<Float32Array | null> {
  const { width, height } = surface;
  const map = ids[need.picture];
  if (need.to !== 'uv' && !map) return null;
  const chosen = map ? chosenIds(map, need) : new Set<number>();
  const inside = need.to === 'colours' ? Uint8Array.from(map.texels, (id) => Number(chosen.has(id))) : null;
  const segments =
    need.to === 'uv'
      ? uvBorders(surface)
      : idBorders(surface, inside ? (texel) => inside[texel] : (texel) => map.texels[texel]);
  const borders =
    segments.indices.length > 0 ? await scope.run(rayTasks.buildBvh, { ...segments, slots: scope.threads }) : null;
  const out = new Float32Array(new SharedArrayBuffer(width * height * 4)).fill(Number.NaN);
  const tiles = sharedTiles(surface, scope);
  const shared = inside && shareBytes(inside);
  const work = { surface, borders, reach: need.reach, inside: shared, out };
  await overTiles(tiles, scope, () => scope.run(recipeTasks.distances, { work, tiles }));
  spreadDistances(out, width, height);
  return out;
}

function shareBytes(bytes: Uint8Array): Uint8Array {
  const out = new Uint8Array(new SharedArrayBuffer(bytes.length));
  out.set(bytes);
  return out;
}
