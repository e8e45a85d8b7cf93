import { basename, join } from 'node:path';
import type { TargetPart } from '@wembrel/core/bake/target';
import type { DrawScene } from '@wembrel/core/compare/scene';
import { protectedMip, type SheetDecision, type SheetMap } from '@wembrel/core/decisions/sheets';
import type { FaceEditReport } from '@wembrel/core/faces/apply-faces';
import { joinParts } from '@wembrel/core/handover/join';
import { buildManifest, type Manifest, round } from '@wembrel/core/handover/manifest';
import { type MapFile, type SheetFiles, SheetMaterials } from '@wembrel/core/handover/materials';
import { Names, stem } from '@wembrel/core/handover/names';
import { addMissingUvs, applyTargets, tidy } from '@wembrel/core/handover/rebuild';
import { tileTable } from '@wembrel/core/handover/tile-table';
import type { Fidelity } from '@wembrel/core/image/metrics';
import type { Layout } from '@wembrel/core/layout/layout';
import { signedArea, triangleArea } from '@wembrel/core/layout/plots';
import { determinant3 } from '@wembrel/core/math/mat4';
import { nameProblems } from '@wembrel/core/predict/required';
import type { Model } from '@wembrel/core/scene/model';
import { type Density, densityOf } from '@wembrel/core/survey/density';
import type { Totals } from '@wembrel/core/survey/figures';
import { tileCsv } from '@wembrel/core/tiles/tile-sheet';
import { pictureTasks } from '../pictures/picture-tasks.ts';
import type { JobScope } from '../pool/job-scope.ts';
import { reporter, stopwatch } from '../progress.ts';
import type { BakedSheet } from '../stages/bake.ts';
import { captureOriginal, compareModels, type WorstPictures } from '../stages/compare.ts';
import type { Cut } from '../stages/cut.ts';
import type { Repaired } from '../stages/mend.ts';
import { surveyFiles } from '../stages/read.ts';
import { Delivery } from '../write/delivery.ts';
import { validateGltf } from '../write/validate.ts';
import { jsonFile, TEXTURE_FOLDER, TextureFiles, writeModel } from '../write/write-models.ts';
import { type BakeRequest, bakePrepared, paddingOf, prepare } from './prepare.ts';

export interface MergeRequest extends BakeRequest {
  /** Side of the pictures that are compared, px; else as decided, for a proof half of it. */
  picture?: number;
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
    /** Width, px. */
    size: number;
    width: number;
    height: number;
    coverage: number;
    maps: Record<string, string>;
    protectedMip: number;
    scale: number;
  }[];
  keptApart: Manifest['keptApart'];
  /** What was done to faces, by model. */
  edited: { path: string; edits: FaceEditReport[] }[];
  /** What was mended on the way. */
  repaired: Repaired;
  /** What was cut at the repeats of its texture. */
  cut: Cut;
  /** Slots whose colour went into vertices. */
  coloured: number;
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
    const { width, height } = layout.sheets[t.sheet];
    const uv = Float64Array.from(t.uv, (v, i) => v * (i % 2 === 0 ? width : height));
    const corners = new Float64Array(6);
    for (const { world } of part.instances) {
      const k = Math.cbrt(Math.abs(determinant3(world))) ** 2;
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
export async function merge(request: MergeRequest, scope: JobScope): Promise<MergeResult> {
  const { decisions } = request;
  const report = reporter(request.onProgress);
  const { seconds, lap } = stopwatch(scope);

  const picture = request.picture ?? decisions.compareAt / (request.proof ? 2 : 1);
  let original: DrawScene | null = null;
  const prepared = await prepare(request, scope, lap, (found) => {
    original = captureOriginal(found, picture);
  });
  const { read, originals, repaired, cut, coloured, models, images, routing, layout, targets } = prepared;
  const { errors } = read.report;
  const padding = (s: number) => paddingOf(decisions, layout.sheets[s].margin);
  // A sheet that nothing goes to is neither baked nor written.
  const used = layout.sheets.flatMap((sheet, s) => (sheet.plots.length > 0 ? [s] : []));
  const baked = new Map<number, BakedSheet>();
  for (const s of used)
    baked.set(
      s,
      await bakePrepared(prepared, request, s, scope, (share, doing) =>
        report('bake', (baked.size + share) / used.length, doing),
      ),
    );
  lap('bake');

  const density = sheetDensity(models, targets, layout);
  const faults = layoutFaults(layout);

  const found = new Set(read.models.flatMap((m) => m.edited?.reports.map((r) => r.edit) ?? []));
  for (const e of decisions.faces.edits)
    if (!e.off && !found.has(e.id))
      faults.push({
        code: 'no faces',
        subject: e.groups.map((g) => decisions.faces.groups.find((x) => x.id === g)?.name ?? g).join(', '),
        message: `no model has faces that this change (${e.kind}) could find`,
      });
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
          decisions.sheets[s],
          bake,
          routing.materials.some((m) => m.sheet === s && m.look.occlusion),
          decisions.embed ? null : textures,
          scope,
        ),
      );
    for (let m = 0; m < models.length; m++) {
      scope.checkpoint();
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
      scope,
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
      original as unknown as DrawScene,
      originals,
      images,
      again.models.map((m) => m.model),
      again.images,
      scope,
      (share, doing) => report('compare', share, doing),
      picture,
    );
    lap('compare');

    for (const { name, message } of nameProblems(
      decisions,
      {
        slots: [...new Set(again.models.flatMap((m) => usedSlots(m.model)))],
        textures: delivery.list().flatMap((f) => (f.startsWith(`${TEXTURE_FOLDER}/`) ? [stem(f)] : [])),
      },
      !decisions.embed,
    ))
      faults.push({ code: 'required name', subject: name, message });

    const manifest = buildManifest({
      models,
      files: modelFiles,
      names: modelFiles.map((f) => stem(f)),
      routing,
      layout,
      decided: decisions.sheets,
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
        size: (baked.get(used[i]) as BakedSheet).maps.width,
        width: (baked.get(used[i]) as BakedSheet).maps.width,
        height: (baked.get(used[i]) as BakedSheet).maps.height,
        coverage: m.coverage,
        maps: m.maps,
        protectedMip: m.protectedMip,
        scale: m.scale,
      })),
      keptApart: manifest.keptApart,
      edited: read.models.flatMap(({ file, edited }) => (edited ? [{ path: file.name, edits: edited.reports }] : [])),
      repaired,
      cut,
      coloured,
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
    for (const sheet of manifest.sheets) {
      if (sheet.kind !== 'tile') continue;
      const tiles = tileTable(sheet);
      const { name, width, height, settings } = sheet;
      const table = { name, width, height, cell: settings.cell, tiles };
      await delivery.write(names.claim(`${name}_tiles`, '.json'), jsonFile(table));
      await delivery.write(names.claim(`${name}_tiles`, '.csv'), new TextEncoder().encode(tileCsv(tiles)));
    }
    await delivery.write('report.json', jsonFile(common));
    const written = delivery.list();
    scope.checkpoint();
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

/** Names of the slots that a model draws with. */
const usedSlots = (model: Model): string[] => [...new Set(model.parts.map((p) => model.slots[p.slot].name))];

export function mapPaths(s: SheetFiles): Record<string, string> {
  return Object.fromEntries(Object.entries(s.maps).flatMap(([kind, file]) => (file ? [[kind, file.uri]] : [])));
}

/** Encodes the maps of a sheet; with `textures` they become files, without they are only embedded. */
export async function writeSheet(
  decision: SheetDecision,
  sheet: BakedSheet,
  occlusion: boolean,
  textures: TextureFiles | null,
  scope: JobScope,
): Promise<SheetFiles> {
  const { maps, needs } = sheet;
  const { name } = decision;
  const put = async (map: SheetMap, data: Uint8Array, channels: 3 | 4): Promise<MapFile> => {
    const by = decision.maps[map] === 'off' ? 1 : (decision.maps[map] as number);
    const sense = map === 'normal' ? 'normal' : map === 'orm' ? 'data' : 'colour';
    const bytes = await scope.run(pictureTasks.png, {
      data,
      width: maps.width,
      height: maps.height,
      channels,
      by,
      sense,
    });
    const file = `${name}_${map}`;
    return { uri: textures ? await textures.add(file, bytes) : `${basename(file)}.png`, bytes };
  };
  const base = needs.alpha ? maps.baseColor : dropAlpha(maps.baseColor);
  const out: SheetFiles = {
    name,
    maps: { baseColor: await put('baseColor', base, needs.alpha ? 4 : 3) },
    emissiveStrength: maps.emissiveStrength,
    occlusion,
    factors: { roughness: 1, metallic: 1 },
    wraps: decision.kind === 'trim',
  };
  if (decision.maps.orm === 'off') out.factors = meanFactors(maps);
  else out.maps.orm = await put('orm', maps.orm, 3);
  if (maps.normal) out.maps.normal = await put('normal', maps.normal, 3);
  if (maps.emissive) out.maps.emissive = await put('emissive', maps.emissive, 3);
  return out;
}

/** What stands for the map of occlusion, roughness and metallic where it is left out: the means of what islands cover. */
function meanFactors({ orm, owner }: BakedSheet['maps']): SheetFiles['factors'] {
  let [n, roughness, metallic] = [0, 0, 0];
  for (let i = 0; i < owner.length; i++) {
    if (owner[i] === 0) continue;
    n++;
    roughness += orm[i * 3 + 1];
    metallic += orm[i * 3 + 2];
  }
  return n === 0
    ? { roughness: 1, metallic: 0 }
    : { roughness: round(roughness / n / 255), metallic: round(metallic / n / 255) };
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
