import { readFile, rename, rm, stat, writeFile } from 'node:fs/promises';
import { join } from 'node:path';
import type { SheetMaps } from '@wembrel/core/bake/transfer';
import type { SheetDecision } from '@wembrel/core/decisions/sheets';
import { parseGlb } from '@wembrel/core/formats/gltf/glb';
import type { Layout } from '@wembrel/core/layout/layout';
import { outlineOf } from '@wembrel/core/layout/outline';
import { placePoint } from '@wembrel/core/layout/place';
import { bakeOne } from '@wembrel/runner/merge/bake-one';
import { merge } from '@wembrel/runner/merge/merge';
import type { MergeResult } from '@wembrel/runner/merge/request';
import { encodePng } from '@wembrel/runner/pictures/codec';
import type { JobScope } from '@wembrel/runner/pool/job-scope';
import type { OneSheetView, ResultView, SheetOutlines } from '../../../contract/project.ts';
import { type Emit, inputOf, type JobOrder } from '../job-message.ts';

function outlines(layout: Layout, names: Map<number, string>, sheets: SheetDecision[]): SheetOutlines[] {
  return layout.sheets
    .filter((sheet) => sheet.plots.length > 0)
    .map((sheet) => ({
      name: sheet.name,
      width: sheet.width,
      height: sheet.height,
      reserves: sheets.find((d) => d.name === sheet.name)?.reserves ?? [],
      margin: sheet.margin,
      plots: sheet.plots.map((plot) => ({
        id: plot.id,
        slot: names.get(plot.id) ?? '',
        material: plot.material,
        box: [plot.x, plot.y, plot.boxWidth, plot.boxHeight],
        stacked: plot.islands.length,
        path: outlineOf(plot, (x, y) => placePoint(plot, x + plot.originX, y + plot.originY)),
      })),
    }));
}

async function writePictures(order: JobOrder, result: MergeResult): Promise<void> {
  const { worst } = result;
  if (!worst) return;
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

  constructor(
    private readonly folder: string,
    private readonly emit: Emit,
  ) {}

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
      const file = join(this.folder, 'preview.png');
      await writeFile(`${file}.partial`, await encodePng(out, w, h, 4));
      await rename(`${file}.partial`, file);
      this.emit({ type: 'preview', sheet: this.sheet, count: ++this.count });
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

/** Writes what pages show of a delivery; once more, over the first, when it has been compared. */
async function writeResult(order: JobOrder, result: MergeResult): Promise<void> {
  const { report, manifest } = result;
  const out = deliveryOf(order);
  const names = new Map(manifest.sheets.flatMap((sheet) => sheet.bays.map((bay) => [bay.id, bay.slot] as const)));
  await writeFile(
    join(order.folder, 'layout.json'),
    JSON.stringify(outlines(result.layout, names, order.decisions.sheets)),
  );
  await writePictures(order, result);
  const sizes: Record<string, number> = {};
  for (const name of report.written) sizes[name] = (await stat(join(out, name))).size;
  const view: ResultView = {
    ...report,
    sizes,
    models: manifest.models.map((model, i) => ({ ...model, source: result.sources[i] })),
    uses: await texturesOf(
      out,
      manifest.models.map((model) => model.file),
    ),
  };
  const file = join(order.folder, 'result.json');
  await writeFile(`${file}.partial`, JSON.stringify(view));
  await rename(`${file}.partial`, file);
}

const deliveryOf = ({ folder }: JobOrder): string => join(folder, 'delivery');

/** Bakes and delivers a project, then compares it: pages have the delivery before. */
export async function mergeProject(order: JobOrder, scope: JobScope, emit: Emit): Promise<void> {
  const previews = new Previews(order.folder, emit);
  const result = await merge(
    {
      ...inputOf(order),
      recipePictures: order.textures,
      out: deliveryOf(order),
      proof: order.kind === 'proof',
      onProgress: (progress) => {
        if (progress.stage === 'handover') previews.end();
        emit({ type: 'progress', share: progress.share, doing: progress.doing });
      },
      onMaps: (sheet, maps) => previews.begin(sheet, maps),
      onDelivered: async (delivered) => {
        await rm(join(order.folder, 'preview.png'), { force: true });
        await writeResult(order, delivered);
        emit({ type: 'delivered' });
      },
    },
    scope,
  ).finally(() => previews.end());
  await writeResult(order, result);
}

/** One sheet alone: its maps and the outlines of its islands. */
export async function bakeSheetAlone(order: JobOrder, scope: JobScope, emit: Emit, id: string): Promise<void> {
  const { decisions } = order;
  const previews = new Previews(order.folder, emit);
  const out = deliveryOf(order);
  const result = await bakeOne(
    {
      ...inputOf(order),
      recipePictures: order.textures,
      out,
      proof: order.kind === 'proof',
      onProgress: (progress) =>
        emit({ type: 'progress', share: Math.min(1, progress.share * 1.4), doing: progress.doing }),
      onMaps: (sheet, maps) => previews.begin(sheet, maps),
    },
    id,
    scope,
  ).finally(() => previews.end());
  await rm(join(order.folder, 'preview.png'), { force: true });
  const names = new Map(result.layout.sheets[0].plots.map((plot) => [plot.id, result.slots[plot.material]]));
  await writeFile(join(order.folder, 'layout.json'), JSON.stringify(outlines(result.layout, names, decisions.sheets)));
  const sizes: Record<string, number> = {};
  for (const name of result.written) sizes[name] = (await stat(join(out, name))).size;
  const view: OneSheetView = { sheet: result.sheet, sizes, seconds: result.seconds };
  await writeFile(join(order.folder, 'sheet.json'), JSON.stringify(view));
}
