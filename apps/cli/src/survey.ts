import { writeFile } from 'node:fs/promises';
import { type BudgetLine, LINE_TITLES, overBudget } from '@wembrel/core/decisions/budget';
import { surveyCsv } from '@wembrel/core/survey/csv';
import { measuredTotals } from '@wembrel/core/survey/measured';
import { JobScope } from '@wembrel/runner/pool/job-scope';
import { collectModels } from '@wembrel/runner/read/collect';
import { type PileSurvey, surveyPile } from '@wembrel/runner/survey/pile';
import { writeSurveyReport } from '@wembrel/runner/survey/report';
import { helpText, type OptionSpec, parse, UsageError, whole } from './arguments.ts';
import { count, progressLine, size, table } from './output.ts';
import { budgetFrom, facesFrom, READING, readingFrom } from './reading.ts';
import { threadsOf, watchSignals, workerFile } from './run.ts';

const OPTIONS: Record<string, OptionSpec> = {
  passes: { type: 'string', value: 'N', help: 'how often the renderer draws the scene (default 1)' },
  budget: { type: 'string', value: 'NAME|FILE', help: 'phone, headset, console, desktop, retro, or a JSON file' },
  required: { type: 'string', multiple: true, value: 'NAME', help: 'a slot name that is required; * for any letters' },
  csv: { type: 'string', value: 'FILE', help: 'also write the models as a CSV table' },
  html: { type: 'string', value: 'FILE', help: 'also write the whole survey as one HTML page with pictures' },
  details: { type: 'boolean', help: 'with --json: every slot, texture and loose texture as well' },
  ...READING,
};

/** `wembrel survey`: what a pile of files costs, and what there is to mend. */
export async function survey(args: string[]): Promise<number> {
  const { values, inputs } = parse(args, OPTIONS);
  if (values.help) {
    process.stdout.write(
      helpText(
        'wembrel survey INPUT… [--json]',
        'Reads models (GLB, glTF, OBJ, PLY, STL; folders are searched, ZIPs unpacked) and says what they cost: draw calls, slots,\ntextures, memory, triangles (as drawn, every instance counted), points and GPU vertices (as stored); and what it found.',
        OPTIONS,
        [
          'wembrel survey props/',
          'wembrel survey stop.glb --json',
          'wembrel survey props/ --budget headset --html props.html',
        ],
      ),
    );
    return 0;
  }
  if (inputs.length === 0) throw new UsageError('survey needs at least one file or folder');
  const passes = whole(values, 'passes', 1, 1, 64);
  const budget = await budgetFrom(values);
  const requiredNames = (values.required as string[] | undefined) ?? [];
  const { files, textures, problems, close } = await collectModels(inputs);
  const progress = progressLine(Boolean(values.quiet));
  const scope = new JobScope(workerFile(), threadsOf(values));
  watchSignals(scope);
  try {
    const reading = await readingFrom(values, [...files, ...textures]);
    const pile = await surveyPile(files, scope, {
      passes,
      textures,
      reading,
      faces: await facesFrom(values),
      decisions: { budget, requiredNames },
      onProgress: (p) => progress.on({ ...p, share: Math.min(1, p.share * 8) }),
    });
    const { report, details } = pile;
    if (typeof values.html === 'string') await writeSurveyReport(values.html, pile, budget, scope);
    if (typeof values.csv === 'string') await writeFile(values.csv, surveyCsv(report.files));
    progress.end();
    report.errors.unshift(...problems.map((p) => ({ path: p.path, message: p.reason })));
    for (const e of report.errors) process.stderr.write(`${e.path}: ${e.message}\n`);
    const over = overBudget(budget, measuredTotals(report.totals, details, budget));
    const document = { ...report, overBudget: over, peakBytes: process.resourceUsage().maxRSS * 1024 };
    process.stdout.write(
      values.json
        ? `${JSON.stringify(values.details ? { ...document, details } : document, null, 2)}\n`
        : human(pile, over),
    );
    return report.errors.length > 0 ? 1 : 0;
  } finally {
    progress.end();
    await scope.close();
    await close();
  }
}

function human({ report: r, details }: PileSurvey, over: Record<string, number>): string {
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
  for (const [line, by] of Object.entries(over))
    lines.push(`over budget: ${LINE_TITLES[line as BudgetLine]}, ${by.toFixed(2)} ×`);
  for (const l of details.loose)
    lines.push(
      l.reason === null ? `${l.path}: ${l.maps.join(', ')} of ${l.to.join('; ')}` : `${l.path}: not used: ${l.reason}`,
    );
  for (const f of r.findings) {
    const saves = [
      f.saves.drawCalls ? `${count(f.saves.drawCalls)} draw calls` : '',
      f.saves.bytes ? size(f.saves.bytes) : '',
      f.saves.triangles ? `${count(f.saves.triangles)} triangles` : '',
      f.saves.vertices ? `${count(f.saves.vertices)} vertices` : '',
    ].filter(Boolean);
    lines.push(`${f.code}: ${f.message}${saves.length > 0 ? ` (saves ${saves.join(', ')})` : ''}`);
  }
  return `${lines.join('\n')}\n`;
}
