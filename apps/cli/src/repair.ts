import { MergeDecisions } from '@wembrel/core/decisions/decisions';
import { isUnrepaired, type Repairs } from '@wembrel/core/decisions/repairs';
import { reductionsFor } from '@wembrel/core/predict/reduction';
import { merge as runMerge } from '@wembrel/runner/merge/merge';
import type { MergeReport } from '@wembrel/runner/merge/report';
import type { JobScope } from '@wembrel/runner/pool/job-scope';
import { collectModels } from '@wembrel/runner/read/collect';
import { surveyPile } from '@wembrel/runner/survey/pile';
import { helpText, type OptionSpec, parse, UsageError, type Values } from './arguments.ts';
import { COLLISION, collisionFrom } from './collide.ts';
import { refused } from './failures.ts';
import { COPIES, copiesFrom } from './model-copies.ts';
import { count, progressLine, size, table } from './output.ts';
import { facesFrom, READING, readingFrom } from './reading.ts';
import { jobScope, watchSignals } from './run.ts';

export const repairOptions: Record<string, OptionSpec> = {
  out: { type: 'string', value: 'DIR', help: 'folder for the results (needed)' },
  'share-duplicates': {
    type: 'boolean',
    help: 'identical textures and materials become one copy (the default when nothing is named)',
  },
  'share-near': { type: 'boolean', help: 'nearly identical textures become one copy as well; the sharper one stays' },
  'store-useful': { type: 'boolean', help: 'store textures at the size that they show' },
  'plain-values': { type: 'boolean', help: 'flat textures become plain values of their materials' },
  instances: { type: 'boolean', help: 'meshes with the same contents become instances of one' },
  'drop-faces': { type: 'boolean', help: 'leave out faces without area, and ones that are there twice' },
  'weld-normals': { type: 'boolean', help: 'make one vertex of those that differ by a normal turned less than 1°' },
  harden: {
    type: 'string',
    multiple: true,
    value: 'SLOT',
    help: 'normals of a slot made anew, hard at UV borders; repeatable',
  },
  normals: {
    type: 'string',
    multiple: true,
    value: 'SLOT=DEG',
    help: 'normals of a slot made anew, weighted by area, smooth where it bends by no more; repeatable',
  },
  'weld-uvs': {
    type: 'string',
    value: 'D',
    help: 'bring UVs of one place together that differ by no more, in UV units',
  },
  opaque: { type: 'string', multiple: true, value: 'SLOT', help: 'draw an alpha-blended slot opaque; repeatable' },
  reduce: {
    type: 'string',
    multiple: true,
    value: 'N|MESH=N',
    help: 'reduce all to N triangles together, the heaviest meshes most; or those of a name to N a copy; repeatable',
  },
  'same-names': { type: 'boolean', help: 'materials that look the same get one name in all models' },
  ...COPIES,
  ...COLLISION,
  join: { type: 'boolean', help: 'join parts of a model that share a slot' },
  embed: { type: 'boolean', help: 'put the textures inside each GLB' },
  ...READING,
};

/** `wembrel repair`: hands models over again with their own materials, mended. */
export async function repair(args: string[]): Promise<number> {
  const { values, inputs } = parse(args, repairOptions);
  if (values.help) {
    process.stdout.write(
      helpText(
        'wembrel repair INPUT… --out DIR',
        'Writes every model again with its own materials and UVs, mended as asked: identical textures become one file that all\nmodels name, and so on. Nothing is merged or baked. Sources are never written to.',
        repairOptions,
        [
          'wembrel repair signs/ --out pack --share-duplicates',
          'wembrel repair props/ --out lean --share-duplicates --store-useful --plain-values',
        ],
      ),
    );
    return 0;
  }
  if (inputs.length === 0) throw new UsageError('repair needs at least one file or folder');
  if (typeof values.out !== 'string' || values.out === '') throw new UsageError('repair needs --out DIR');
  const { files, textures, problems, close } = await collectModels(inputs);
  const progress = progressLine(Boolean(values.quiet));
  const scope = jobScope(values);
  watchSignals(scope);
  try {
    const reading = await readingFrom(values, [...files, ...textures]);
    const faces = await facesFrom(values);
    const found = await foundRepairs(values, files, textures, reading, scope);
    const decisions = MergeDecisions.parse({
      keepAll: true,
      join: Boolean(values.join),
      embed: Boolean(values.embed),
      sameNames: Boolean(values['same-names']),
      collision: collisionFrom(values),
      modelCopies: copiesFrom(values),
      reading,
      faces,
      repairs: { ...repairsFrom(values), ...found },
    });
    if (isUnrepaired(decisions.repairs) && faces.edits.length === 0) decisions.repairs.shareDuplicates = true;
    const { report } = await runMerge(
      { files, textures, out: values.out, decisions, strict: Boolean(values.strict), onProgress: progress.on },
      scope,
    );
    progress.end();
    report.errors.unshift(...problems.map((problem) => ({ path: problem.path, message: problem.reason })));
    for (const error of report.errors) process.stderr.write(`${error.path}: ${error.message}\n`);
    process.stdout.write(values.json ? `${JSON.stringify(report, null, 2)}\n` : `${reportTable(report, values.out)}\n`);
    return report.errors.length > 0 ? 1 : 0;
  } catch (error) {
    progress.end();
    const earlier = problems.map((problem) => ({ path: problem.path, message: problem.reason }));
    return refused(error, earlier, Boolean(values.json));
  } finally {
    await scope.close();
    await close();
  }
}

/** What the options ask for, without what is looked for in the files. @throws UsageError */
function repairsFrom(values: Values): Partial<Repairs> {
  return {
    shareDuplicates: Boolean(values['share-duplicates']),
    makeInstances: Boolean(values.instances),
    dropFaces: Boolean(values['drop-faces']),
    weldNormals: Boolean(values['weld-normals']),
    harden: (values.harden as string[] | undefined) ?? [],
    normals: normalsFrom(values),
    weldUvs: weldFrom(values),
    opaque: (values.opaque as string[] | undefined) ?? [],
    reduce: reductionsFrom(values),
  };
}

function reportTable({ before, after, repaired, written }: MergeReport, out: string): string {
  const figures = table([
    ['', 'before', 'after'],
    ['draw calls', count(before.drawCalls), count(after.drawCalls)],
    ['slots', count(before.slots), count(after.slots)],
    ['texture files', count(before.textures), count(after.distinctTextures)],
    ['texture memory (BC7)', size(before.textureBytes.bc7), size(after.textureBytes.bc7)],
    ['triangles', count(before.triangles), count(after.triangles)],
    ['GPU vertices', count(before.gpuVertices), count(after.gpuVertices)],
  ]);
  const done = Object.entries(repaired).flatMap(([what, n]) => (n > 0 ? [`${what}: ${n}`] : []));
  return [figures, done.join('\n'), `${written.length} files written to ${out}`].join('\n');
}

/** @throws UsageError */
function normalsFrom(values: Record<string, unknown>): Repairs['normals'] {
  return Object.fromEntries(
    ((values.normals as string[] | undefined) ?? []).map((pair) => {
      const at = pair.lastIndexOf('=');
      const n = Number(pair.slice(at + 1));
      if (at < 1 || !(n >= 0 && n <= 180)) throw new UsageError(`--normals takes SLOT=DEG, 0 to 180, not "${pair}"`);
      return [pair.slice(0, at), n];
    }),
  );
}

/** @throws UsageError */
function weldFrom(values: Record<string, unknown>): number | null {
  if (values['weld-uvs'] === undefined) return null;
  const d = Number(values['weld-uvs']);
  if (!(d > 0 && d <= 0.1)) throw new UsageError(`--weld-uvs takes a distance up to 0.1, not "${values['weld-uvs']}"`);
  return d;
}

const TOTAL = /^\d+$/;

/** Triangles that all may have together; null where nothing is said. @throws UsageError */
function totalFrom(values: Record<string, unknown>): number | null {
  const totals = ((values.reduce as string[] | undefined) ?? []).filter((text) => TOTAL.test(text));
  if (totals.length > 1) throw new UsageError('--reduce takes one total');
  return totals.length === 0 ? null : Number(totals[0]);
}

/** @throws UsageError */
function reductionsFrom(values: Record<string, unknown>): Repairs['reduce'] {
  const pairs = ((values.reduce as string[] | undefined) ?? []).filter((text) => !TOTAL.test(text));
  return Object.fromEntries(
    pairs.map((pair) => {
      const at = pair.lastIndexOf('=');
      const n = Number(pair.slice(at + 1));
      if (at < 1 || !Number.isInteger(n) || n < 1)
        throw new UsageError(`--reduce takes a total or MESH=N with a whole number of triangles, not "${pair}"`);
      return [pair.slice(0, at), n];
    }),
  );
}

type Collected = Awaited<ReturnType<typeof collectModels>>;

/** Repairs that name pictures come from the findings of a survey, and so do those that share out a total. @throws UsageError */
async function foundRepairs(
  values: Record<string, unknown>,
  files: Collected['files'],
  textures: Collected['textures'],
  reading: Awaited<ReturnType<typeof readingFrom>>,
  scope: JobScope,
): Promise<Partial<Repairs>> {
  const codes = new Set<string>();
  if (values['share-near']) codes.add('near-duplicate-textures');
  if (values['store-useful']) codes.add('oversized-texture');
  if (values['plain-values']) codes.add('flat-texture');
  const out: Partial<Repairs> = { shareNear: {}, storeAt: {}, flatToFactor: [] };
  const total = totalFrom(values);
  if (codes.size === 0 && total === null) return out;
  const { report, details } = await surveyPile(files, scope, { textures, reading });
  if (total !== null) {
    const reductions = reductionsFor(details.slots, total);
    if (!reductions)
      throw new UsageError(`--reduce ${total}: so few triangles cannot be reached, each mesh keeps some`);
    const shared = Object.fromEntries(reductions.map(({ name, to }) => [name, to]));
    out.reduce = { ...shared, ...reductionsFrom(values) };
  }
  for (const { code, action } of report.findings) {
    if (!codes.has(code) || action?.do !== 'repair') continue;
    out.shareNear = { ...out.shareNear, ...action.repairs.shareNear };
    out.storeAt = { ...out.storeAt, ...action.repairs.storeAt };
    out.flatToFactor?.push(...(action.repairs.flatToFactor ?? []));
  }
  return out;
}
