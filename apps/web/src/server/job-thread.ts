import { mkdir, stat, writeFile } from 'node:fs/promises';
import { join } from 'node:path';
import { parentPort, workerData } from 'node:worker_threads';
import { InputError, sentence } from '@wembrel/core/errors';
import type { MergeDecisions } from '@wembrel/core/plan/decisions';
import { type Layout, placePoint } from '@wembrel/core/uv/layout';
import { outlineOf } from '@wembrel/core/uv/outline';
import { encodePng } from '@wembrel/runner/codec';
import { type MergeResult, merge } from '@wembrel/runner/merge/merge';
import { Pool } from '@wembrel/runner/pool/pool';
import { gltfIo } from '@wembrel/runner/read/load';
import { surveyFiles } from '@wembrel/runner/survey';
import type { ResultView, SheetOutlines } from '../contract/project.ts';
import type { JobMessage, JobOrder } from './job-message.ts';

/** A job in its own thread, so that the server goes on answering. */

const order = workerData as JobOrder;
const tell = (m: JobMessage) => parentPort?.postMessage(m);

async function survey(pool: Pool): Promise<void> {
  const read = await surveyFiles(order.files, pool, {
    onProgress: (p) => tell({ type: 'progress', share: p.share * 10, doing: p.doing }),
  });
  const views = join(order.folder, 'views');
  await mkdir(views, { recursive: true });
  const io = await gltfIo();
  for (const { model, file } of read.models) {
    const index = order.files.indexOf(file);
    // The 3D view gets one self-contained file for each model.
    for (const e of model.document.getRoot().listExtensionsUsed())
      if (e.extensionName === 'EXT_meshopt_compression') e.dispose();
    const root = model.document.getRoot();
    const [first, ...others] = root.listBuffers();
    for (const a of root.listAccessors()) a.setBuffer(first);
    for (const b of others) b.dispose();
    await writeFile(join(views, `${index}.glb`), await io.writeBinary(model.document));
  }
  await writeFile(join(order.folder, 'survey.json'), JSON.stringify(read.report));
}

function outlines(layout: Layout, decisions: MergeDecisions, names: Map<number, string>): SheetOutlines[] {
  return layout.sheets.map((sheet) => ({
    name: sheet.name,
    size: sheet.size,
    margin: decisions.margin,
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

async function bake(pool: Pool, decisions: MergeDecisions): Promise<void> {
  const out = join(order.folder, 'delivery');
  const result = await merge(
    {
      files: order.files,
      out,
      decisions,
      proof: order.kind === 'proof',
      onProgress: (p) => tell({ type: 'progress', share: p.share, doing: p.doing }),
    },
    pool,
  );
  const { report, manifest } = result;
  const names = new Map(manifest.sheets.flatMap((s) => s.bays.map((b) => [b.id, b.slot] as const)));
  await writeFile(join(order.folder, 'layout.json'), JSON.stringify(outlines(result.layout, decisions, names)));
  await writePictures(result);
  const sizes: Record<string, number> = {};
  for (const name of report.written) sizes[name] = (await stat(join(out, name))).size;
  const view: ResultView = {
    ...report,
    sizes,
    models: manifest.models.map((m, i) => ({ ...m, source: result.sources[i] })),
  };
  await writeFile(join(order.folder, 'result.json'), JSON.stringify(view));
}

const pool = new Pool(order.worker, undefined, order.cancel);
try {
  if (order.kind === 'survey') await survey(pool);
  else await bake(pool, order.decisions as MergeDecisions);
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
