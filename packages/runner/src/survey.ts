import { InputError } from '@wembrel/core/errors';
import type { Model } from '@wembrel/core/scene/model';
import { type FileFigures, fileFigures, type Totals, totals } from '@wembrel/core/survey/figures';
import type { TextureBytes } from '@wembrel/core/survey/texture-memory';
import { Images } from './images.ts';
import type { Pool } from './pool/pool.ts';
import type { OnProgress } from './progress.ts';
import { reporter } from './progress.ts';
import type { InputFile } from './read/collect.ts';
import { imageKey, loadModel } from './read/load.ts';

export interface FileReport {
  path: string;
  ok: boolean;
  error?: string;
  drawCalls: number;
  slots: number;
  triangles: number;
  gpuVertices: number;
  textures: number;
  textureBytes?: TextureBytes;
  /** Names of the slots in use, each with the triangles of its parts. */
  slotNames?: string[];
  notes?: string[];
}

/** The document of `wembrel survey --json`. */
export interface SurveyReport {
  files: FileReport[];
  totals: Totals;
  findings: Finding[];
  errors: { path: string; message: string }[];
}

export interface Finding {
  code: string;
  severity: 'info' | 'warning';
  subject: string;
  message: string;
  saves: { drawCalls?: number; bytes?: number; vertices?: number };
}

export interface ReadFiles {
  models: { model: Model; figures: FileFigures; file: InputFile }[];
  images: Images;
  report: SurveyReport;
}

/** Reads all files; a bad one is reported and the others go on. */
export async function surveyFiles(
  files: InputFile[],
  pool: Pool,
  options: { passes?: number; onProgress?: OnProgress } = {},
): Promise<ReadFiles> {
  const report = reporter(options.onProgress);
  const images = new Images(pool);
  const models: ReadFiles['models'] = [];
  const rows: FileReport[] = [];
  const errors: SurveyReport['errors'] = [];
  for (let i = 0; i < files.length; i++) {
    const file = files[i];
    pool.checkpoint();
    report('read', i / files.length, `reading ${file.name}`);
    try {
      const model = await loadModel(file);
      await images.add(model);
      const figures = fileFigures(model, images.facts, imageKey, options.passes ?? 1);
      models.push({ model, figures, file });
      const { drawCalls, slots, triangles, gpuVertices, textures, textureBytes } = figures;
      rows.push({
        path: file.name,
        ok: true,
        drawCalls,
        slots,
        triangles,
        gpuVertices,
        textures,
        textureBytes,
        slotNames: [...new Set(model.parts.map((p) => p.slot))].map((s) => model.slots[s].name),
        notes: model.notes,
      });
    } catch (error) {
      if (!(error instanceof InputError)) throw error;
      errors.push({ path: file.name, message: error.reason });
      rows.push({
        path: file.name,
        ok: false,
        error: error.reason,
        drawCalls: 0,
        slots: 0,
        triangles: 0,
        gpuVertices: 0,
        textures: 0,
      });
    }
  }
  const sums = totals(models, errors.length, images.facts, imageKey);
  return { models, images, report: { files: rows, totals: sums, findings: twinFindings(sums), errors } };
}

/** What twins alone would save; the other findings come with the survey view. */
function twinFindings(t: Totals): Finding[] {
  const out: Finding[] = [];
  if (t.distinctTextures < t.textures)
    out.push({
      code: 'twin-textures',
      severity: 'warning',
      subject: 'textures',
      message: `${t.textures - t.distinctTextures} of ${t.textures} textures are twins of another (same decoded pixels); sharing one copy saves their memory`,
      saves: { bytes: t.textureBytes.rgba8 - t.distinctTextureBytes.rgba8 },
    });
  if (t.distinctMaterials < t.materials)
    out.push({
      code: 'twin-materials',
      severity: 'info',
      subject: 'materials',
      message: `${t.materials - t.distinctMaterials} of ${t.materials} materials are twins of another (same parameters and textures)`,
      saves: {},
    });
  return out;
}
