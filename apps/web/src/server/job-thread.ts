import { mkdir, readFile, rename, rm, stat, writeFile } from 'node:fs/promises';
import { join } from 'node:path';
import { parentPort, workerData } from 'node:worker_threads';
import type { SheetMaps } from '@wembrel/core/bake/transfer';
import { InputError, sentence } from '@wembrel/core/errors';
import { parseGlb } from '@wembrel/core/formats/gltf/glb';
import type { MergeDecisions } from '@wembrel/core/plan/decisions';
import type { SheetDecision } from '@wembrel/core/plan/sheets';
import type { Layout } from '@wembrel/core/uv/layout';
import { outlineOf } from '@wembrel/core/uv/outline';
import { placePoint } from '@wembrel/core/uv/place';
import { encodePng } from '@wembrel/runner/codec';
import { gatherPlots } from '@wembrel/runner/layout';
import { bakeOne } from '@wembrel/runner/merge/bake-one';
import { type MergeResult, merge } from '@wembrel/runner/merge/merge';
import { Pool } from '@wembrel/runner/pool/pool';
import type { Progress } from '@wembrel/runner/progress';
import { PREVIEW_TRIANGLES, reduceForPreview } from '@wembrel/runner/reduce';
import { surveyFiles } from '@wembrel/runner/survey';
import { modelPicture, surveyDetails } from '@wembrel/runner/survey-details';
import type { PlotIndex } from '../contract/plots.ts';
import type { OneSheetView, ResultView, SheetOutlines } from '../contract/project.ts';
import type { JobMessage, JobOrder } from './job-message.ts';
import { lightProject } from './light-job.ts';
import { bakeProjectRays, findProjectReaches } from './ray-job.ts';
import { writeView } from './write-view.ts';

/** Side of the small pictures of models, px. */
const THUMB = 256;

/** A job in its own thread, so that the server goes on answering. */

const order = workerData as JobOrder;
const tell = (m: JobMessage) => parentPort?.postMessage(m);

async function survey(pool: Pool): Promise<void> {
  const views = join(order.folder, 'views');
  await mkdir(views, { recursive: true });
  const onProgress = (p: Progress) => tell({ type: 'progress', share: p.share * 6, doing: p.doing });
  const read = await surveyFiles(order.files, pool, {
    textures: order.textures,
    reading: order.decisions.reading,
    faces: order.decisions.faces,
    // Edits are tried in the browser on what they begin with.
    beforeEdits: (model, file) => writeView(model.document, join(views, `${file}.source.glb`)),
    keepBytes: 0,
    onProgress,
  });
  for (const { model, file } of read.models)
    await writeView(model.document, join(views, `${order.files.indexOf(file)}.glb`));
  const details = await surveyDetails(read, order.files, pool, onProgress);
  const thumbs = join(order.folder, 'thumbs');
  await mkdir(thumbs, { recursive: true });
  const steps = details.pictures.length + read.models.length;
  let done = 0;
  const told = (doing: string) => tell({ type: 'progress', share: 0.8 + (0.2 * done++) / steps, doing });
  await Promise.all(
    [...new Set(details.pictures.map((p) => p.key))].map(async (key) => {
      const bytes = read.images.byPixels(key).stored;
      await writeFile(join(thumbs, `${key}.png`), await pool.run('thumbnail', { bytes, side: 96 }));
      told('small pictures of textures');
    }),
  );
  for (const [i, { model }] of read.models.entries()) {
    pool.checkpoint();
    told(`a small picture of ${model.path}`);
    const rgba = await modelPicture(model, read.images, pool, THUMB);
    await writeFile(join(thumbs, `model-${i}.png`), await encodePng(rgba, THUMB, THUMB, 4));
  }
  // Last, since reducing changes the documents.
  for (const [i, { model }] of read.models.entries()) {
    if (!details.models[i].reduced) continue;
    pool.checkpoint();
    told(`a reduced copy of ${model.path}`);
    const drawn = new Map(model.parts.map((p) => [p.primitive, p.instances.reduce((n, x) => n + x.copies, 0)]));
    await reduceForPreview(model.document, PREVIEW_TRIANGLES, (p) => drawn.get(p) ?? 0);
    await writeView(model.document, join(views, `${details.models[i].file}.reduced.glb`));
  }
  await writeFile(
    join(order.folder, 'survey.json'),
    JSON.stringify({ ...read.report, ...details, filesStamp: order.filesStamp }),
  );
}

function outlines(layout: Layout, names: Map<number, string>, sheets: SheetDecision[]): SheetOutlines[] {
  return layout.sheets
    .filter((s) => s.plots.length > 0)
    .map((sheet) => ({
      name: sheet.name,
      width: sheet.width,
      height: sheet.height,
      reserves: sheets.find((d) => d.name === sheet.name)?.reserves ?? [],
      margin: sheet.margin,
      plots: sheet.plots.map((p) => ({
        id: p.id,
        slot: names.get(p.id) ?? '',
        material: p.material,
        box: [p.x, p.y, p.boxWidth, p.boxHeight],
        stacked: p.islands.length,
        path: outlineOf(p, (x, y) => placePoint(p, x + p.originX, y + p.originY)),
      })),
    }));
}

async function writePictures(result: MergeResult): Promise<void> {
  const { worst } = result;
  for (const kind of ['original', 'result', 'difference'] as const)
    await writeFile(join(order.folder, `worst-${kind}.png`), await encodePng(worst[kind], worst.size, worst.size, 3));
}

/** Side of the pictures of a running bake, px. */
const PREVIEW = 512;

/** Every little while a reduced picture of what is baked so far. */
class Previews {
  private sheet = '';
  private maps: SheetMaps | null = null;
  private count = 0;
  private busy = false;
  private readonly timer = setInterval(() => void this.take(), 600);

  begin(sheet: string, maps: SheetMaps): void {
    this.sheet = sheet;
    this.maps = maps;
  }

  private async take(): Promise<void> {
    if (!this.maps || this.busy) return;
    this.busy = true;
    const { width, height, baseColor, owner } = this.maps;
    const step = Math.max(1, Math.floor(Math.max(width, height) / PREVIEW));
    const [w, h] = [Math.floor(width / step), Math.floor(height / step)];
    const out = new Uint8Array(w * h * 4);
    for (let y = 0; y < h; y++)
      for (let x = 0; x < w; x++) {
        const i = y * step * width + x * step;
        const o = (y * w + x) * 4;
        for (let c = 0; c < 3; c++) out[o + c] = baseColor[i * 4 + c];
        out[o + 3] = owner[i] === 0 ? 0 : 255;
      }
    try {
      const file = join(order.folder, 'preview.png');
      await writeFile(`${file}.partial`, await encodePng(out, w, h, 4));
      await rename(`${file}.partial`, file);
      tell({ type: 'preview', sheet: this.sheet, count: ++this.count });
    } finally {
      this.busy = false;
    }
  }

  end(): void {
    clearInterval(this.timer);
    this.maps = null;
  }
}

/** Textures that each delivered model names, by file. */
async function texturesOf(folder: string, files: string[]): Promise<Record<string, string[]>> {
  const out: Record<string, string[]> = {};
  for (const file of files) {
    const { json } = parseGlb(file, new Uint8Array(await readFile(join(folder, file))));
    const images = (json as { images?: { uri?: string }[] }).images ?? [];
    out[file] = images.flatMap((i) => (i.uri ? [decodeURIComponent(i.uri)] : []));
  }
  return out;
}

async function bake(pool: Pool, decisions: MergeDecisions): Promise<void> {
  const previews = new Previews();
  const out = join(order.folder, 'delivery');
  const result = await merge(
    {
      files: order.files,
      textures: order.textures,
      out,
      decisions,
      proof: order.kind === 'proof',
      onProgress: (p) => {
        if (p.stage === 'handover') previews.end();
        tell({ type: 'progress', share: p.share, doing: p.doing });
      },
      onMaps: (sheet, maps) => previews.begin(sheet, maps),
    },
    pool,
  ).finally(() => previews.end());
  await rm(join(order.folder, 'preview.png'), { force: true });
  const { report, manifest } = result;
  const names = new Map(manifest.sheets.flatMap((s) => s.bays.map((b) => [b.id, b.slot] as const)));
  await writeFile(join(order.folder, 'layout.json'), JSON.stringify(outlines(result.layout, names, decisions.sheets)));
  await writePictures(result);
  const sizes: Record<string, number> = {};
  for (const name of report.written) sizes[name] = (await stat(join(out, name))).size;
  const view: ResultView = {
    ...report,
    sizes,
    models: manifest.models.map((m, i) => ({ ...m, source: result.sources[i] })),
    uses: await texturesOf(
      out,
      manifest.models.map((m) => m.file),
    ),
  };
  await writeFile(join(order.folder, 'result.json'), JSON.stringify(view));
}

/** Islands before packing, for the worker in the browser. */
async function layout(pool: Pool, decisions: MergeDecisions): Promise<void> {
  const { routing, sheets } = await gatherPlots(
    order.files,
    decisions,
    pool,
    (p) => tell({ type: 'progress', share: p.share * 8, doing: p.doing }),
    order.textures,
  );
  let shapeAt = 0;
  let faceAt = 0;
  const shapes: Float64Array[] = [];
  const faces: Uint32Array[] = [];
  const index: PlotIndex = {
    sheets: sheets.map((plots) =>
      plots.map(({ shape, islands, shapeIsland: _, shapeTriangle: __, ...p }) => {
        shapes.push(shape);
        const first = shapeAt;
        shapeAt += shape.length / 6;
        return {
          ...p,
          slot: routing.materials[p.material].name,
          shape: [first, shape.length / 6],
          islands: islands.map(({ model, part, triangles }) => {
            faces.push(triangles);
            const from = faceAt;
            faceAt += triangles.length;
            return [model, part, from, triangles.length];
          }),
        };
      }),
    ),
  };
  const bytes = (list: (Float64Array | Uint32Array)[]) =>
    Buffer.concat(list.map((a) => Buffer.from(a.buffer, a.byteOffset, a.byteLength)));
  await writeFile(join(order.folder, 'shapes.bin'), bytes(shapes));
  await writeFile(join(order.folder, 'faces.bin'), bytes(faces));
  await writeFile(join(order.folder, 'plots.json'), JSON.stringify(index));
}

/** One sheet alone: its maps and the outlines of its islands. */
async function bakeSheetAlone(pool: Pool, decisions: MergeDecisions, id: string): Promise<void> {
  const previews = new Previews();
  const out = join(order.folder, 'delivery');
  const result = await bakeOne(
    {
      files: order.files,
      textures: order.textures,
      out,
      decisions,
      proof: order.kind === 'proof',
      onProgress: (p) => tell({ type: 'progress', share: Math.min(1, p.share * 1.4), doing: p.doing }),
      onMaps: (sheet, maps) => previews.begin(sheet, maps),
    },
    id,
    pool,
  ).finally(() => previews.end());
  await rm(join(order.folder, 'preview.png'), { force: true });
  const names = new Map(result.layout.sheets[0].plots.map((p) => [p.id, result.slots[p.material]]));
  await writeFile(join(order.folder, 'layout.json'), JSON.stringify(outlines(result.layout, names, decisions.sheets)));
  const sizes: Record<string, number> = {};
  for (const name of result.written) sizes[name] = (await stat(join(out, name))).size;
  const view: OneSheetView = { sheet: result.sheet, sizes, seconds: result.seconds };
  await writeFile(join(order.folder, 'sheet.json'), JSON.stringify(view));
}

const pool = new Pool(order.worker, undefined, order.cancel);
try {
  if (order.kind === 'survey') await survey(pool);
  else if (order.kind === 'layout') await layout(pool, order.decisions);
  else if (order.kind === 'ray-reaches') await findProjectReaches(order, pool, tell);
  else if (order.kind === 'ray-proof' || order.kind === 'ray-final') await bakeProjectRays(order, pool, tell);
  else if (order.kind === 'light') await lightProject(order, pool, tell);
  else if (order.sheet !== null) await bakeSheetAlone(pool, order.decisions, order.sheet);
  else await bake(pool, order.decisions);
  tell({ type: 'done' });
} catch (error) {
  if (pool.cancelled) tell({ type: 'cancelled' });
  else if (error instanceof InputError) tell({ type: 'failed', message: `${error.path}: ${error.reason}` });
  else {
    process.stderr.write(`${error instanceof Error ? error.stack : String(error)}\n`);
    tell({ type: 'failed', message: sentence(error) });
  }
} finally {
  await pool.close();
}
