import { mkdtemp, rm, writeFile } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { MergeDecisions } from '@wembrel/core/decisions/decisions';
import { usedTextures } from '@wembrel/core/survey/figures';
import { buildFurniture } from '@wembrel/demo/furniture';
import { merge } from '@wembrel/runner/merge/merge';
import { pictureTasks } from '@wembrel/runner/pictures/picture-tasks';
import { JobScope } from '@wembrel/runner/pool/job-scope';
import { loadModel } from '@wembrel/runner/read/load';
import { workerFile } from '../run.ts';
import { type BenchRow, median, round } from './turns.ts';

/** The demo furniture from file to delivery, against decoding its pictures on all cores. */
export async function wholeBenches(): Promise<BenchRow[]> {
  const folder = await mkdtemp(join(tmpdir(), 'wembrel-bench-'));
  const scope = new JobScope(workerFile());
  try {
    const path = join(folder, 'stop-furniture.glb');
    await writeFile(path, buildFurniture());
    const file = { name: 'stop-furniture.glb', path };
    const pictures = usedTextures(await loadModel(file)).map((texture) => texture.getImage() as Uint8Array);
    const decode = () =>
      Promise.all(pictures.map((bytes) => scope.run(pictureTasks.decode, { keep: true, path: 'x', name: 'x', bytes })));
    const run = (proof: boolean) =>
      merge(
        {
          files: [file],
          out: join(folder, 'out'),
          decisions: MergeDecisions.parse({ routes: { ShelterGlass: 'apart' }, join: true }),
          proof,
        },
        scope,
      );
    await decode();
    const rows: BenchRow[] = [];
    for (const proof of [true, false]) {
      const ours: number[] = [];
      const reference: number[] = [];
      let stages = '';
      for (let i = 0; i < 3; i++) {
        let t = performance.now();
        const { report } = await run(proof);
        ours.push((performance.now() - t) / 1000);
        stages = Object.entries(report.seconds)
          .map(([k, v]) => `${k} ${v.toFixed(1)}`)
          .join(', ');
        t = performance.now();
        await decode();
        reference.push((performance.now() - t) / 1000);
      }
      rows.push({
        name: `demo furniture, ${proof ? 'proof' : 'final'}`,
        unit: 's',
        ours: round(median(ours)),
        reference: round(median(reference)),
        against: `decoding its ${pictures.length} pictures`,
        ratio: round(median(ours) / median(reference)),
        note: stages,
      });
    }
    return rows;
  } finally {
    await scope.close();
    await rm(folder, { recursive: true, force: true });
  }
}
