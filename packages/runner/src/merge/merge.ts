import { basename, join } from 'node:path';
import { tangentsReady } from '@wembrel/core/bake/tangents';
import { type TargetPart, targetParts } from '@wembrel/core/bake/target';
import type { SheetMaps } from '@wembrel/core/bake/transfer';
import type { Fidelity } from '@wembrel/core/compare/metrics';
import { Cancelled, InputError } from '@wembrel/core/errors';
import { joinParts } from '@wembrel/core/handover/join';
import { buildManifest, type Manifest, round } from '@wembrel/core/handover/manifest';
import { type MapFile, type SheetFiles, SheetMaterials } from '@wembrel/core/handover/materials';
import { Names, stem } from '@wembrel/core/handover/names';
import { addMissingUvs, applyTargets, tidy } from '@wembrel/core/handover/rebuild';
import { type MergeDecisions, PROOF_DIVISOR, protectedMip } from '@wembrel/core/plan/decisions';
import { route } from '@wembrel/core/plan/route';
import type { Model } from '@wembrel/core/scene/model';
import { type Density, densityOf } from '@wembrel/core/survey/density';
import type { Totals } from '@wembrel/core/survey/figures';
import { type Layout, layOut } from '@wembrel/core/uv/layout';
import { signedArea, triangleArea } from '@wembrel/core/uv/plots';
import type { Pool } from '../pool/pool.ts';
import { type OnProgress, reporter } from '../progress.ts';
import type { InputFile } from '../read/collect.ts';
import { surveyFiles } from '../survey.ts';
import { Delivery } from '../write/delivery.ts';
import { validateGltf } from '../write/validate.ts';
import { type BakedSheet, bakeSheet } from './bake.ts';
import { captureOriginal, compareModels, PICTURE, PROOF_PICTURE, type WorstPictures } from './compare.ts';
import { jsonFile, TextureFiles, writeModel } from './write-models.ts';

export interface MergeRequest {
  files: InputFile[];
  /** Folder for the results. */
  out: string;
  decisions: MergeDecisions;
  /** A quarter of the side, same layout. */
  proof?: boolean;
  /** Side of the pictures that are compared, px; 1024, for a proof 512, when not given. */
  picture?: number;
  /** Told when a sheet's bake begins; its maps, in shared memory, fill while it goes on. */
  onMaps?: (sheet: string, maps: SheetMaps) => void;
  /** Give up when any file is bad. */
  strict?: boolean;
  onProgress?: OnProgress;
}

export interface Fault {
  code: string;
  subject: string;
  message: string;
}

/** The document of `wembrel merge --json`. */
export interface MergeReport {
  before: Totals;
  after: Totals;
  sheets: {
    name: string;
    size: number;
    coverage: number;
    maps: Record<string, string>;
    protectedMip: number;
    scale: number;
  }[];
  keptApart: Manifest['keptApart'];
  density: Density | null;
  fidelity: Fidelity;
  seconds: Record<string, number>;
  peakBytes: number;
  written: string[];
  faults: Fault[];
  errors: { path: string; message: string }[];
}

export interface MergeResult {
  report: MergeReport;
  manifest: Manifest;
  layout: Layout;
  worst: WorstPictures;
  /** For each merged model its position in the request's files. */
  sources: number[];
}

/** How the layout of a sheet fell short, in words. */
function layoutFaults(layout: Layout): Fault[] {
  const out: Fault[] = [];
  for (const s of layout.sheets) {
    if (s.plots.length === 0) continue;
    if (protectedMip(s.margin) < 0)
      out.push({
        code: 'thin margin',
        subject: s.name,
        message: `a margin of ${s.margin} px does not even keep mip 0 clean; 3 px does`,
      });
    if (s.scale < 0.25)
      out.push({
        code: 'starved sheet',
        subject: s.name,
        message: `its islands keep ${(s.scale * 100).toFixed(0)} % of their resolution along each side; take a larger sheet or more sheets`,
      });
  }
  return out;
}

/** Texel density of everything on sheets, by face. */
function sheetDensity(models: Model[], targets: TargetPart[], layout: Layout): Density | null {
  const pixels: number[] = [];
  const surface: number[] = [];
  for (const t of targets) {
    const part = models[t.model].parts[t.part];
    const size = layout.sheets[t.sheet].size;
    const uv = Float64Array.from(t.uv, (v) => v * size);
    const corners = new Float64Array(6);
    for (const { world: m } of part.instances) {
      const det =
        m[0] * (m[5] * m[10] - m[6] * m[9]) - m[4] * (m[1] * m[10] - m[2] * m[9]) + m[8] * (m[1] * m[6] - m[2] * m[5]);
      const k = Math.cbrt(Math.abs(det)) ** 2;
      for (let f = 0; f < t.indices.length / 3; f++) {
        for (let c = 0; c < 3; c++) {
          corners[c * 2] = uv[t.indices[f * 3 + c] * 2];
          corners[c * 2 + 1] = uv[t.indices[f * 3 + c] * 2 + 1];
        }
        pixels.push(Math.abs(signedArea(corners, 0)));
        surface.push(triangleArea(part.positions, part.indices, f) * k);
      }
    }
  }
  return densityOf(pixels, surface);
}

/**
 * From files to files: read, survey, route, lay out, bake, hand over, compare. Nothing appears under its final name before
 * everything is written, read again and checked.
 *
 * @throws InputError for input that cannot be used @throws Cancelled when the pool's flag goes up
 */
export async function merge(request: MergeRequest, pool: Pool): Promise<MergeResult> {
  const { decisions } = request;
  const report = reporter(request.onProgress);
  const seconds: Record<string, number> = {};
  let last = performance.now();
  const lap = (stage: string): void => {
    const now = performance.now();
    seconds[stage] = Number(((now - last) / 1000).toFixed(3));
    last = now;
    pool.checkpoint();
  };

  const read = await surveyFiles(request.files, pool, { onProgress: request.onProgress });
  const { errors } = read.report;
  if (errors.length > 0 && request.strict) throw new InputError(errors[0].path, errors[0].message);
  if (read.models.length === 0) {
    if (errors.length > 0) throw new InputError(errors[0].path, errors[0].message);
    throw new InputError(request.out, 'there is no model to merge');
  }
  const models = read.models.map((m) => m.model);
  const { images } = read;
  lap('read');

  const routing = route(models, decisions, (i) => images.pixelKey(i));
  if (routing.materials.length === 0)
    throw new InputError(
      models[0].path,
      `no slot can be merged: ${routing.keptApart.map((k) => `"${k.name}" ${k.reason}`).join('; ')}`,
    );
  lap('plan');

  const sizes = (i: string) => images.size(i);
  let layout: Layout;
  try {
    layout = layOut(models, routing, decisions, sizes, {
      cancelled: () => pool.cancelled,
      progress: (share, doing) => report('layout', share, doing),
    });
  } catch (error) {
    if (error instanceof InputError || error instanceof Cancelled) throw error;
    throw new InputError(models[0].path, error instanceof Error ? error.message : String(error));
  }
  await tangentsReady;
  pool.checkpoint();
  const targets = targetParts(models, routing, layout, sizes);
  const byPart = new Map(targets.map((t) => [`${t.model}:${t.part}`, t]));
  lap('layout');

  const pxScale = request.proof ? 1 / PROOF_DIVISOR : 1;
  const padding = (s: number) => decisions.padding ?? Math.ceil(layout.sheets[s].margin);
  // A sheet that nothing goes to is neither baked nor written.
  const used = layout.sheets.flatMap((sheet, s) => (sheet.plots.length > 0 ? [s] : []));
  const baked = new Map<number, BakedSheet>();
  for (const s of used)
    baked.set(
      s,
      await bakeSheet(
        { models, routing, targets: byPart, samples: decisions.samples, pxScale, padding: padding(s) },
        layout.sheets[s],
        s,
        images,
        pool,
        (share, doing) => report('bake', (baked.size + share) / used.length, doing),
        (maps) => request.onMaps?.(layout.sheets[s].name, maps),
      ),
    );
  lap('bake');

  const density = sheetDensity(models, targets, layout);
  const picture = request.picture ?? (request.proof ? PROOF_PICTURE : PICTURE);
  const original = captureOriginal(models, picture);
  const faults = layoutFaults(layout);
  const delivery = await Delivery.begin(request.out);
  try {
    report('handover', 0, 'writing textures');
    const names = new Names();
    const modelFiles = read.models.map(({ file }) => names.claim(stem(file.name), '.glb'));
    names.claim('manifest', '.json');
    names.claim('report', '.json');
    const textures = new TextureFiles(new Names(), delivery);
    const sheets = new Map<number, SheetFiles>();
    for (const [s, bake] of baked)
      sheets.set(
        s,
        await writeSheet(
          layout.sheets[s].name,
          bake,
          routing.materials.some((m) => m.sheet === s && m.look.occlusion),
          decisions.embed ? null : textures,
          pool,
        ),
      );
    for (let m = 0; m < models.length; m++) {
      pool.checkpoint();
      report('handover', 0.3 + (0.4 * m) / models.length, `writing ${modelFiles[m]}`);
      const own = targets.filter((t) => t.model === m);
      const material = new SheetMaterials(models[m].document, sheets, routing.classes);
      for (const name of addMissingUvs(models[m].document))
        faults.push({
          code: 'no UVs',
          subject: name,
          message:
            'its slot has textures, but it has no UVs for them; all zero ones were added so that the file can be read',
        });
      if (own.length > 0) applyTargets(models[m], own, routing.materials, material);
      else tidy(models[m].document);
      if (decisions.join) joinParts(models[m].document, decisions.keepParts);
      await writeModel(models[m], modelFiles[m], decisions.embed, textures, delivery);
    }

    // Read everything again as anybody would, and have it checked.
    report('handover', 0.75, 'reading the result again');
    const again = await surveyFiles(
      modelFiles.map((name) => ({ name, path: join(delivery.staging, name) })),
      pool,
    );
    if (again.report.errors.length > 0) {
      const e = again.report.errors[0];
      throw new Error(`the result "${e.path}" could not be read again: ${e.message}`);
    }
    for (const name of modelFiles) {
      const problems = await validateGltf(join(delivery.staging, name));
      if (problems.length > 0) throw new Error(`the result "${name}" is not valid glTF: ${problems[0]}`);
    }
    lap('handover');

    const { fidelity, worst } = await compareModels(
      original,
      models,
      images,
      again.models.map((m) => m.model),
      again.images,
      pool,
      (share, doing) => report('compare', share, doing),
      picture,
    );
    lap('compare');

    const manifest = buildManifest({
      models,
      files: modelFiles,
      names: modelFiles.map((f) => stem(f)),
      routing,
      layout,
      baked: used.map((s) => ({
        sheet: s,
        padding: padding(s),
        coverage: (baked.get(s) as BakedSheet).coverage,
        maps: mapPaths(sheets.get(s) as SheetFiles),
      })),
    });
    const common = {
      before: read.report.totals,
      after: again.report.totals,
      sheets: manifest.sheets.map((m, i) => ({
        name: m.name,
        size: (baked.get(used[i]) as BakedSheet).maps.size,
        coverage: m.coverage,
        maps: m.maps,
        protectedMip: m.protectedMip,
        scale: m.scale,
      })),
      keptApart: manifest.keptApart,
      density: density && {
        mean: round(density.mean),
        median: round(density.median),
        p5: round(density.p5),
        p95: round(density.p95),
      },
      fidelity,
      faults,
    };
    await delivery.write('manifest.json', jsonFile(manifest));
    await delivery.write('report.json', jsonFile(common));
    const written = delivery.list();
    pool.checkpoint();
    await delivery.commit(request.files.map((f) => f.path));
    lap('write');
    return {
      report: { ...common, seconds, peakBytes: process.resourceUsage().maxRSS * 1024, written, errors },
      manifest,
      layout,
      worst,
      sources: read.models.map((m) => request.files.indexOf(m.file)),
    };
  } catch (error) {
    await delivery.discard();
    throw error;
  }
}

function mapPaths(s: SheetFiles): Record<string, string> {
  return Object.fromEntries(Object.entries(s.maps).flatMap(([kind, file]) => (file ? [[kind, file.uri]] : [])));
}

/** Encodes the maps of a sheet; with `textures` they become files, without they are only embedded. */
async function writeSheet(
  name: string,
  sheet: BakedSheet,
  occlusion: boolean,
  textures: TextureFiles | null,
  pool: Pool,
): Promise<SheetFiles> {
  const { maps, needs } = sheet;
  const put = async (kind: string, data: Uint8Array, channels: 3 | 4): Promise<MapFile> => {
    const bytes = await pool.run('png', { data, width: maps.size, height: maps.size, channels });
    const file = `${name}_${kind}`;
    return { uri: textures ? await textures.add(file, bytes) : `${basename(file)}.png`, bytes };
  };
  const base = needs.alpha ? maps.baseColor : dropAlpha(maps.baseColor);
  const out: SheetFiles = {
    name,
    maps: {
      baseColor: await put('baseColor', base, needs.alpha ? 4 : 3),
      orm: await put('orm', maps.orm, 3),
    },
    emissiveStrength: maps.emissiveStrength,
    occlusion,
  };
  if (maps.normal) out.maps.normal = await put('normal', maps.normal, 3);
  if (maps.emissive) out.maps.emissive = await put('emissive', maps.emissive, 3);
  return out;
}

function dropAlpha(rgba: Uint8Array): Uint8Array {
  const out = new Uint8Array(new SharedArrayBuffer((rgba.length / 4) * 3));
  for (let i = 0, o = 0; i < rgba.length; i += 4) {
    out[o++] = rgba[i];
    out[o++] = rgba[i + 1];
    out[o++] = rgba[i + 2];
  }
  return out;
}
