import { cloneDocument } from '@gltf-transform/functions';
import { emptyMaps } from '@wembrel/core/bake/sheet-maps';
import { canonicalJson } from '@wembrel/core/canonical-json';
import type { FaceDecisions } from '@wembrel/core/decisions/face-decisions';
import type { MapKind } from '@wembrel/core/decisions/map-kinds';
import type { ReadingDecisions } from '@wembrel/core/decisions/reading';
import { Recipe } from '@wembrel/core/decisions/recipe/recipe';
import { InputError } from '@wembrel/core/errors';
import type { BakedMap } from '@wembrel/core/rays/maps/baked-maps';
import { groupIds } from '@wembrel/core/rays/maps/group-ids';
import { raySheetNeeds, sheetMapsOf } from '@wembrel/core/rays/maps/sheet-maps';
import { lowTarget } from '@wembrel/core/rays/target/low-target';
import { sceneObjects } from '@wembrel/core/rays/target/scene-objects';
import { surfaceOfTarget } from '@wembrel/core/recipes/surface';
import type { Model } from '@wembrel/core/scene/model';
import type { JobScope } from '../../pool/job-scope.ts';
import { type PartOfJob, within } from '../../progress.ts';
import { bakedLooks, slotsApart } from '../../rays/whole-model.ts';
import type { InputFile } from '../../read/collect.ts';
import { gltfIo } from '../../read/gltf-io.ts';
import { readFiles } from '../../stages/read.ts';
import { dropUnused } from '../../write/write-models.ts';
import { bakeOnto, type Undressed } from '../bake-onto.ts';
import type { BakedInputs } from '../inputs.ts';
import { Looks } from '../looks.ts';
import { type OwnLayout, ownLayout, placedOnce } from '../own-uvs.ts';
import { bakedKinds, type InputSource, LiveSurface } from './live-surface.ts';

export interface LiveModelOptions {
  file: InputFile;
  high: readonly InputFile[];
  /** Other models, whose materials may be taken. */
  others: readonly InputFile[];
  /** Loose textures of the models. */
  textures: InputFile[];
  reading: ReadingDecisions;
  faces: FaceDecisions;
  /** Side of the sheet for which its islands are packed where they must be, px. */
  sheet: number;
  /** px, on that sheet */
  margin: number;
  progress: OnLive;
}

/** Tells what takes long; it may change from question to question. */
export type OnLive = (share: number, doing: string) => void;

/** Name of the material that stands for what a recipe lays. */
export const LIVE_MATERIAL = 'wembrel-recipe';

/** How a model is laid out for tuning. */
interface LaidModel {
  glb: Uint8Array;
  layout: OwnLayout['layout'];
}

/** A model on which a recipe is tuned, at one size or several. */
export class LiveModel {
  private readonly surfaces = new Map<number, LiveSurface>();
  /** Looks of its materials and of those of the other models. */
  readonly looks: Looks;

  /** Use `LiveModel.open`. */
  private constructor(
    private readonly model: Undressed,
    read: readonly Model[],
    private readonly scope: JobScope,
    private readonly progress: OnLive,
    private readonly laid: LaidModel,
  ) {
    this.looks = new Looks(scope, [], { models: read, images: model.images });
  }

  /** Reads a model and lays it out. @throws InputError @throws Cancelled */
  static async open(options: LiveModelOptions, scope: JobScope): Promise<LiveModel> {
    const { progress } = options;
    const read = await readFiles([options.file, ...options.high, ...options.others], scope, {
      textures: options.textures,
      reading: options.reading,
      faces: options.faces,
      onProgress: ({ share, doing }) => progress(share, doing),
    });
    const own = read.models.find(({ file }) => file === options.file);
    const [error] = read.report.errors;
    if (!own) throw new InputError(error?.path ?? options.file.name, error?.message ?? 'it cannot be read');
    const source = own.model;
    const apart = slotsApart(source, []);
    const laid = ownLayout(source, {
      size: options.sheet,
      margin: options.margin,
      separate: false,
      apart,
      cancelled: () => scope.cancelled,
      progress: (share) => progress(share, 'unwrapping'),
    });
    const highs = new Set<InputFile>(options.high);
    const model: Undressed = {
      source,
      low: laid.model,
      high: read.models.filter(({ file }) => highs.has(file)).map((one) => one.model),
      apart,
      images: read.images,
      groups: groupIds([source], options.faces.groups, new Set(own.edited ? [source.path] : [])),
    };
    const models = read.models.map((one) => one.model);
    return new LiveModel(model, models, scope, progress, { glb: await liveGlb(laid, apart), layout: laid.layout });
  }

  /** The model with UVs of its own, as GLB; what the recipe is laid on has the material `LIVE_MATERIAL`. */
  get glb(): Uint8Array {
    return this.laid.glb;
  }

  get layout(): OwnLayout['layout'] {
    return this.laid.layout;
  }

  /** Slots that stay as they are, by name. */
  get apart(): string[] {
    return [...this.model.apart].map((slot) => this.model.source.slots[slot].name);
  }

  /** Its surface with maps of a size; what is there is baked at the first time. @param side px @throws Cancelled */
  async at(side: number): Promise<LiveSurface> {
    const known = this.surfaces.get(side);
    if (known) return known;
    const { model, scope, progress } = this;
    const base = await bakeBase(model, side, within({ scope, progress }, 0, 1, 'baking what is there'));
    const once = placedOnce(model.low, model.apart);
    const objects = sceneObjects([once]);
    const target = lowTarget([once], objects, { size: [side, side], uvSet: 0, cast: 'smoothed', blend: 0 });
    const surface = surfaceOfTarget(target, [side, side], model.groups);
    const made = new LiveSurface(surface, base, this.looks, inputSource(model, side, scope, progress), scope);
    this.surfaces.set(side, made);
    return made;
  }
}

/** How a bake for tuning is made: one sample a texel, of a proof. */
const settingsOf = (asked: Recipe, side: number, bits: 8 | 16) => ({
  asked,
  side,
  bits,
  proof: true,
  grid: 1,
  margin: 4,
});

async function bakeBase(model: Undressed, side: number, part: PartOfJob) {
  const { source, high, low, apart } = model;
  const sources = high.length > 0 ? high : [source];
  const needs = raySheetNeeds(sources.flatMap((one) => bakedLooks(one, high.length > 0 ? new Set() : apart)));
  const plain = Recipe.parse({ recipe: 1, name: 'base' });
  const once = placedOnce(low, apart);
  const bake = await bakeOnto(model, once, needs.maps, settingsOf(plain, side, 8), part);
  const maps = sheetMapsOf(bake.maps, needs);
  // A line may glow where nothing did.
  return maps.emissive ? maps : { ...maps, emissive: emptyMaps(side, side, { ...needs, emissive: true }).emissive };
}

/** Bakes what a recipe reads, map by map, each once as long as its settings stay. */
function inputSource(model: Undressed, side: number, scope: JobScope, progress: OnLive): InputSource {
  const once = placedOnce(model.low, model.apart);
  const known = new Map<MapKind, { key: string; map: BakedMap }>();
  let legend: BakedInputs['legend'] = [];
  return async (recipe) => {
    const kinds = bakedKinds(recipe);
    const missing = kinds.filter((kind) => known.get(kind)?.key !== settingOf(recipe, kind));
    if (missing.length > 0) {
      const doing = `baking ${missing.join(', ')}`;
      const settings = settingsOf(recipe, side, 16);
      const baked = await bakeOnto(model, once, missing, settings, within({ scope, progress }, 0, 1, doing));
      for (const map of baked.maps.maps) known.set(map.kind, { key: settingOf(recipe, map.kind), map });
      if (missing.includes('id')) legend = baked.legend;
    }
    return { maps: kinds.flatMap((kind) => known.get(kind)?.map ?? []), legend };
  };
}

/** What the map of a kind depends on of a recipe. */
function settingOf({ inputs }: Recipe, kind: MapKind): string {
  if (kind === 'id') return inputs.ids;
  if (kind === 'ao') return canonicalJson(inputs.ao);
  if (kind === 'thickness') return canonicalJson(inputs.thickness);
  return kind === 'height' ? '' : canonicalJson(inputs.curvature);
}

async function liveGlb({ model }: OwnLayout, apart: ReadonlySet<number>): Promise<Uint8Array> {
  const { document } = model;
  const copy = cloneDocument(document);
  const material = copy.createMaterial(LIVE_MATERIAL);
  material.setDoubleSided(model.slots.some((slot, s) => !apart.has(s) && slot.look.doubleSided));
  for (const mesh of copy.getRoot().listMeshes())
    for (const primitive of mesh.listPrimitives()) {
      // What is alpha-blended stays apart, and nothing else does.
      if (primitive.getMaterial()?.getAlphaMode() === 'BLEND' || primitive.getMode() < 4) continue;
      primitive.setMaterial(material).setAttribute('COLOR_0', null).setExtension('KHR_materials_variants', null);
    }
  dropUnused(copy);
  return (await gltfIo()).writeBinary(copy);
}
