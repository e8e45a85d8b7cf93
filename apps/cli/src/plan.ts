import { readFile, rename, writeFile } from 'node:fs/promises';
import { type BudgetLine, LINE_TITLES, type overBudget } from '@wembrel/core/decisions/budget';
import { MergeDecisions } from '@wembrel/core/decisions/decisions';
import { PlanFile, planFileOf, planFileSchema, withPlanFile } from '@wembrel/core/decisions/plan-file';
import { routeSlots, weighSlots } from '@wembrel/core/decisions/routes';
import { APART } from '@wembrel/core/decisions/rules';
import { evenSheets, sheetSides } from '@wembrel/core/decisions/sheets';
import { withSearches } from '@wembrel/core/layout/planned-searches';
import type { PlanSlot } from '@wembrel/core/predict/plan-slot';
import { plannedName } from '@wembrel/core/predict/planned';
import type { Prediction } from '@wembrel/core/predict/predict';
import { overPlan } from '@wembrel/core/predict/propose/propose';
import { nameProblems, plannedNames } from '@wembrel/core/predict/required';
import { continueSearch } from '@wembrel/runner/plans/continue-search';
import { defaultPlan } from '@wembrel/runner/plans/default-plan';
import { type PlanBasis, packBasis, planBasis, predictBasis, proposeBasis } from '@wembrel/runner/plans/plan-basis';
import type { JobScope } from '@wembrel/runner/pool/job-scope';
import type { OnProgress } from '@wembrel/runner/progress';
import { collectModels } from '@wembrel/runner/read/collect';
import { stageContext } from '@wembrel/runner/stages/context';
import { helpText, type OptionSpec, parse, UsageError, type Values, whole } from './arguments.ts';
import { failed, refused } from './failures.ts';
import { apartLines, count, progressLine, size, table } from './output.ts';
import { budgetFrom, facesFrom, READING, readingFrom } from './reading.ts';
import { jobScope, watchSignals } from './run.ts';

export const planOptions: Record<string, OptionSpec> = {
  plan: { type: 'string', value: 'FILE', help: 'a plan file: what is predicted, or what a proposal starts from' },
  out: { type: 'string', value: 'FILE', help: 'where the proposed or tightened plan is written' },
  budget: { type: 'string', value: 'NAME|FILE', help: 'phone, headset, console, desktop, retro, or a JSON file' },
  sheets: { type: 'string', value: 'N', help: 'new sheets at most (default 4)' },
  'keep-sheets': { type: 'boolean', help: 'the sheets of the plan stay as they are; only routes are proposed' },
  'keep-apart': { type: 'string', multiple: true, value: 'SLOT', help: 'a slot that is not merged; repeatable' },
  weight: { type: 'string', multiple: true, value: 'SLOT=W', help: 'importance of a slot, 0.05 to 8; repeatable' },
  effort: { type: 'string', value: 'N', help: 'plans that are scored at most for more than 7 slots (default 3000)' },
  seconds: { type: 'string', value: 'N', help: 'tighten: how long each thread looks at a sheet (default 10)' },
  pack: { type: 'boolean', help: 'predict: pack the islands, so that coverage and density are measured' },
  ...READING,
};

const ABOUT = `propose   finds which slots share which sheet, of which size: budgets met first, then fewest draw calls, then the
          greatest lowest density, then least memory. Routes of the given plan stay.
predict   says what a plan will cost, before anything is baked; without --plan, that with which a merge would begin.
tighten   looks for tighter layouts of the sheets of a plan in all threads, and notes with each sheet how it is found again.
schema    prints the JSON Schema of a plan file.`;

/** `wembrel plan propose | predict | tighten | schema`. */
export async function plan(args: string[]): Promise<number> {
  const { values, inputs } = parse(args, planOptions);
  if (values.help || args.length === 0) {
    process.stdout.write(
      helpText('wembrel plan propose|predict|tighten|schema INPUT…', ABOUT, planOptions, [
        'wembrel plan propose stop.glb props/ --budget headset --out plan.json',
        'wembrel plan predict props/ --plan plan.json --pack --json',
        'wembrel plan tighten props/ --plan plan.json --seconds 60 --out plan.json',
        'wembrel merge props/ --plan plan.json --out merged',
      ]),
    );
    return 0;
  }
  const [what, ...files] = inputs;
  if (what === 'schema') {
    process.stdout.write(`${JSON.stringify(planFileSchema(), null, 2)}\n`);
    return 0;
  }
  if (what !== 'propose' && what !== 'predict' && what !== 'tighten')
    throw new UsageError(`plan takes propose, predict, tighten or schema, not "${what ?? ''}"`);
  if (files.length === 0) throw new UsageError(`plan ${what} needs at least one file or folder`);
  return run(what, files, values, await decisionsFrom(values));
}

async function run(
  what: 'propose' | 'predict' | 'tighten',
  inputs: string[],
  values: Values,
  asked: MergeDecisions,
): Promise<number> {
  let decisions = asked;
  const { files, textures, problems, close } = await collectModels(inputs);
  const errors = problems.map((problem) => ({ path: problem.path, message: problem.reason }));
  const progress = progressLine(Boolean(values.quiet));
  const scope = jobScope(values);
  watchSignals(scope);
  try {
    decisions.reading = await readingFrom(values, [...files, ...textures]);
    decisions.faces = await facesFrom(values);
    const basis = await planBasis({ files, textures, decisions }, scope, (p) =>
      progress.on({ ...p, share: Math.min(1, p.share * 6) }),
    );
    errors.push(...basis.read.report.errors);
    if (errors.length > 0 && values.strict) return failed(errors, Boolean(values.json), {});
    // As a merge does: without a plan, one is made for the files.
    if (what !== 'propose' && values.plan === undefined)
      decisions = await defaultPlan(basis, decisions, stageContext(scope, progress.on));
    const answer = await {
      propose: () => proposed(basis, decisions, scope, values),
      predict: () => predicted(basis, decisions, scope, values, progress.on),
      tighten: () => tightened(basis, decisions, scope, values, progress.on),
    }[what]();
    progress.end();
    for (const error of errors) process.stderr.write(`${error.path}: ${error.message}\n`);
    process.stdout.write(values.json ? `${JSON.stringify({ ...answer.document, errors }, null, 2)}\n` : answer.text);
    return errors.length > 0 ? 1 : 0;
  } catch (error) {
    progress.end();
    return refused(error, errors, Boolean(values.json), {});
  } finally {
    await scope.close();
    await close();
  }
}

interface Answer {
  document: Record<string, unknown>;
  text: string;
}

async function proposed(basis: PlanBasis, decisions: MergeDecisions, scope: JobScope, values: Values): Promise<Answer> {
  const proposal = proposeBasis(basis, decisions, scope, {
    sheets: whole(values, 'sheets', 4, 1, 16),
    keepSheets: Boolean(values['keep-sheets']),
    effort: whole(values, 'effort', 3000, 1, 1_000_000),
  });
  const file = planFileOf(proposal.decisions);
  if (typeof values.out === 'string') await writeWhole(values.out, `${JSON.stringify(file, null, 2)}\n`);
  const titles = new Map(decisions.planned.map((planned) => [plannedName(planned), planned.name]));
  const routes = proposal.routes.map((route) => ({ ...route, name: titles.get(route.name) ?? route.name }));
  const sheetName = (id: string) => proposal.decisions.sheets.find((sheet) => sheet.id === id)?.name ?? id;
  const lines = [
    figures(proposal.before, proposal.after, decisions),
    '',
    ...sheetLines(proposal.after, proposal.decisions),
    ...routes.map((route) => `${route.name} → ${sheetName(route.to)}: ${route.why}`),
    ...leftApart(basis.slots, proposal.after),
    ...proposal.reductions.map(
      (reduction) =>
        `reduce ${reduction.name} from ${count(reduction.from)} to ${count(reduction.to)} triangles, ${count(reduction.copies)} ×`,
    ),
    ...overLines(proposal.over),
    ...(proposal.inTheWay
      ? [
          `no plan meets the budget: ${LINE_TITLES[proposal.inTheWay.line]} is in the way, by ${proposal.inTheWay.by.toFixed(2)} × at the least`,
        ]
      : []),
    `${count(proposal.scored)} plans scored${proposal.exhaustive ? ', all that there are' : ''}`,
    ...(typeof values.out === 'string' ? [`plan written to ${values.out}`] : []),
  ];
  return {
    document: {
      plan: file,
      routes,
      before: predictionDocument(proposal.before, basis.slots, decisions),
      after: predictionDocument(proposal.after, basis.slots, proposal.decisions),
      reductions: proposal.reductions,
      overBudget: proposal.over,
      inTheWay: proposal.inTheWay,
      kept: proposal.kept,
      scored: proposal.scored,
      exhaustive: proposal.exhaustive,
    },
    text: `${lines.join('\n')}\n`,
  };
}

async function predicted(
  basis: PlanBasis,
  decisions: MergeDecisions,
  scope: JobScope,
  values: Values,
  progress: OnProgress,
): Promise<Answer> {
  const packed = values.pack ? await packBasis(basis, decisions, scope, progress) : [];
  const prediction = predictBasis(basis, decisions, packed);
  const over = overPlan(basis.slots, prediction, decisions, basis.sizes);
  const whole = prediction.flows.every((flow) => flow.sheet >= 0);
  const names = nameProblems(decisions, plannedNames(basis.slots, prediction, decisions), whole);
  const lines = [
    figures(null, prediction, decisions),
    '',
    ...sheetLines(prediction, decisions),
    ...leftApart(basis.slots, prediction),
    ...overLines(over),
    ...names.map((name) => name.message),
  ];
  return {
    document: {
      plan: planFileOf(decisions),
      prediction: predictionDocument(prediction, basis.slots, decisions),
      packed: Boolean(values.pack),
      nameProblems: names,
      overBudget: over,
    },
    text: `${lines.join('\n')}\n`,
  };
}

async function tightened(
  basis: PlanBasis,
  decisions: MergeDecisions,
  scope: JobScope,
  values: Values,
  progress: OnProgress,
): Promise<Answer> {
  const found = await continueSearch(basis, decisions, whole(values, 'seconds', 10, 1, 86_400), scope, progress);
  const sheets = withSearches(
    decisions.sheets,
    new Map(found.map((continuedSearch) => [continuedSearch.sheet, continuedSearch.search])),
  );
  const file = planFileOf({ ...decisions, sheets });
  if (typeof values.out === 'string') await writeWhole(values.out, `${JSON.stringify(file, null, 2)}\n`);
  const share = (v: number) => `${(v * 100).toFixed(1)} %`;
  const lines = [
    ...found.map(({ sheet, before, after, search }) => {
      const how = search ? `, round ${count(search.rounds)} with seed ${search.seed}` : '';
      return `${sheets[sheet].name}: ${share(after)} covered${after > before ? `, before ${share(before)}` : ''}${how}`;
    }),
    ...(found.length === 0 ? ['no sheet holds islands: nothing to look for'] : []),
    ...(typeof values.out === 'string' ? [`plan written to ${values.out}`] : []),
  ];
  return {
    document: { plan: file, sheets: found.map(({ sheet, ...f }) => ({ name: sheets[sheet].name, ...f })) },
    text: `${lines.join('\n')}\n`,
  };
}

/** Slots that `--keep-apart` names. */
export const keptApart = (values: Values): string[] => (values['keep-apart'] as string[] | undefined) ?? [];

/** Decisions from a plan file and options. @throws UsageError */
async function decisionsFrom(values: Values): Promise<MergeDecisions> {
  let decisions = MergeDecisions.parse({ sheets: evenSheets(1, 'sheet', 2048, 12) });
  if (typeof values.plan === 'string') decisions = withPlanFile(decisions, await readPlanFile(values.plan));
  if (values.budget !== undefined) decisions.budget = await budgetFrom(values);
  decisions.routes = routeSlots(decisions.routes, keptApart(values), APART);
  for (const pair of (values.weight as string[] | undefined) ?? []) {
    const at = pair.lastIndexOf('=');
    const w = Number(pair.slice(at + 1));
    if (at < 1 || !(w >= 0.05 && w <= 8))
      throw new UsageError(`--weight takes SLOT=W with W from 0.05 to 8, not "${pair}"`);
    decisions.weights = weighSlots(decisions.weights, [pair.slice(0, at)], w);
  }
  return decisions;
}

/** @throws UsageError that says what is wrong in it, and where */
export async function readPlanFile(file: string): Promise<PlanFile> {
  let value: unknown;
  try {
    value = JSON.parse(await readFile(file, 'utf8'));
  } catch (error) {
    throw new UsageError(`--plan ${file}: ${(error as Error).message.split('\n')[0]}`);
  }
  const parsed = PlanFile.safeParse(value);
  if (parsed.success) return parsed.data;
  const { path, message } = parsed.error.issues[0];
  throw new UsageError(`--plan ${file}: ${path.length > 0 ? `${path.join('.')}: ` : ''}${message}`);
}

async function writeWhole(file: string, text: string): Promise<void> {
  await writeFile(`${file}.partial`, text);
  await rename(`${file}.partial`, file);
}

function figures(before: Prediction | null, after: Prediction, decisions: MergeDecisions): string {
  const { format } = decisions.budget;
  const row = (title: string, of: (prediction: Prediction) => string) => [
    title,
    ...(before ? [of(before)] : []),
    of(after),
  ];
  const density = (prediction: Prediction) =>
    prediction.lowestDensity === null ? '–' : `${prediction.lowestDensity.toFixed(0)} px/m`;
  return table([
    ['', ...(before ? ['plan as it is', 'proposed'] : ['predicted'])],
    row('draw calls', (prediction) => count(prediction.drawCalls)),
    row('slots', (prediction) => count(prediction.slots)),
    row('textures', (prediction) => count(prediction.textures)),
    row(`texture memory (${format})`, (prediction) => size(prediction.bytes[format])),
    row('triangles', (prediction) => count(prediction.triangles)),
    row('GPU vertices', (prediction) => `≈ ${count(prediction.gpuVertices)}`),
    row('lowest density', density),
  ]);
}

function sheetLines(prediction: Prediction, decisions: MergeDecisions): string[] {
  return decisions.sheets.map((sheet, i) => {
    const predictedSheet = prediction.sheets[i];
    const [w, h] = sheetSides(sheet);
    return predictedSheet.slots === 0
      ? `${sheet.name}: nothing goes there`
      : `${sheet.name}: ${sheet.kind}, ${w} × ${h} px, ${predictedSheet.slots} slots, ${(predictedSheet.coverage * 100).toFixed(0)} % covered, ${(Math.min(1, predictedSheet.scale) * 100).toFixed(0)} % of the sharpness that is of use, ${predictedSheet.maps.length} maps`;
  });
}

const leftApart = (slots: PlanSlot[], prediction: Prediction): string[] =>
  apartLines(
    prediction.flows.flatMap((flow) => {
      const { name, path } = slots[flow.slot];
      return flow.sheet < 0 ? [{ slot: name, model: path, reason: flow.reason ?? '' }] : [];
    }),
  );

const overLines = (over: ReturnType<typeof overBudget>): string[] =>
  Object.entries(over).map(([line, by]) => `over budget: ${LINE_TITLES[line as BudgetLine]}, ${by.toFixed(2)} ×`);

/** A prediction as JSON: figures, sheets and every slot by its name. */
function predictionDocument(
  prediction: Prediction,
  slots: PlanSlot[],
  decisions: MergeDecisions,
): Record<string, unknown> {
  const titles = new Map(decisions.planned.map((planned) => [plannedName(planned), planned.name]));
  return {
    drawCalls: prediction.drawCalls,
    slots: prediction.slots,
    textures: prediction.textures,
    textureBytes: prediction.bytes,
    triangles: prediction.triangles,
    gpuVertices: prediction.gpuVertices,
    largestTexture: prediction.largestTexture,
    lowestDensity: prediction.lowestDensity,
    sheets: decisions.sheets.map((sheet, i) => {
      const { bytes, bays, ...f } = prediction.sheets[i];
      return {
        name: sheet.name,
        kind: sheet.kind,
        width: sheetSides(sheet)[0],
        height: sheetSides(sheet)[1],
        ...f,
        textureBytes: bytes,
      };
    }),
    flows: prediction.flows.map((flow) => ({
      model: slots[flow.slot].path,
      slot: titles.get(slots[flow.slot].name) ?? slots[flow.slot].name,
      planned: titles.has(slots[flow.slot].name),
      sheet: flow.sheet < 0 ? null : decisions.sheets[flow.sheet].name,
      by: flow.by,
      sharpness: flow.sharpness,
      density: flow.density,
      code: flow.code,
      reason: flow.reason,
    })),
  };
}
