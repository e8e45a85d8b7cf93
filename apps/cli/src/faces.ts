import { MergeDecisions } from '@wembrel/core/decisions/decisions';
import { FaceDecisions } from '@wembrel/core/decisions/face-decisions';
import { groupFaces, partsForGroups } from '@wembrel/core/faces/group-faces';
import { merge as runMerge } from '@wembrel/runner/merge/merge';
import { collectModels } from '@wembrel/runner/read/collect';
import { readFiles } from '@wembrel/runner/stages/read';
import { z } from 'zod';
import { helpText, type OptionSpec, parse, UsageError } from './arguments.ts';
import { refused } from './failures.ts';
import { count, editLines, progressLine, table } from './output.ts';
import { facesFrom, READING, readingFrom } from './reading.ts';
import { jobScope, watchSignals } from './run.ts';

export const facesOptions: Record<string, OptionSpec> = {
  out: { type: 'string', value: 'DIR', help: 'folder for the changed models; without it parts and groups are listed' },
  embed: { type: 'boolean', help: 'put the textures inside each GLB' },
  ...READING,
};

const ABOUT = `Faces that are treated alike are a group; what is done to groups is done in order, to copies of the models. Without --out the
parts are listed by number, with how many of their faces are in groups. \`wembrel faces schema\` prints the schema of FILE:
groups name faces (model → number of a part → "0-11,15"), whole parts and whole slots; edits are of the kinds slot, swatch,
swatches, unwrap, project, strip, cells, move, relax, join, normals and tiles.`;

/** `wembrel faces`: lists what groups hold, or hands models over with their faces changed. */
export async function faces(args: string[]): Promise<number> {
  const { values, inputs } = parse(args, facesOptions);
  if (values.help) {
    process.stdout.write(
      helpText('wembrel faces INPUT… [--faces FILE] [--out DIR]', ABOUT, facesOptions, [
        'wembrel faces rails.glb',
        'wembrel faces rails.glb --faces strips.json --out mapped',
      ]),
    );
    return 0;
  }
  if (inputs.length === 1 && inputs[0] === 'schema') {
    process.stdout.write(`${JSON.stringify(z.toJSONSchema(FaceDecisions, { io: 'input' }), null, 2)}\n`);
    return 0;
  }
  if (inputs.length === 0) throw new UsageError('faces needs at least one file or folder');
  const wanted = await facesFrom(values);
  const { out } = values;
  if (typeof out === 'string' && wanted.edits.length === 0)
    throw new UsageError('faces --out needs --faces FILE with edits');
  const { files, textures, problems, close } = await collectModels(inputs);
  const early = problems.map((problem) => ({ path: problem.path, message: problem.reason }));
  const progress = progressLine(Boolean(values.quiet));
  const scope = jobScope(values);
  watchSignals(scope);
  const humanReport = (errors: readonly { path: string; message: string }[]) => {
    for (const error of errors) process.stderr.write(`${error.path}: ${error.message}\n`);
  };
  try {
    const reading = await readingFrom(values, [...files, ...textures]);
    if (typeof out !== 'string') {
      const read = await readFiles(files, scope, { textures, reading, keepBytes: 0, onProgress: progress.on });
      progress.end();
      const errors = [...early, ...read.report.errors];
      humanReport(errors);
      const listed = read.models.map(({ model }) => listedModel(model, wanted));
      process.stdout.write(values.json ? `${JSON.stringify({ models: listed, errors }, null, 2)}\n` : human(listed));
      return errors.length > 0 ? 1 : 0;
    }
    // How like the result is to the changed models is not told here: a small look is enough.
    const decisions = MergeDecisions.parse({
      compareAt: 256,
      keepAll: true,
      embed: Boolean(values.embed),
      reading,
      faces: wanted,
    });
    const { report } = await runMerge(
      { files, textures, out, decisions, strict: Boolean(values.strict), onProgress: progress.on },
      scope,
    );
    progress.end();
    const errors = [...early, ...report.errors];
    humanReport(errors);
    const { edited, written } = report;
    process.stdout.write(
      values.json
        ? `${JSON.stringify({ edited, written, errors }, null, 2)}\n`
        : `${[...editLines(edited), `${written.length} files written to ${out}`].join('\n')}\n`,
    );
    return errors.length > 0 || edited.some((m) => m.edits.some((edit) => edit.failed)) ? 1 : 0;
  } catch (error) {
    progress.end();
    return refused(error, early, Boolean(values.json));
  } finally {
    await scope.close();
    await close();
  }
}

type ListedModel = ReturnType<typeof listedModel>;

/** Parts of a model with how many faces each group has of them. */
function listedModel(model: Parameters<typeof partsForGroups>[0], decisions: FaceDecisions) {
  const seen = partsForGroups(model);
  const { ofPart, missing } = groupFaces(seen, decisions.groups);
  return {
    path: seen.path,
    parts: seen.parts.map((part, number) => ({
      number,
      ...part,
      groups: Object.fromEntries(
        decisions.groups.flatMap((group, i) => {
          const n = ofPart[number].reduce((sum, v) => sum + Number(v === i), 0);
          return n > 0 ? [[group.name, n]] : [];
        }),
      ),
      inNone: ofPart[number].reduce((sum, v) => sum + Number(v < 0), 0),
    })),
    missing,
  };
}

function human(models: readonly ListedModel[]): string {
  const rows = models.flatMap((model) =>
    model.parts.map((part) => [
      `${model.path}  ${part.number}`,
      part.name,
      part.slot,
      count(part.faces),
      Object.entries(part.groups)
        .map(([name, n]) => `${name} ${count(n)}`)
        .join(', ') || '–',
      count(part.inNone),
    ]),
  );
  const lines = [table([['part', 'name', 'slot', 'faces', 'groups', 'in none'], ...rows])];
  for (const model of models) lines.push(...model.missing);
  return `${lines.join('\n')}\n`;
}
