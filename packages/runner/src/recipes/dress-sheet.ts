import { totalmem } from 'node:os';
import { Document } from '@gltf-transform/core';
import type { MapKind } from '@wembrel/core/decisions/map-kinds';
import { RaySettings } from '@wembrel/core/decisions/ray-decisions';
import type { Recipe } from '@wembrel/core/decisions/recipe/recipe';
import { isForModel, isForSheet, type RecipeUse } from '@wembrel/core/decisions/recipe/recipe-use';
import type { BakedMap } from '@wembrel/core/rays/maps/baked-maps';
import type { GroupIds } from '@wembrel/core/rays/maps/group-ids';
import { pairing } from '@wembrel/core/rays/pairing/pairings';
import { recipeNeeds } from '@wembrel/core/recipes/inputs/needs';
import { planRecipeMemory } from '@wembrel/core/recipes/memory';
import { prepareLines } from '@wembrel/core/recipes/prepare';
import { surfaceOfSheet } from '@wembrel/core/recipes/sheet-surface';
import type { RecipeSurface } from '@wembrel/core/recipes/surface';
import { floatAccessor, indexAccessor } from '@wembrel/core/scene/accessors';
import { type Model, readModel } from '@wembrel/core/scene/model';
import type { JobScope } from '../pool/job-scope.ts';
import { type PartOfJob, within } from '../progress.ts';
import { bakeRays } from '../rays/bake-rays.ts';
import { objectRefs } from '../rays/whole-model.ts';
import type { InputFile } from '../read/collect.ts';
import { imageKey } from '../read/image-keys.ts';
import type { Dressing, UndressedSheet } from '../stages/dressing.ts';
import { evaluateRecipe, type LineReport } from './evaluate.ts';
import { inputSettings, ownReach } from './input-settings.ts';
import { type BakedInputs, findInputs, NOTHING_BAKED } from './inputs.ts';
import { Looks } from './looks.ts';

/** What came of one recipe on one sheet. */
export interface SheetDressed {
  sheet: string;
  recipe: string;
  lines: LineReport[];
}

/** Something of a recipe that a sheet does not have. */
export interface DressingFault {
  code: 'recipe';
  subject: string;
  message: string;
}

/** Lays the recipes of a project on its sheets, between baking materials and padding. */
export class SheetDressing implements Dressing {
  readonly dressed: SheetDressed[] = [];
  readonly faults: DressingFault[] = [];
  /** Models on which some line was laid, by their position. */
  readonly models = new Set<number>();
  /** Read once for all sheets. */
  private looks: Looks | null = null;

  constructor(
    private readonly uses: readonly RecipeUse[],
    private readonly pictures: readonly InputFile[],
    /** Face groups of the models as they are laid out. */
    private readonly groups: (models: readonly Model[]) => GroupIds | null = () => null,
  ) {}

  isFor(sheet: string): boolean {
    return this.uses.some((use) => isForSheet(use, sheet));
  }

  async dress(
    undressed: UndressedSheet,
    scope: JobScope,
    progress: (share: number, doing: string) => void,
  ): Promise<void> {
    const uses = this.uses.filter((use) => isForSheet(use, undressed.sheet.name));
    for (const [i, use] of uses.entries())
      await this.lay(use, undressed, scope, (share, doing) => progress((i + share) / uses.length, doing));
  }

  private async lay(
    use: RecipeUse,
    { models, images, sheet, byPart, maps, grid }: UndressedSheet,
    scope: JobScope,
    progress: (share: number, doing: string) => void,
  ): Promise<void> {
    const { recipe } = use;
    const say = (message: string) =>
      this.faults.push({ code: 'recipe', subject: `${sheet.name}: ${recipe.name}`, message });
    const meant = new Set(models.flatMap((model, m) => (isForModel(use, model.path) ? [m] : [])));
    const size = [maps.width, maps.height] as const;
    const { surface, swatches } = surfaceOfSheet({
      models,
      dressed: meant,
      sheet,
      targets: byPart,
      size,
      groups: this.groups(models),
    });
    if (swatches.length > 0)
      say(
        `${swatches.join(', ')} has one colour and no area on the sheet, so that nothing is laid on it; see wembrel recipe apply`,
      );
    if (surface.count === 0) {
      say('no island of the models that it is for lies on the sheet');
      return;
    }
    const needs = recipeNeeds(recipe);
    planRecipeMemory(surface.parts[0].model, { side: Math.max(...size), triangles: surface.count, needs }, totalmem());
    this.looks ??= new Looks(scope, this.pictures, { models, images });
    const { looks } = this;
    const found = await looks.ofRecipe(recipe);
    const sources = models.filter((model) => surface.parts.some((part) => part.model === model.path));
    const reading = `${recipe.name}: baking what it reads`;
    progress(0, reading);
    const part = within({ scope, progress }, 0, 0.6, reading);
    const baked = await bakedInputs(recipe, surface, sources, images, part);
    const inputs = await findInputs(recipe, surface, baked, { looks }, scope);
    const prepared = prepareLines(recipe, surface, found, inputs.inputs, inputs.missing);
    const lines = await evaluateRecipe(
      { recipe, prepared, surface, inputs: inputs.inputs, maps, grid },
      scope,
      (share) => progress(0.6 + 0.4 * share, `${recipe.name}: laying its lines`),
    );
    for (const { line, message, leftOut } of prepared.problems)
      say(`"${line}": ${leftOut ? `left out: ${message}` : message}`);
    this.dressed.push({ sheet: sheet.name, recipe: recipe.name, lines });
    for (const m of meant) if (surface.parts.some((part) => part.model === models[m].path)) this.models.add(m);
  }
}

/** What conditions read, baked onto the layout of a sheet from the models themselves. */
async function bakedInputs(
  recipe: Recipe,
  surface: RecipeSurface,
  sources: readonly Model[],
  images: UndressedSheet['images'],
  { scope, progress }: PartOfJob,
): Promise<BakedInputs> {
  const needs = recipeNeeds(recipe);
  const maps: MapKind[] = [...needs.maps, ...(needs.bakedIds ? (['id'] as const) : [])];
  if (maps.length === 0) return NOTHING_BAKED;
  const side = Math.max(surface.width, surface.height);
  const low = surfaceModel(surface, side);
  const pair = pairing('sheet', sources.flatMap(objectRefs), objectRefs(low));
  pair.outward = pair.inward = ownReach([surface]);
  const settings = { size: side, samples: 1, bits: 16, margin: 0, hit: 'nearest' } as const;
  const bakeSettings = RaySettings.parse({ maps, ...settings, ...inputSettings(recipe) });
  const bake = await bakeRays({ models: [...sources, low], pairings: [pair], settings: bakeSettings, images }, scope, {
    onProgress: progress,
  });
  return { maps: bake.maps.maps.map((map) => cropped(map, side, surface)), legend: bake.legend };
}

/** A surface as a model whose UVs are its places on a square sheet. */
function surfaceModel(surface: RecipeSurface, side: number): Model {
  const document = new Document();
  const buffer = document.createBuffer();
  const corners = surface.count * 3;
  const uvs = Float32Array.from(surface.place.subarray(0, corners * 2), (v) => v / side);
  const indices = Uint32Array.from({ length: corners }, (_, i) => i);
  const put = (type: 'VEC2' | 'VEC3' | 'VEC4', values: Float32Array) =>
    floatAccessor(document, type, Float32Array.from(values)).setBuffer(buffer);
  const primitive = document
    .createPrimitive()
    .setAttribute('POSITION', put('VEC3', surface.positions.subarray(0, corners * 3)))
    .setAttribute('NORMAL', put('VEC3', surface.normals.subarray(0, corners * 3)))
    .setAttribute('TANGENT', put('VEC4', surface.tangents.subarray(0, corners * 4)))
    .setAttribute('TEXCOORD_0', put('VEC2', uvs))
    .setIndices(indexAccessor(document, indices, corners).setBuffer(buffer))
    .setMaterial(document.createMaterial('sheet'));
  const node = document.createNode('sheet').setMesh(document.createMesh('sheet').addPrimitive(primitive));
  document.getRoot().setDefaultScene(document.createScene('sheet').addChild(node));
  return readModel('(sheet)', document, imageKey);
}

/** The part of a square map that a sheet takes. */
function cropped(map: BakedMap, side: number, { width, height }: RecipeSurface): BakedMap {
  if (width === side && height === side) return map;
  const row = width * map.channels;
  const data = map.data.slice(0, row * height);
  for (let y = 0; y < height; y++)
    data.set(map.data.subarray(y * side * map.channels, y * side * map.channels + row), y * row);
  return { ...map, data };
}
