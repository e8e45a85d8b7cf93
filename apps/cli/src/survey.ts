import { Pool } from '@wembrel/runner/pool/pool';
import { collectModels } from '@wembrel/runner/read/collect';
import { type SurveyReport, surveyFiles } from '@wembrel/runner/survey';
import { helpText, type OptionSpec, parse, UsageError, whole } from './arguments.ts';
import { count, progressLine, size, table } from './output.ts';
import { threadsOf, watchSignals, workerFile } from './run.ts';

const OPTIONS: Record<string, OptionSpec> = {
  passes: { type: 'string', value: 'N', help: 'how often the renderer draws the scene (default 1)' },
};

/** `wembrel survey`: what a pile of files costs. */
export async function survey(args: string[]): Promise<number> {
  const { values, inputs } = parse(args, OPTIONS);
  if (values.help) {
    process.stdout.write(
      helpText(
        'wembrel survey INPUT… [--json]',
        'Reads models (GLB, glTF; folders are searched) and says what they cost: draw calls, slots, textures, memory,\ntriangles (as drawn, every instance counted), points and GPU vertices (as stored).',
        OPTIONS,
        ['wembrel survey props/', 'wembrel survey stop.glb --json'],
      ),
    );
    return 0;
  }
  if (inputs.length === 0) throw new UsageError('survey needs at least one file or folder');
  const passes = whole(values, 'passes', 1, 1, 64);
  const { files, problems, close } = await collectModels(inputs);
  const progress = progressLine(Boolean(values.quiet));
  const pool = new Pool(workerFile(), threadsOf(values));
  watchSignals(pool);
  try {
    const { report } = await surveyFiles(files, pool, { passes, onProgress: progress.on });
    progress.end();
    report.errors.unshift(...problems.map((p) => ({ path: p.path, message: p.reason })));
    for (const e of report.errors) process.stderr.write(`${e.path}: ${e.message}\n`);
    process.stdout.write(values.json ? `${JSON.stringify(report, null, 2)}\n` : human(report));
    return report.errors.length > 0 ? 1 : 0;
  } finally {
    progress.end();
    await pool.close();
    await close();
  }
}

function human(r: SurveyReport): string {
  const rows = [['file', 'draw calls', 'slots', 'textures', 'memory (BC7)', 'triangles', 'GPU vertices']];
  for (const f of r.files)
    rows.push(
      f.ok
        ? [
            f.path,
            count(f.drawCalls),
            count(f.slots),
            count(f.textures),
            size(f.textureBytes?.bc7 ?? 0),
            count(f.triangles),
            count(f.gpuVertices),
          ]
        : [f.path, 'not read'],
    );
  const t = r.totals;
  rows.push([
    'total',
    count(t.drawCalls),
    count(t.slots),
    count(t.textures),
    size(t.textureBytes.bc7),
    count(t.triangles),
    count(t.gpuVertices),
  ]);
  const lines = [table(rows)];
  for (const f of r.findings)
    lines.push(`${f.code}: ${f.message}${f.saves.bytes ? ` (${size(f.saves.bytes)} as RGBA8)` : ''}`);
  return `${lines.join('\n')}\n`;
}
