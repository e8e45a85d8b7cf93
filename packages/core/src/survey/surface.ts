import type { ImageSizes } from '../plan/layout-texture.ts';
import { IMAGE_CHANNELS, type MaterialLook } from '../scene/material.ts';
import { type Part, surfaceScale } from '../scene/model.ts';
import { type GeometryInput, geometryInput, type PartGeometry, partGeometry } from './part-geometry.ts';
import { GRID, UvCollector, type UvFacts, type UvPart, type UvReading } from './uv-facts.ts';

/** A part as `slotSurface` needs it: plain data that may go to another thread. */
interface SurfacePart extends UvPart, GeometryInput {
  /** glTF mode; UVs of points and lines are not looked at. */
  mode: number;
  /** Linear scale of its surface in the scene. */
  scale: number;
}

/** One picture of a slot, and by which UVs it is read. */
interface Reading {
  use: UvReading;
  /** px */
  size: [width: number, height: number];
  pixelKey: string;
}

/** What the facts of one slot's surface are made from. */
export interface SurfaceInput {
  parts: SurfacePart[];
  /** In the order of the channels; empty where UVs are not looked at. */
  readings: Reading[];
  /** Cells in which every picture of the slot is flat, `FLAT_GRID` a side; null when that is not known. */
  flat: Uint8Array | null;
}

/** The facts of one slot that take the most time. */
export interface SlotSurface {
  /** How the UVs of the first picture lie; null without a picture or UVs. */
  uv: UvFacts | null;
  /** Cells of each picture's grid that the slot covers, `GRID` a side, one byte each. */
  covered: [pixelKey: string, cells: Uint8Array][];
  /** One for each part. */
  geometry: PartGeometry[];
}

/** Gathers what `slotSurface` needs; arrays are shared with the parts. @param pictures null: UVs are not looked at */
export function surfaceInput(parts: readonly Part[], look: MaterialLook, pictures: Pictures | null): SurfaceInput {
  return {
    parts: parts.map((part) => ({
      ...geometryInput(part),
      name: part.name,
      mode: part.mode,
      scale: surfaceScale(part),
    })),
    readings: pictures ? readingsOf(look, pictures) : [],
    flat: pictures ? flatEverywhere(look, pictures.flatCells) : null,
  };
}

/** What is known of the pictures of all slots, by image key. */
export interface Pictures {
  sizes: ImageSizes;
  pixelKey: (image: string) => string;
  /** See `PictureAnalysis`. */
  flatCells: (image: string) => Uint8Array | null;
}

function readingsOf(look: MaterialLook, { sizes, pixelKey }: Pictures): Reading[] {
  return IMAGE_CHANNELS.flatMap((channel) => {
    const use = look[channel];
    if (!use) return [];
    const { width, height } = sizes(use.image);
    return [
      {
        use: { uvSet: use.uvSet, transform: use.transform },
        size: [width, height] as [number, number],
        pixelKey: pixelKey(use.image),
      },
    ];
  });
}

function flatEverywhere(look: MaterialLook, flatCells: Pictures['flatCells']): Uint8Array | null {
  let all: Uint8Array | null = null;
  for (const channel of IMAGE_CHANNELS) {
    const use = look[channel];
    if (!use) continue;
    const cells = flatCells(use.image);
    if (!cells) return null;
    all = all ? all.map((v, i) => v & cells[i]) : cells;
  }
  return all;
}

/** How the UVs of a slot lie, what they cover of its pictures, and what is odd about its faces. */
export function slotSurface({ parts, readings, flat }: SurfaceInput): SlotSurface {
  const surfaces = parts.filter((part) => part.mode >= 4);
  let uv: UvFacts | null = null;
  const covered: SlotSurface['covered'] = [];
  const done = new Map<string, Uint8Array>();
  for (const { use, size, pixelKey } of readings) {
    if (surfaces.some((part) => !part.uvs[use.uvSet])) continue;
    const reading = JSON.stringify([use.uvSet, use.transform]);
    let grid = done.get(reading);
    if (!grid) {
      grid = new Uint8Array(GRID * GRID);
      done.set(reading, grid);
      const collector = new UvCollector(grid, size, flat);
      for (const part of surfaces) collector.add(part, use, part.scale);
      uv ??= collector.facts();
    }
    covered.push([pixelKey, grid]);
  }
  return { uv, covered, geometry: parts.map(partGeometry) };
}
