import type { Primitive } from '@gltf-transform/core';
import { instancedApart, joinablePrimitive, movedNodes } from '../handover/join.ts';
import { classKey, type KeptApart, type RoutedMaterial, slotObstacle } from '../plan/route.ts';
import { IMAGE_CHANNELS, lookKey, type MaterialLook, uvSetsUsed } from '../scene/material.ts';
import type { Model, Part } from '../scene/model.ts';
import { layoutCoordinates } from '../uv/coordinates.ts';
import { type ImageSizes, layoutUse, plotsOfMaterial, referenceSize, triangleArea } from '../uv/plots.ts';
import { densityOf } from './density.ts';
import { gpuVertices, partDrawCalls } from './figures.ts';

/** What a part adds to the account, and what decides whether it can be joined with others. */
export interface PartFacts {
  /** Number of the part in its model: primitives of all meshes in order. */
  part: number;
  /** Index of its mesh in the model. */
  mesh: number;
  /** Scene instances. */
  drawCalls: number;
  triangles: number;
  gpuVertices: number;
  /** The primitive can become one with others of its slot. */
  joinable: boolean;
  /** Its mesh stands where something moves, skins, instances or names it apart. */
  apart: boolean;
  /** Its attributes, sorted, without vertex colours. */
  semantics: string[];
  /** UV sets that the slot's textures read. */
  uvSets: number[];
  hasNormals: boolean;
}

/** One slot of one model: all that a prediction needs, as plain data. */
export interface SlotFacts {
  model: number;
  slot: number;
  name: string;
  /** Equal for twins. */
  look: string;
  /** Slots of other classes never share an output material. */
  classKey: string;
  alphaMode: MaterialLook['alphaMode'];
  /** Why it cannot go on a sheet, whatever is decided; repeats aside. */
  obstacle: { code: KeptApart['code']; reason: string } | null;
  /** Most repeats of its texture along an axis of one island; 1 without repeats. */
  repeats: number;
  maps: { normal: boolean; emissive: boolean };
  /** Keys of its pictures in the table of pictures, by channel. */
  images: Partial<Record<(typeof IMAGE_CHANNELS)[number], string>>;
  /** Islands at the sharpness of the sources; those with equal keys sample the same texels. One colour alone: empty. */
  islands: { key: string; area: number }[];
  /** Surface of all its instances, m². */
  surface: number;
  /** Texel density of the sources, px/m; null without a picture. */
  density: { p5: number; median: number } | null;
  /** Linear base colour factor. */
  factor: [number, number, number];
  parts: PartFacts[];
}

function sourceDensity(parts: Part[], material: RoutedMaterial, sizes: ImageSizes): SlotFacts['density'] {
  const use = layoutUse(material, sizes);
  if (!use) return null;
  const size = referenceSize(material, sizes);
  const pixels: number[] = [];
  const surface: number[] = [];
  for (const part of parts) {
    if (!part.uvs[use.uvSet]) return null;
    const xy = layoutCoordinates(part, use, size);
    const scale = surfaceScale(part);
    for (let t = 0; t < part.indices.length / 3; t++) {
      const [a, b, c] = [0, 1, 2].map((k) => part.indices[t * 3 + k] * 2);
      pixels.push(Math.abs((xy[b] - xy[a]) * (xy[c + 1] - xy[a + 1]) - (xy[c] - xy[a]) * (xy[b + 1] - xy[a + 1])) / 2);
      surface.push(triangleArea(part.positions, part.indices, t) * scale * scale);
    }
  }
  const d = densityOf(pixels, surface);
  return d && { p5: d.p5, median: d.median };
}

/** Linear scale of a part's largest instance. */
function surfaceScale(part: Part): number {
  let best = 0;
  for (const { world: m } of part.instances) best = Math.max(best, Math.cbrt(Math.abs(det(m))));
  return best || 1;
}

function det(m: readonly number[]): number {
  return m[0] * (m[5] * m[10] - m[6] * m[9]) - m[4] * (m[1] * m[10] - m[2] * m[9]) + m[8] * (m[1] * m[6] - m[2] * m[5]);
}

function partSurface(part: Part): number {
  let area = 0;
  for (let t = 0; t < part.indices.length / 3; t++) area += triangleArea(part.positions, part.indices, t);
  return part.instances.reduce((sum, i) => sum + area * Math.cbrt(Math.abs(det(i.world))) ** 2 * i.copies, 0);
}

/**
 * Facts of every used slot of all models, in order of model and slot.
 * @param pixelKey maps an image key to the hash of its decoded pixels
 */
export function slotFacts(models: Model[], sizes: ImageSizes, pixelKey: (image: string) => string): SlotFacts[] {
  return models.flatMap((model, m) => {
    const moved = movedNodes(model.document);
    const meshes = model.document.getRoot().listMeshes();
    return model.slots.flatMap((slot, s): SlotFacts[] => {
      const parts = model.parts.filter((p) => p.slot === s);
      if (parts.length === 0) return [];
      const { look } = slot;
      const { obstacle, repeats } = slotObstacle(parts, look);
      const material: RoutedMaterial = {
        key: lookKey(look, pixelKey),
        name: slot.name,
        look,
        classKey: classKey(look),
        members: [{ model: m, slot: s }],
        sheet: 0,
      };
      const islands = obstacle ? [] : plotsOfMaterial(models, material, 0, sizes).flatMap((p) => p.shown);
      const images: SlotFacts['images'] = {};
      for (const channel of IMAGE_CHANNELS) {
        const use = look[channel];
        if (use) images[channel] = pixelKey(use.image);
      }
      return [
        {
          model: m,
          slot: s,
          name: slot.name,
          look: material.key,
          classKey: material.classKey,
          alphaMode: look.alphaMode,
          obstacle,
          repeats,
          maps: { normal: look.normal !== null, emissive: look.emissiveFactor.some((v) => v > 0) },
          images,
          islands,
          surface: parts.reduce((sum, p) => sum + partSurface(p), 0),
          density: obstacle?.code === 'no-uvs' ? null : sourceDensity(parts, material, sizes),
          factor: [look.baseColorFactor[0], look.baseColorFactor[1], look.baseColorFactor[2]],
          parts: parts.map((p) => partFacts(p, meshes.indexOf(p.mesh), moved, uvSetsUsed(look))),
        },
      ];
    });
  });
}

function partFacts(part: Part, mesh: number, moved: ReadonlySet<unknown>, uvSets: number[]): PartFacts {
  const primitive: Primitive = part.primitive;
  return {
    part: part.id,
    mesh,
    drawCalls: partDrawCalls(part),
    triangles: part.instances.reduce((n, i) => n + (part.indices.length / 3) * i.copies, 0),
    gpuVertices: gpuVertices(part),
    joinable: joinablePrimitive(primitive),
    apart: instancedApart(
      part.instances.map((i) => i.node),
      part.mesh,
      moved,
    ),
    semantics: primitive
      .listSemantics()
      .filter((s) => s !== 'COLOR_0')
      .sort(),
    uvSets,
    hasNormals: part.normals !== null,
  };
}
