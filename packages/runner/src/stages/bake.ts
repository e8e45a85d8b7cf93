import { READERS } from '@wembrel/core/bake/sample-shader';
import { emptyMaps, type SheetNeeds, sheetNeeds } from '@wembrel/core/bake/sheet-maps';
import type { TargetPart } from '@wembrel/core/bake/target';
import type { TransferInput } from '@wembrel/core/bake/transfer';
import { binTriangles, type SheetMaps } from '@wembrel/core/bake/transfer';
import { BEYOND, bakeTriangles } from '@wembrel/core/bake/triangles';
import { channelEncoding } from '@wembrel/core/compare/scene';
import type { SheetLayout } from '@wembrel/core/layout/layout';
import type { Routing } from '@wembrel/core/plan/route';
import { IMAGE_CHANNELS } from '@wembrel/core/scene/material';
import type { Model } from '@wembrel/core/scene/model';
import type { JobScope } from '../pool/job-scope.ts';
import type { Images } from '../read/images.ts';
import { bakeTasks } from './bake-tasks.ts';

export interface BakedSheet {
  maps: SheetMaps;
  needs: SheetNeeds;
  /** Share of texels that islands cover. */
  coverage: number;
}

export interface BakeJob {
  models: Model[];
  routing: Routing;
  targets: ReadonlyMap<string, TargetPart>;
  samples: number;
  /** px of the map per px of the layout: 1, or ¼ for a proof. */
  pxScale: number;
  padding: number;
}

/** True when nothing on the sheet comes of a channel. */
function unwritten(channel: (typeof IMAGE_CHANNELS)[number], needs: SheetNeeds): boolean {
  return (channel === 'normal' && !needs.normal) || (channel === 'emissive' && !needs.emissive);
}

/**
 * Bakes one sheet material by material, so that only the textures of one material are in memory at a time. Workers take tiles
 * from a shared counter; no texel belongs to two materials, so the result does not depend on their order.
 */
export async function bakeSheet(
  job: BakeJob,
  sheet: SheetLayout,
  index: number,
  images: Images,
  scope: JobScope,
  progress: (share: number, doing: string) => void,
  onMaps?: (maps: SheetMaps) => void,
): Promise<BakedSheet> {
  const { routing } = job;
  const needs = sheetNeeds(routing, index, sheet.without);
  const width = Math.max(1, Math.round(sheet.width * job.pxScale));
  const height = Math.max(1, Math.round(sheet.height * job.pxScale));
  const maps = emptyMaps(width, height, needs);
  onMaps?.(maps);
  const own = routing.materials.flatMap((m, i) => (m.sheet === index ? [i] : []));
  for (let k = 0; k < own.length; k++) {
    scope.checkpoint();
    const material = routing.materials[own[k]];
    const plots = sheet.plots.filter((p) => p.material === own[k]);
    const triangles = bakeTriangles(
      job.models,
      material,
      plots,
      job.targets,
      (i) => images.size(i),
      job.pxScale,
      sheet.margin,
    );
    const textures: TransferInput['textures'] = {};
    // Channels of one picture (occlusion beside roughness and metallic) have one set of levels, and are read together.
    const sets = new Map<string, ReturnType<typeof images.levels>>();
    await Promise.all(
      IMAGE_CHANNELS.map(async (channel) => {
        const use = material.look[channel];
        if (!use || unwritten(channel, needs)) return;
        const weighted = channel === 'baseColor' && material.look.alphaMode !== 'OPAQUE';
        const encoding = channelEncoding(channel);
        const key = `${use.image} ${encoding} ${weighted}`;
        const set = sets.get(key) ?? images.levels(use.image, encoding, weighted, true, READERS * scope.threads);
        sets.set(key, set);
        textures[channel] = await set;
      }),
    );
    const lists = binTriangles(triangles, width, height);
    const tiles = Uint32Array.from([...lists.keys()].sort((a, b) => a - b));
    const input: TransferInput = { look: material.look, textures, triangles, maps, samples: job.samples };
    const next = new Int32Array(new SharedArrayBuffer(4));
    const done = new Int32Array(new SharedArrayBuffer(4));
    const ordered = Array.from(tiles, (t) => lists.get(t) as Uint32Array);
    const tick = setInterval(
      () => progress((k + done[0] / Math.max(1, tiles.length)) / own.length, `baking ${material.name}`),
      100,
    );
    try {
      const workers = Math.min(scope.threads, Math.max(1, tiles.length));
      await Promise.all(
        Array.from({ length: workers }, (_, slot) =>
          scope.run(bakeTasks.bakeTiles, { input, tiles, lists: ordered, next, done, cancel: scope.cancel, slot }),
        ),
      );
    } finally {
      clearInterval(tick);
    }
    progress((k + 1) / own.length, `baked ${material.name}`);
  }
  scope.checkpoint();
  let covered = 0;
  for (const o of maps.owner) if (o !== 0 && o < BEYOND) covered++;
  await scope.run(bakeTasks.pad, { maps, padding: Math.round(job.padding * job.pxScale) });
  return { maps, needs, coverage: covered / (width * height) };
}
