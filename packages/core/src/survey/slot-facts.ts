import { Wrap } from '@wembrel/kernels/sample';
import { countCut } from '../cut/cut-repeats.ts';
import type { ObjectNames } from '../decisions/object-patterns.ts';
import type { SheetKind } from '../decisions/sheets.ts';
import type { Plot } from '../layout/plot.ts';
import { periodSize, plotsOfMaterial, triangleArea } from '../layout/plots.ts';
import { determinant3 } from '../math/mat4.ts';
import { layoutCoordinates } from '../mesh/coordinates.ts';
import type { Obstacle } from '../plan/assign.ts';
import type { DrawnPart } from '../plan/drawn-parts.ts';
import { type ImageSizes, layoutUse, referenceSize } from '../plan/layout-texture.ts';
import { classKey, type RoutedMaterial, slotReader } from '../plan/route.ts';
import type { MapUse } from '../plan/sheet-maps.ts';
import { IMAGE_CHANNELS, lookKey, type MaterialLook } from '../scene/material.ts';
import { decidingParts, type Model, type Part, surfaceScale } from '../scene/model.ts';
import { objectsOfParts } from '../scene/object-names.ts';

type MaterialPlot = Omit<Plot, 'id'>;

import { DENSITY_BINS, densityBin, densityOf, densityProfile, sortedDensities } from './density.ts';
import type { PartGeometry } from './part-geometry.ts';
import { type SlotSurface, slotSurface, surfaceInput } from './surface.ts';
import { GRID, type UvFacts } from './uv-facts.ts';

/** What a part adds to the account, and what decides whether it can be joined with others. */
export interface PartFacts extends PartGeometry, DrawnPart {
  name: string;
  /** Objects that draw it. */
  objects: readonly ObjectNames[];
  /** It has a material. */
  assigned: boolean;
  /** Triangles of one copy, and how many copies are drawn. */
  own: number;
  copies: number;
  /** Surface of all copies, m². */
  surface: number;
  colours: boolean;
  /** Number of the part in its model: primitives of all meshes in order. */
  part: number;
  triangles: number;
  hasNormals: boolean;
}

/** One slot of one model: all that a prediction needs, as plain data. */
export interface SlotFacts {
  model: number;
  slot: number;
  name: string;
  /** Equal for duplicates. */
  look: string;
  /** Slots of other classes never share an output material. */
  classKey: string;
  alphaMode: MaterialLook['alphaMode'];
  /** Why it cannot go on a sheet, whatever is decided; repeats aside. */
  obstacle: Obstacle | null;
  /** Most repeats of its texture along an axis of one island; 1 without repeats. */
  repeats: number;
  /** Why it cannot go on a sheet of that kind. */
  unfit: Partial<Record<SheetKind, string>>;
  /** Why it cannot be cut at the repeats of its texture, or null. */
  uncut: string | null;
  /** How many triangles more its model has when it is cut, all instances counted; null when that changes nothing or cannot be. */
  cut: { triangles: number } | null;
  /** The same where it is cut along V alone, for a strip that goes on repeating along U; null where it fits on one uncut. */
  stripCut: { triangles: number } | null;
  /** Its texture until it is the same again, texels; null without a picture. */
  whole: [width: number, height: number] | null;
  /** Its pictures, if it has any, are of one colour. */
  flat: boolean;
  /** Path of its model. */
  path: string;
  /** Objects that draw with it: names from the root of the scene down. */
  objects: readonly ObjectNames[];
  maps: MapUse['maps'];
  constant: MapUse['constant'];
  /** Keys of its pictures in the table of pictures, by channel. */
  images: Partial<Record<(typeof IMAGE_CHANNELS)[number], string>>;
  /** Islands at the sharpness of the sources; those with equal keys sample the same texels. One colour alone: empty. */
  islands: { key: string; area: number }[];
  /** Surface of all its instances, m². */
  surface: number;
  /** Texel density of the sources, px/m; null without a picture. */
  density: { p5: number; median: number } | null;
  /** See `densityProfile`; empty without a picture. */
  densityProfile: number[];
  /** The same where every plot has 1 px/m on the whole, as at even density. */
  evenProfile: number[];
  /** Surface by density: area in m² in each of `DENSITY_BINS` quarter octaves from 1 px/m; empty without a picture. */
  densityAreas: number[];
  /** How its UVs lie; null without a picture or UVs. */
  uv: UvFacts | null;
  /** Wrap of its layout picture, by axis: repeats are drawn, not clamped. */
  wraps: [boolean, boolean];
  /** Parameters without textures and without the numbers that a swatch could hold: equal where only factors differ. */
  apartFromFactors: string;
  /** Alpha of the base colour factor. */
  alphaFactor: number;
  /** Linear base colour factor. */
  factor: [number, number, number];
  parts: PartFacts[];
}

interface SourceDensity {
  density: SlotFacts['density'];
  areas: number[];
  profile: number[];
  even: number[];
}

const NO_DENSITY: SourceDensity = { density: null, areas: [], profile: [], even: [] };

/** Densities of all faces as they are, and as they are when every plot is given the same density on the whole. */
function sourceDensity(
  parts: Part[],
  material: RoutedMaterial,
  plots: readonly MaterialPlot[],
  sizes: ImageSizes,
): SourceDensity {
  const use = layoutUse(material, sizes);
  if (!use || parts.some((part) => !part.uvs[use.uvSet])) return NO_DENSITY;
  const size = referenceSize(material, sizes);
  const toEven = new Map(parts.map((part) => [part.id, new Float64Array(part.indices.length / 3).fill(1)]));
  for (const plot of plots)
    for (const island of plot.islands) {
      const factors = toEven.get(island.part);
      if (!factors || !(plot.texelArea > 0)) continue;
      for (const triangle of island.triangles) factors[triangle] = plot.worldArea / plot.texelArea;
    }
  const faces = parts.reduce((sum, part) => sum + part.indices.length / 3, 0);
  const [pixels, evened, surface] = [new Float64Array(faces), new Float64Array(faces), new Float64Array(faces)];
  let face = 0;
  for (const part of parts) {
    const xy = layoutCoordinates(part, use, size);
    const scale = surfaceScale(part);
    const factors = toEven.get(part.id) as Float64Array;
    const { indices } = part;
    for (let t = 0; t < indices.length / 3; t++, face++) {
      const a = indices[t * 3] * 2;
      const b = indices[t * 3 + 1] * 2;
      const c = indices[t * 3 + 2] * 2;
      const area = Math.abs((xy[b] - xy[a]) * (xy[c + 1] - xy[a + 1]) - (xy[c] - xy[a]) * (xy[b + 1] - xy[a + 1])) / 2;
      pixels[face] = area;
      evened[face] = area * factors[t];
      surface[face] = triangleArea(part.positions, indices, t) * scale * scale;
    }
  }
  const sorted = sortedDensities(pixels, surface);
  const density = densityOf(sorted);
  if (!density) return NO_DENSITY;
  const areas = new Array<number>(DENSITY_BINS).fill(0);
  pixels.forEach((pixel, i) => {
    if (pixel > 0 && surface[i] > 0) areas[densityBin(Math.sqrt(pixel / surface[i]))] += surface[i];
  });
  return {
    density: { p5: density.p5, median: density.median },
    areas,
    profile: densityProfile(sorted),
    even: densityProfile(sortedDensities(evened, surface)),
  };
}

/** Cells of a picture's grid that UVs cover, by picture; filled while slots are looked at. */
export type Coverage = Map<string, Uint8Array>;

function addCoverage(coverage: Coverage, covered: SlotSurface['covered']): void {
  for (const [picture, cells] of covered) {
    const grid = coverage.get(picture) ?? new Uint8Array(GRID * GRID);
    coverage.set(picture, grid);
    for (let i = 0; i < grid.length; i++) grid[i] |= cells[i];
  }
}

/** What two materials must share to differ only by numbers. */
function apartFromFactors(look: MaterialLook, pixelKey: (image: string) => string): string {
  return JSON.stringify([
    classKey(look),
    look.foreign,
    IMAGE_CHANNELS.map((channel) => look[channel] && pixelKey(look[channel].image)),
  ]);
}

function partSurface(part: Part): number {
  let area = 0;
  for (let t = 0; t < part.indices.length / 3; t++) area += triangleArea(part.positions, part.indices, t);
  return part.instances.reduce((sum, i) => sum + area * Math.cbrt(Math.abs(determinant3(i.world))) ** 2 * i.copies, 0);
}

export interface FactsInput {
  sizes: ImageSizes;
  pixelKey: (image: string) => string;
  coverage?: Coverage;
  flatCells?: (image: string) => Uint8Array | null;
  checkpoint?: (share: number) => void;
  /** How UVs lie is not looked at, which takes most of the time: `uv` is null. */
  withoutUvs?: boolean;
  /** Surfaces that were looked at before, in other threads. */
  surfaces?: (model: number, slot: number) => SlotSurface | undefined;
}

/**
 * Facts of every used slot of all models, in order of model and slot.
 * @param pixelKey maps an image key to the hash of its decoded pixels
 * @param coverage takes what UVs cover of each picture @param flatCells see `PictureAnalysis` @param checkpoint called before each model; may throw to stop
 */
export function slotFacts(
  models: Model[],
  {
    sizes,
    pixelKey,
    coverage = new Map(),
    flatCells = () => null,
    checkpoint = () => {},
    withoutUvs = false,
    surfaces = () => undefined,
  }: FactsInput,
): SlotFacts[] {
  const input = { sizes, pixelKey, coverage, flatCells, withoutUvs, surfaces };
  return models.flatMap((model, m) => {
    checkpoint(m / models.length);
    const traitsOf = slotReader(model, m, { key: pixelKey, flat: (i) => sizes(i).flat, size: sizes });
    return usedSlots(model).flatMap((slot) => {
      const traits = traitsOf(slot);
      return traits ? [factsOfSlot(models, { model: m, slot, traits }, input)] : [];
    });
  });
}

/** Slots that parts use. */
export function usedSlots(model: Model): number[] {
  return model.slots.flatMap((_, s) => (model.parts.some((part) => part.slot === s) ? [s] : []));
}

/** A slot that something uses, and what routes know of it. */
interface UsedSlot {
  model: number;
  slot: number;
  traits: NonNullable<ReturnType<ReturnType<typeof slotReader>>>;
}

/** The slot as it would be baked alone. */
function ownMaterial(models: Model[], { model, slot }: UsedSlot, pixelKey: FactsInput['pixelKey']): RoutedMaterial {
  const { look, name } = models[model].slots[slot];
  return {
    key: lookKey(look, pixelKey),
    name,
    look,
    classKey: classKey(look),
    members: [{ model, slot }],
    sheet: 0,
    allowed: [],
    weight: 1,
    mayTurn: true,
    form: 'islands',
  };
}

function factsOfSlot(
  models: Model[],
  used: UsedSlot,
  { sizes, pixelKey, coverage, flatCells, withoutUvs, surfaces }: Required<Omit<FactsInput, 'checkpoint'>>,
): SlotFacts {
  const { model: m, slot: s, traits } = used;
  const model = models[m];
  const slot = model.slots[s];
  const { look } = slot;
  const { obstacle } = traits;
  const parts = decidingParts(model, s);
  const material = ownMaterial(models, used, pixelKey);
  const plots = obstacle ? [] : plotsOfMaterial(models, material, 0, sizes);
  const islands = plots.flatMap((plot) => plot.shown);
  const use = layoutUse(material, sizes);
  const { density, areas, profile, even } =
    obstacle?.code === 'no-uvs' ? NO_DENSITY : sourceDensity(parts, material, plots, sizes);
  const pictures = withoutUvs ? null : { sizes, pixelKey, flatCells };
  const surface = surfaces(m, s) ?? slotSurface(surfaceInput(parts, look, pictures));
  addCoverage(coverage, surface.covered);
  const images: SlotFacts['images'] = {};
  for (const channel of IMAGE_CHANNELS) {
    const use = look[channel];
    if (use) images[channel] = pixelKey(use.image);
  }
  return {
    model: m,
    slot: s,
    name: slot.name,
    look: material.key,
    classKey: material.classKey,
    alphaMode: look.alphaMode,
    obstacle,
    repeats: traits.repeats,
    unfit: traits.unfit,
    uncut: traits.uncut,
    cut: traits.uncut === null && traits.repeats > 1 + 1e-4 ? countCut(model, s) : null,
    stripCut: traits.uncut === null && traits.unfit.trim ? countCut(model, s, 'v') : null,
    whole: use ? periodSize(use, referenceSize(material, sizes)) : null,
    flat: traits.flat,
    path: model.path,
    objects: traits.objects,
    maps: traits.drawn.maps,
    constant: traits.drawn.constant,
    images,
    islands,
    surface: parts.reduce((sum, part) => sum + partSurface(part), 0),
    density,
    densityProfile: profile,
    evenProfile: even,
    densityAreas: areas,
    uv: surface.uv,
    wraps: [use !== null && use.wrapS !== Wrap.clamp, use !== null && use.wrapT !== Wrap.clamp],
    apartFromFactors: apartFromFactors(look, pixelKey),
    alphaFactor: look.baseColorFactor[3],
    factor: [look.baseColorFactor[0], look.baseColorFactor[1], look.baseColorFactor[2]],
    parts: parts.map((part, i) => ({
      ...surface.geometry[i],
      ...partFacts(part, traits.drawn.parts[i], slot.material !== null),
    })),
  };
}

function partFacts(part: Part, drawn: DrawnPart, assigned: boolean): Omit<PartFacts, keyof PartGeometry> {
  return {
    ...drawn,
    name: part.name,
    objects: objectsOfParts([part]),
    assigned,
    own: part.indices.length / 3,
    copies: part.instances.reduce((sum, i) => sum + i.copies, 0),
    surface: partSurface(part),
    colours: part.colors !== null,
    part: part.id,
    triangles: part.instances.reduce((sum, i) => sum + (part.indices.length / 3) * i.copies, 0),
    hasNormals: part.normals !== null,
  };
}
