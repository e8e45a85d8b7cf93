import { FILLED_MAPS } from '@wembrel/core/bake/fill';
import { emptyMaps, type SheetNeeds, sheetNeeds } from '@wembrel/core/bake/sheet-maps';
import { binTriangles, type SheetMaps, type TransferInput } from '@wembrel/core/bake/transfer';
import { BEYOND, bakeTriangles } from '@wembrel/core/bake/triangles';
import { channelEncoding } from '@wembrel/core/compare/scene';
import { type MergeDecisions, PROOF_DIVISOR } from '@wembrel/core/decisions/decisions';
import type { RoutedMaterial } from '@wembrel/core/plan/route';
import { IMAGE_CHANNELS, READERS } from '@wembrel/core/scene/material';
import type { JobScope } from '../pool/job-scope.ts';
import type { Images } from '../read/images.ts';
import { bakeTasks } from './bake-tasks.ts';
import type { StageContext } from './context.ts';
import type { Dressing } from './dressing.ts';
import type { LaidOut } from './lay-out.ts';

export interface BakedSheet {
  maps: SheetMaps;
  needs: SheetNeeds;
  /** Share of texels that islands cover. */
  coverage: number;
}

export interface BakeOptions {
  /** A quarter of the side, same layout. */
  proof?: boolean;
  /** What is laid over materials; null: nothing. */
  dressing?: Dressing | null;
  /** Called when a sheet's bake begins; its maps, in shared memory, fill while it goes on. */
  onMaps?: (sheet: string, maps: SheetMaps) => void;
}

type Progress = (share: number, doing: string) => void;

export const paddingOf = (decisions: MergeDecisions, margin: number): number => decisions.padding ?? Math.ceil(margin);

/** Positions of the sheets that something goes to; the others are neither baked nor written. */
const usedSheets = ({ layout }: LaidOut): number[] =>
  layout.sheets.flatMap((sheet, s) => (sheet.plots.length > 0 ? [s] : []));

/** The fifth stage: bakes every sheet in use, one after another. @throws Cancelled */
export async function bake(
  laidOut: LaidOut,
  decisions: MergeDecisions,
  options: BakeOptions,
  context: StageContext,
): Promise<Map<number, BakedSheet>> {
  const used = usedSheets(laidOut);
  const baked = new Map<number, BakedSheet>();
  for (const s of used) {
    const progress: Progress = (share, doing) => context.report('bake', (baked.size + share) / used.length, doing);
    baked.set(s, await bakeSheet({ laidOut, sheet: s, d: decisions, options }, context.scope, progress));
  }
  return baked;
}

/** One sheet to be baked. */
export interface SheetBake {
  laidOut: LaidOut;
  /** Its position in the layout. */
  sheet: number;
  d: MergeDecisions;
  options: BakeOptions;
}

/**
 * Bakes one sheet material by material, so that only the textures of one material are in memory at a time. Workers take tiles
 * from a shared counter; no texel belongs to two materials, so the result does not depend on their order.
 */
export async function bakeSheet(sheetBake: SheetBake, scope: JobScope, progress: Progress): Promise<BakedSheet> {
  const { routing, layout } = sheetBake.laidOut;
  const sheet = layout.sheets[sheetBake.sheet];
  const dressing = sheetBake.options.dressing?.isFor(sheet.name) ? sheetBake.options.dressing : null;
  const needs = sheetNeeds(routing, sheetBake.sheet, sheet.without, dressing !== null);
  const pxScale = pxScaleOf(sheetBake.options);
  const width = Math.max(1, Math.round(sheet.width * pxScale));
  const height = Math.max(1, Math.round(sheet.height * pxScale));
  const maps = emptyMaps(width, height, needs);
  sheetBake.options.onMaps?.(sheet.name, maps);
  const own = routing.materials.flatMap((material, i) => (material.sheet === sheetBake.sheet ? [i] : []));
  for (const [k, material] of own.entries()) {
    scope.checkpoint();
    const { name } = routing.materials[material];
    await bakeMaterial(sheetBake, {
      index: material,
      maps,
      needs,
      scope,
      progress: (share) => progress((k + share) / own.length, `baking ${name}`),
    });
    progress((k + 1) / own.length, `baked ${name}`);
  }
  scope.checkpoint();
  await dressing?.dress({ ...sheetBake.laidOut, sheet, maps, grid: gridOf(sheetBake) }, scope, progress);
  let covered = 0;
  for (const o of maps.owner) if (o !== 0 && o < BEYOND) covered++;
  // What is read without blending takes the nearest texel everywhere; all else is filled smoothly.
  const nearest = sheet.plots.every((plot) => plot.exact);
  const padding = nearest ? width + height : Math.round(paddingOf(sheetBake.d, sheet.margin) * pxScale);
  const known = await scope.run(bakeTasks.pad, { maps, padding });
  const filled = FILLED_MAPS.filter((map) => maps[map]);
  await Promise.all(filled.map((map) => scope.run(bakeTasks.fill, { maps, map, known })));
  return { maps, needs, coverage: covered / (width * height) };
}

/** Samples of a texel along an axis of what is laid over materials. */
const gridOf = ({ d, options }: SheetBake): number => (options.proof ? 1 : Math.round(Math.sqrt(d.samples)));

/** px of the map per px of the layout. */
const pxScaleOf = ({ proof }: BakeOptions): number => (proof ? 1 / PROOF_DIVISOR : 1);

interface MaterialBake {
  index: number;
  maps: SheetMaps;
  needs: SheetNeeds;
  scope: JobScope;
  progress: (share: number) => void;
}

/** Bakes the islands of one material into the maps of its sheet. */
async function bakeMaterial(
  { laidOut, sheet: s, d: decisions, options }: SheetBake,
  { index, maps, needs, scope, progress }: MaterialBake,
): Promise<void> {
  const { models, routing, layout, byPart, images } = laidOut;
  const sheet = layout.sheets[s];
  const material = routing.materials[index];
  const plots = sheet.plots.filter((plot) => plot.material === index);
  const sizes = (i: string) => images.size(i);
  const triangles = bakeTriangles({
    models,
    material,
    plots,
    targets: byPart,
    sizes,
    pxScale: pxScaleOf(options),
    margin: sheet.margin,
  });
  const textures = await channelTextures(material, needs, images, scope);
  const lists = binTriangles(triangles, maps.width, maps.height);
  const tiles = Uint32Array.from([...lists.keys()].sort((a, b) => a - b));
  const shared = {
    input: { look: material.look, textures, triangles, maps, samples: decisions.samples },
    tiles,
    lists: Array.from(tiles, (tile) => lists.get(tile) as Uint32Array),
    next: new Int32Array(new SharedArrayBuffer(4)),
    done: new Int32Array(new SharedArrayBuffer(4)),
    cancel: scope.cancel,
  };
  const tick = setInterval(() => progress(shared.done[0] / Math.max(1, tiles.length)), 100);
  try {
    const workers = Math.min(scope.threads, Math.max(1, tiles.length));
    await Promise.all(
      Array.from({ length: workers }, (_, slot) => scope.run(bakeTasks.bakeTiles, { ...shared, slot })),
    );
    // Channels may have one set together.
    images.giveBack(new Set(Object.values(textures)));
  } finally {
    clearInterval(tick);
  }
}

/** The filtered textures of a material that its sheet has maps for. */
async function channelTextures(
  { look }: RoutedMaterial,
  needs: SheetNeeds,
  images: Images,
  scope: JobScope,
): Promise<TransferInput['textures']> {
  const textures: TransferInput['textures'] = {};
  // Channels of one picture (occlusion beside roughness and metallic) have one set of levels, and are read together.
  const sets = new Map<string, ReturnType<typeof images.levels>>();
  await Promise.all(
    IMAGE_CHANNELS.map(async (channel) => {
      const use = look[channel];
      if (!use || isUnwritten(channel, needs)) return;
      const weighted = channel === 'baseColor' && look.alphaMode !== 'OPAQUE';
      const encoding = channelEncoding(channel);
      const key = `${use.image} ${encoding} ${weighted}`;
      const set = sets.get(key) ?? images.levels(use.image, encoding, weighted, true, READERS * scope.threads);
      sets.set(key, set);
      textures[channel] = await set;
    }),
  );
  return textures;
}

/** True when nothing on the sheet comes of a channel. */
function isUnwritten(channel: (typeof IMAGE_CHANNELS)[number], needs: SheetNeeds): boolean {
  return (channel === 'normal' && !needs.normal) || (channel === 'emissive' && !needs.emissive);
}
