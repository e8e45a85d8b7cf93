import type { LevelSet } from '@wembrel/kernels/sample';
import { levelHome } from '@wembrel/kernels/sampler';
import { emptyMaps, sheetNeeds } from '../src/bake/sheet-maps.ts';
import { type TargetPart, targetParts } from '../src/bake/target.ts';
import {
  binTriangles,
  type SheetMaps,
  type TransferInput,
  TransferScratch,
  transferTile,
} from '../src/bake/transfer.ts';
import { bakeTriangles } from '../src/bake/triangles.ts';
import { channelEncoding } from '../src/compare/scene.ts';
import type { MergeDecisions } from '../src/decisions/decisions.ts';
import { levelSetBytes, toLevels } from '../src/image/levels.ts';
import { channelRange, isExactlyFlat, type Raster } from '../src/image/raster.ts';
import { type Layout, layOut, type PlacedPlot } from '../src/layout/layout.ts';
import { tangentsReady } from '../src/mesh/tangents.ts';
import { type Routing, route } from '../src/plan/route.ts';
import { IMAGE_CHANNELS, READERS } from '../src/scene/material.ts';
import type { Model } from '../src/scene/model.ts';

/** A raster from a function of texel; values 0 … 255, alpha 255 unless given. */
export function raster(size: number, f: (x: number, y: number) => number[]): Raster {
  const data = new Uint8Array(size * size * 4);
  for (let y = 0; y < size; y++)
    for (let x = 0; x < size; x++) {
      const v = f(x, y);
      data.set([v[0], v[1], v[2], v[3] ?? 255], (y * size + x) * 4);
    }
  return { width: size, height: size, bits: 8, data };
}

export interface BakedHere {
  maps: SheetMaps;
  layout: Layout;
  routing: Routing;
  targets: TargetPart[];
}

interface BakeHereOptions {
  /** Textures lie where the kernel can read them; true unless given. */
  kernel?: boolean;
  /** The last tile is baked first. */
  backwards?: boolean;
}

/**
 * The stages from models to maps in this thread, as the runner does them with workers.
 * @param adjust changes the placed plots before anything is baked (to force a turn, say)
 */
export async function bakeHere(
  models: Model[],
  images: Record<string, Raster>,
  decisions: MergeDecisions,
  adjust: (plots: PlacedPlot[]) => void = () => {},
  { kernel = true, backwards = false }: BakeHereOptions = {},
): Promise<BakedHere> {
  await tangentsReady;
  const sizes = (k: string) => ({
    width: images[k].width,
    height: images[k].height,
    flat: isExactlyFlat(channelRange(images[k])),
  });
  const routed = route(models, decisions, { key: (i) => i, flat: (i) => sizes(i).flat, size: sizes });
  const { routing, layout } = layOut(models, routed, decisions, sizes);
  adjust(layout.sheets[0].plots);
  const targets = targetParts(models, routing, layout, sizes);
  const byPart = new Map(targets.map((target) => [`${target.model}:${target.part}`, target]));
  const { width, height, without } = layout.sheets[0];
  const maps = emptyMaps(width, height, sheetNeeds(routing, 0, without));
  const scratch = new TransferScratch();
  routing.materials.forEach((material, m) => {
    const plots = layout.sheets[0].plots.filter((plot) => plot.material === m);
    const triangles = bakeTriangles({
      models,
      material,
      plots,
      targets: byPart,
      sizes,
      pxScale: 1,
      margin: layout.sheets[0].margin,
    });
    const textures: TransferInput['textures'] = {};
    const sets = new Map<string, LevelSet>();
    for (const channel of IMAGE_CHANNELS) {
      const use = material.look[channel];
      if (!use) continue;
      const raster = images[use.image];
      const weighted = channel === 'baseColor' && material.look.alphaMode !== 'OPAQUE';
      const key = `${use.image} ${channelEncoding(channel)} ${weighted}`;
      const bytes = levelSetBytes(raster.width, raster.height, true);
      const home = kernel ? levelHome(bytes, READERS) : null;
      const memory = home?.memory.buffer ?? new ArrayBuffer(bytes);
      const set = sets.get(key) ?? { ...toLevels(raster, channelEncoding(channel), weighted, true, memory), home };
      sets.set(key, set);
      textures[channel] = set;
    }
    const input: TransferInput = { look: material.look, textures, triangles, maps, samples: decisions.samples };
    const tiles = [...binTriangles(triangles, width, height)];
    for (const [tile, list] of backwards ? tiles.reverse() : tiles) transferTile(input, tile, list, scratch);
  });
  return { maps, layout, routing, targets };
}
