import { mkdir, rename, rm, stat, writeFile } from 'node:fs/promises';
import { join } from 'node:path';
import { serialize } from 'node:v8';
import { InputError } from '@wembrel/core/errors';
import type { RayMaps } from '@wembrel/core/rays/baked-maps';
import type { MapKind } from '@wembrel/core/rays/map-kinds';
import { proofRecipe, RAY_PROOF_DIVISOR } from '@wembrel/core/rays/ray-decisions';
import { encodePng } from '@wembrel/runner/codec';
import type { Pool } from '@wembrel/runner/pool/pool';
import { bakeRays } from '@wembrel/runner/rays/bake-rays';
import { encodeMap } from '@wembrel/runner/rays/encode-maps';
import { distanceHistogram } from '@wembrel/runner/rays/histogram';
import { lowModel } from '@wembrel/runner/rays/low-model';
import { metalRoughPng, normalUpPng, previewBytes, viewPng } from '@wembrel/runner/rays/view-maps';
import { surveyFiles } from '@wembrel/runner/survey';
import type { RayResultView } from '../contract/project.ts';
import type { JobMessage, JobOrder } from './job-message.ts';
import type { SectionScene, SectionTexels } from './section.ts';

/** Side of the pictures of a running bake, px. */
const PREVIEW = 512;

/** Bakes the pairings of a project; only the files that they name are read. */
export async function bakeProjectRays(order: JobOrder, pool: Pool, tell: (m: JobMessage) => void): Promise<void> {
  const { rays, reading, faces } = order.decisions;
  const proof = order.kind === 'ray-proof';
  const pairings = rays.pairings.filter((p) => p.high.length > 0 && p.low.length > 0);
  if (pairings.length === 0) throw new InputError('Bake', 'no pairing has both a high-poly and a low-poly yet');
  const named = new Set(
    pairings.flatMap((p) => [...p.high, ...p.low, p.cage, p.surface].flatMap((r) => (r ? [r.path] : []))),
  );
  const began = performance.now();
  const read = await surveyFiles(
    order.files.filter((f) => named.has(f.name)),
    pool,
    {
      textures: order.textures,
      reading,
      faces,
      onProgress: (p) => tell({ type: 'progress', share: p.share * 1.5, doing: p.doing }),
    },
  );
  const [broken] = read.report.errors;
  if (broken) throw new InputError(broken.path, broken.message);
  const seconds: Record<string, number> = { read: (performance.now() - began) / 1000 };
  const recipe = proof ? proofRecipe(rays.recipe) : rays.recipe;
  let maps: RayMaps | null = null;
  let count = 0;
  let busy = false;
  const preview = async () => {
    if (!maps || busy) return;
    busy = true;
    try {
      const { data, width, height } = previewBytes(maps, PREVIEW);
      const file = join(order.folder, 'preview.png');
      await writeFile(`${file}.partial`, await encodePng(data, width, height, 4));
      await rename(`${file}.partial`, file);
      tell({ type: 'preview', sheet: 'rays', count: ++count });
    } finally {
      busy = false;
    }
  };
  const timer = setInterval(() => void preview(), 500);
  const middle = performance.now();
  const bake = await bakeRays(
    read.models.map((m) => m.model),
    pairings,
    recipe,
    read.images,
    pool,
    {
      pxScale: proof ? 1 / RAY_PROOF_DIVISOR : 1,
      keep: true,
      onMaps: (m) => {
        maps = m;
      },
      onProgress: (share, doing) => tell({ type: 'progress', share: 0.15 + 0.75 * share, doing }),
    },
  ).finally(() => {
    clearInterval(timer);
    maps = null;
  });
  seconds.bake = (performance.now() - middle) / 1000;
  await rm(join(order.folder, 'preview.png'), { force: true });
  tell({ type: 'progress', share: 0.92, doing: 'writing maps' });
  const delivery = join(order.folder, 'delivery');
  const views = join(order.folder, 'views');
  await mkdir(delivery, { recursive: true });
  await mkdir(views, { recursive: true });
  const pictures: Partial<Record<MapKind | 'metallic-roughness', Uint8Array>> = {};
  const written: RayResultView['maps'] = [];
  for (const map of bake.maps.maps) {
    pool.checkpoint();
    const { bytes, ending, bits } = await encodeMap(bake.maps, map);
    const file = `baked_${map.kind}.${ending}`;
    await writeFile(join(delivery, file), bytes);
    const png = await viewPng(bake.maps, map);
    pictures[map.kind] = map.kind === 'normal' ? await normalUpPng(bake.maps, map) : png;
    await writeFile(join(views, `${map.kind}.png`), png);
    written.push({
      kind: map.kind,
      file,
      bits,
      bytes: (await stat(join(delivery, file))).size,
      view: `${map.kind}.png`,
    });
  }
  pictures['metallic-roughness'] = (await metalRoughPng(bake.maps)) ?? undefined;
  await writeFile(
    join(views, 'low.glb'),
    await lowModel(
      bake.jobs.map(({ job }, i) => ({ name: pairings[i].name, target: job.target })),
      recipe.uvSet,
      pictures,
    ),
  );
  await writeSections(order.folder, bake);
  const view: RayResultView = {
    size: bake.maps.width,
    maps: written,
    model: 'low.glb',
    pairings: bake.pairings.map((p, i) => ({ ...p, histogram: distanceHistogram(bake.maps, i, p) })),
    faults: bake.faults,
    legend: bake.legend.map((l) => ({ name: l.name, colour: hex(l.colour) })),
    scale: { ...bake.scale, box: [...bake.scale.box] },
    rays: bake.rays,
    raysPerSecond: Math.round(bake.rays / Math.max(1e-9, bake.castSeconds)),
    seconds,
  };
  await writeFile(join(order.folder, 'rays.json'), JSON.stringify(view));
}

const hex = (c: number) =>
  `#${[c & 255, (c >> 8) & 255, c >> 16].map((v) => v.toString(16).padStart(2, '0')).join('')}`;

/** What cutting through a picked texel needs, so that it can be asked for at any time. */
async function writeSections(folder: string, bake: Awaited<ReturnType<typeof bakeRays>>): Promise<void> {
  const { maps } = bake;
  const texels: SectionTexels = {
    width: maps.width,
    height: maps.height,
    pairing: maps.pairing.slice(),
    triangle: maps.triangle.slice(),
    distance: maps.distance.slice(),
    faults: maps.faults.slice(),
  };
  await writeFile(join(folder, 'texels.bin'), serialize(texels));
  for (const [i, { job }] of bake.jobs.entries()) {
    const t = job.target;
    const scene: SectionScene = {
      name: bake.pairings[i].name,
      outward: bake.pairings[i].outward,
      inward: bake.pairings[i].inward,
      high: { positions: job.high.positions.slice(), indices: job.high.indices.slice() },
      low: { positions: t.mesh.positions.slice(), indices: t.mesh.indices.slice() },
      place: t.place.slice(),
      directions: t.directions.slice(),
      reach: t.outward.slice(),
      density: job.density.slice(),
    };
    await writeFile(join(folder, `scene-${i}.bin`), serialize(scene));
  }
}
