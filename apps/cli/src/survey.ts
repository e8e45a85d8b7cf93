import { writeFile } from 'node:fs/promises';
import { type BudgetLine, LINE_TITLES, overBudget } from '@wembrel/core/decisions/budget';
import { RayDecisions } from '@wembrel/core/decisions/ray-decisions';
import { surveyCsv } from '@wembrel/core/survey/csv';
import { measuredTotals } from '@wembrel/core/survey/measured';
import { collectModels } from '@wembrel/runner/read/collect';
import { type PileSurvey, surveyPile } from '@wembrel/runner/survey/pile';
import { writeSurveyReport } from '@wembrel/runner/survey/report';
import { helpText, type OptionSpec, parse, UsageError, whole } from './arguments.ts';
import { count, progressLine, size, table } from './output.ts';
import { budgetFrom, facesFrom, READING, readingFrom } from './reading.ts';
import { jobScope, watchSignals } from './run.ts';

export const surveyOptions: Record<string, OptionSpec> = {
  passes: { type: 'string', value: 'N', help: 'how often the renderer draws the scene (default 1)' },
  budget: { type: 'string', value: 'NAME|FILE', help: 'phone, headset, console, desktop, retro, or a JSON file' },
  gate: { type: 'boolean', help: 'exit code 3 where the budget is exceeded' },
  required: { type: 'string', multiple: true, value: 'NAME', help: 'a slot name that is required; * for any letters' },
  csv: { type: 'string', value: 'FILE', help: 'also write the models as a CSV table' },
  html: { type: 'string', value: 'FILE', help: 'also write the whole survey as one HTML page with pictures' },
  details: { type: 'boolean', help: 'with --json: every slot, texture and loose texture as well' },
  ...READING,
};

/** Exit code where a budget that is a gate is exceeded. */
const OVER_BUDGET = 3;

/** `wembrel survey`: what a pile of files costs, and what there is to mend. */
export async function survey(args: string[]): Promise<number> {
  const { values, inputs } = parse(args, surveyOptions);
  if (values.help) {
    process.stdout.write(
      helpText(
        'wembrel survey INPUT… [--json]',
        'Reads models (GLB, glTF, OBJ, PLY, STL; folders are searched, ZIPs unpacked) and says what they cost: draw calls, slots,\ntextures, memory, triangles (as drawn, every instance counted), points and GPU vertices (as stored); and what it found.',
        surveyOptions,
        [
          'wembrel survey props/',
          'wembrel survey stop.glb --json',
          'wembrel survey props/ --budget headset --html props.html',
          'wembrel survey props/ --budget phone --gate --quiet',
        ],
      ),
    );
    return 0;
  }
  if (inputs.length === 0) throw new UsageError('survey needs at least one file or folder');
  if (values.gate && values.budget === undefined) throw new UsageError('--gate needs --budget');
  const passes = whole(values, 'passes', 1, 1, 64);
  const budget = await budgetFrom(values);
  const requiredNames = (values.required as string[] | undefined) ?? [];
  const { files, textures, problems, close } = await collectModels(inputs);
  const progress = progressLine(Boolean(values.quiet));
  const scope = jobScope(values);
  watchSignals(scope);
  try {
    const reading = await readingFrom(values, [...files, ...textures]);
    const pile = await surveyPile(files, scope, {
      passes,
      textures,
      reading,
      faces: await facesFrom(values),
      decisions: { budget, requiredNames, rays: RayDecisions.parse({}) },
      onProgress: (p) => progress.on({ ...p, share: Math.min(1, p.share * 8) }),
    });
    const { report, details } = pile;
    if (typeof values.html === 'string') await writeSurveyReport(values.html, pile, budget, scope);
    if (typeof values.csv === 'string') await writeFile(values.csv, surveyCsv(report.files));
    progress.end();
    report.errors.unshift(...problems.map((problem) => ({ path: problem.path, message: problem.reason })));
    for (const error of report.errors) process.stderr.write(`${error.path}: ${error.message}\n`);
    const over = overBudget(budget, measuredTotals(report.totals, details, budget));
    const document = { ...report, overBudget: over, peakBytes: process.resourceUsage().maxRSS * 1024 };
    process.stdout.write(
      values.json
        ? `${JSON.stringify(values.details ? { ...document, details } : document, null, 2)}\n`
        : human(pile, over),
    );
    if (report.errors.length > 0) return 1;
    return values.gate && Object.keys(over).length > 0 ? OVER_BUDGET : 0;
  } finally {
    progress.end();
    await scope.close();
    await close();
  }
}

function human({ report, details }: PileSurvey, over: Record<string, number>): string {
  const rows = [['file', 'draw calls', 'slots', 'textures', 'memory (BC7)', 'triangles', 'GPU vertices']];
  for (const file of report.files)
    rows.push(
      file.ok
        ? [
            file.path,
            count(file.drawCalls),
            count(file.slots),
            count(file.textures),
            size(file.textureBytes?.bc7 ?? 0),
            count(file.triangles),
            count(file.gpuVertices),
          ]
        : [file.path, 'not read'],
    );
  const totals = report.totals;
  rows.push([
    'total',
    count(totals.drawCalls),
    count(totals.slots),
    count(totals.textures),
    size(totals.textureBytes.bc7),
    count(totals.triangles),
    count(totals.gpuVertices),
  ]);
  const lines = [table(rows)];
  for (const [line, by] of Object.entries(over))
    lines.push(`over budget: ${LINE_TITLES[line as BudgetLine]}, ${by.toFixed(2)} ×`);
  for (const looseTexture of details.loose)
    lines.push(
      looseTexture.reason === null
        ? `${looseTexture.path}: ${looseTexture.maps.join(', ')} of ${looseTexture.to.join('; ')}`
        : `${looseTexture.path}: not used: ${looseTexture.reason}`,
    );
  for (const finding of report.findings) {
    const saves = [
      finding.saves.drawCalls ? `${count(finding.saves.drawCalls)} draw calls` : '',
      finding.saves.bytes ? size(finding.saves.bytes) : '',
      finding.saves.triangles ? `${count(finding.saves.triangles)} triangles` : '',
      finding.saves.vertices ? `${count(finding.saves.vertices)} vertices` : '',
    ].filter(Boolean);
    lines.push(`${finding.code}: ${finding.message}${saves.length > 0 ? ` (saves ${saves.join(', ')})` : ''}`);
  }
  return `${lines.join('\n')}\n`;
}
