import type { Document, Material } from '@gltf-transform/core';
import { Cancelled, InputError } from '@wembrel/core/errors';
import { joinParts } from '@wembrel/core/handover/join';
import { Names, stem } from '@wembrel/core/handover/names';
import { applySwatches } from '@wembrel/core/palette/apply';
import { paintedFaces } from '@wembrel/core/palette/faces';
import {
  gatherPalette,
  orderSwatches,
  type Painted,
  placeSwatches,
  ramp,
  type Swatch,
  type SwatchOrder,
} from '@wembrel/core/palette/palette';
import { type SwatchRow, swatchCsv, swatchRows } from '@wembrel/core/palette/table';
import { partDrawCalls } from '@wembrel/core/plan/drawn-parts';
import type { Model } from '@wembrel/core/scene/model';
import { encodePng } from '../pictures/codec.ts';
import type { InputFile } from '../read/collect.ts';
import { loadModel, rereadModel } from '../read/load.ts';
import { picturesOf } from '../read/pictures-of.ts';
import { Delivery } from '../write/delivery.ts';
import { dropUnused, jsonFile, TextureFiles, writeModel } from '../write/write-models.ts';

export interface PaletteOptions {
  files: readonly InputFile[];
  out: string;
  name: string;
  /** Swatches at the most. */
  colours: number;
  /** Side of a swatch, px. */
  swatch: number;
  order: SwatchOrder;
  /** Steps of a ramp for every swatch, in rows below them; 0 for none. */
  ramp: number;
  /** Parts of a model that share the palette are joined, so that they are one draw call. */
  join: boolean;
  embed: boolean;
  strict: boolean;
  cancelled: () => boolean;
  progress?: (share: number, doing: string) => void;
}

export interface PaletteReport {
  size: number;
  swatches: SwatchRow[];
  /** ΔE OK × 100. */
  meanError: number;
  maxError: number;
  faces: { moved: number; left: number };
  models: { path: string; moved: number; left: number; slots: Counts; drawCalls: Counts }[];
  written: string[];
  errors: { path: string; message: string }[];
}

interface Counts {
  before: number;
  after: number;
}

interface Read {
  file: InputFile;
  model: Model;
  faces: ReturnType<typeof paintedFaces>;
}

/**
 * One palette for many models: what faces are painted with is gathered into swatches, the faces are moved onto them, and all models share one
 * material and its textures. Faces that show more than one colour keep what they have.
 * @throws InputError when nothing can be read or no face has one colour @throws Cancelled
 */
export async function makePalette(options: PaletteOptions): Promise<PaletteReport> {
  const errors: PaletteReport['errors'] = [];
  const read: Read[] = [];
  for (const [i, file] of options.files.entries()) {
    options.progress?.((0.6 * i) / options.files.length, file.name);
    if (options.cancelled()) throw new Cancelled();
    try {
      const model = await loadModel(file);
      const pictures = await picturesOf(model);
      read.push({ file, model, faces: paintedFaces(model, (k) => pictures.get(k)) });
    } catch (error) {
      if (!(error instanceof InputError) || options.strict) throw error;
      errors.push({ path: error.path, message: error.reason });
    }
  }
  const paints: Painted[] = [];
  for (const r of read) for (const face of r.faces) for (const painted of face.faces) if (painted) paints.push(painted);
  if (paints.length === 0)
    throw new InputError('palette', 'no face shows one colour alone; nothing can go to a palette');
  let gathered: ReturnType<typeof gatherPalette>;
  try {
    gathered = gatherPalette(paints, options.colours);
  } catch (error) {
    throw new InputError('palette', (error as Error).message);
  }
  const order = orderSwatches(gathered.swatches, options.order);
  const rank = new Int32Array(order.length);
  order.forEach((s, at) => {
    rank[s] = at;
  });
  const swatches = order.map((s) => gathered.swatches[s]);
  const steps =
    options.ramp > 0
      ? swatches.flatMap((swatch) => ramp(swatch.colour, options.ramp).map((colour) => ({ ...swatch, colour })))
      : [];
  const { size, places } = placeSwatches(swatches.length + steps.length, options.swatch);
  const faces = new Uint32Array(swatches.length);
  for (const s of gathered.of) faces[rank[s]]++;
  const maps = await draw([...swatches, ...steps], places, size, options.swatch);
  const delivery = await Delivery.begin(options.out);
  try {
    const names = new Names();
    const files = new TextureFiles(names, delivery);
    const models: PaletteReport['models'] = [];
    let next = 0;
    for (const [i, { file, model, faces: parts }] of read.entries()) {
      options.progress?.(0.6 + (0.4 * i) / read.length, file.name);
      if (options.cancelled()) throw new Cancelled();
      const material = paletteMaterial(model.document, options.name, maps, swatches);
      const [before, calls] = [usedMaterials(model.document), drawCallsOf(model)];
      let [moved, left] = [0, 0];
      for (const { part, faces: list } of parts) {
        const to = Int32Array.from(list, (painted) => (painted ? rank[gathered.of[next++]] : -1));
        const count = applySwatches(model.document, part, to, places, material);
        moved += count;
        left += to.length - count;
      }
      if (options.join) joinParts(model.document, []);
      dropUnused(model.document);
      const path = names.claim(stem(file.name), '.glb');
      await writeModel(model, path, options.embed, files, delivery);
      models.push({
        path,
        moved,
        left,
        slots: { before, after: usedMaterials(model.document) },
        drawCalls: { before: calls, after: drawCallsOf(rereadModel(model)) },
      });
    }
    const rows = swatchRows(swatches, places, faces);
    const { meanError, maxError } = gathered;
    const table = { name: options.name, size, swatch: options.swatch, meanError, maxError, swatches: rows };
    await delivery.write(`${options.name}.json`, jsonFile(table));
    await delivery.write(`${options.name}.csv`, new TextEncoder().encode(swatchCsv(rows)));
    const written = delivery.list();
    await delivery.commit(options.files.map((file) => file.path));
    const sum = (k: 'moved' | 'left') => models.reduce((sum, model) => sum + model[k], 0);
    const counts = { moved: sum('moved'), left: sum('left') };
    return { size, swatches: rows, meanError, maxError, faces: counts, models, written, errors };
  } catch (error) {
    await delivery.discard();
    throw error;
  }
}

interface Maps {
  baseColor: Uint8Array;
  /** Null where all swatches have the same metallic and roughness. */
  orm: Uint8Array | null;
  emissive: Uint8Array | null;
}

async function draw(
  swatches: readonly Swatch[],
  places: readonly { x: number; y: number }[],
  size: number,
  side: number,
): Promise<Maps> {
  const map = async (colour: (swatch: Swatch) => readonly number[]) => {
    const data = new Uint8Array(size * size * 3);
    swatches.forEach((swatch, i) => {
      const [r, g, b] = colour(swatch);
      for (let y = places[i].y; y < places[i].y + side; y++)
        for (let x = places[i].x; x < places[i].x + side; x++) data.set([r, g, b], (y * size + x) * 3);
    });
    return encodePng(data, size, size, 3);
  };
  const [first] = swatches;
  const varied = swatches.some((swatch) => swatch.metallic !== first.metallic || swatch.roughness !== first.roughness);
  return {
    baseColor: await map((swatch) => swatch.colour),
    orm: varied ? await map((swatch) => [255, swatch.roughness, swatch.metallic]) : null,
    emissive: swatches.some((swatch) => swatch.emissive.some((v) => v > 0))
      ? await map((swatch) => swatch.emissive)
      : null,
  };
}

function paletteMaterial(document: Document, name: string, maps: Maps, swatches: readonly Swatch[]): Material {
  const texture = (suffix: string, image: Uint8Array) =>
    document
      .createTexture(`${name}_${suffix}`)
      .setMimeType('image/png')
      .setImage(image as Uint8Array<ArrayBuffer>);
  const material = document.createMaterial(name).setBaseColorTexture(texture('baseColor', maps.baseColor));
  if (maps.orm)
    material.setMetallicRoughnessTexture(texture('orm', maps.orm)).setMetallicFactor(1).setRoughnessFactor(1);
  else material.setMetallicFactor(swatches[0].metallic / 255).setRoughnessFactor(swatches[0].roughness / 255);
  if (maps.emissive) material.setEmissiveTexture(texture('emissive', maps.emissive)).setEmissiveFactor([1, 1, 1]);
  return material;
}

const drawCallsOf = (model: Model): number => model.parts.reduce((sum, part) => sum + partDrawCalls(part), 0);

const usedMaterials = (document: Document): number =>
  new Set(
    document
      .getRoot()
      .listMeshes()
      .flatMap((mesh) => mesh.listPrimitives().map((primitive) => primitive.getMaterial())),
  ).size;
