import { readFile } from 'node:fs/promises';
import { BUDGETS, Budget } from '@wembrel/core/decisions/budget';
import { FaceDecisions } from '@wembrel/core/decisions/face-decisions';
import { faceSetHash, faceTexts } from '@wembrel/core/decisions/face-sets';
import { ReadingDecisions, SourceOptions } from '@wembrel/core/decisions/reading';
import { sentence } from '@wembrel/core/errors';
import type { InputFile } from '@wembrel/runner/read/collect';
import type { z } from 'zod';
import { choice, type OptionSpec, UsageError, type Values } from './arguments.ts';

/** Options of how files are read, for every verb that reads any. */
export const READING: Record<string, OptionSpec> = {
  unit: { type: 'string', value: 'M', help: 'metres of one unit in OBJ, PLY and STL (default: 1, STL 0.001)' },
  up: { type: 'string', value: 'y|z', help: 'up axis of OBJ, PLY and STL (default: y, STL z)' },
  'source-normal-y': { type: 'string', value: 'up|down', help: 'direction of Y in the normal maps that are read' },
  gloss: { type: 'boolean', help: 'roughness maps that are read hold gloss' },
  reading: { type: 'string', value: 'FILE', help: 'JSON with options for each source and name patterns of textures' },
  faces: {
    type: 'string',
    value: 'FILE',
    help: 'JSON with face groups and what is done to them first; see `wembrel faces`',
  },
};

/** A document that an option names. @throws UsageError about the first thing that is wrong with it */
export async function jsonFile<T>(option: string, file: string, schema: z.ZodType<T>): Promise<T> {
  let value: unknown;
  try {
    value = JSON.parse(await readFile(file, 'utf8'));
  } catch (error) {
    const missing = (error as NodeJS.ErrnoException).code === 'ENOENT';
    throw new UsageError(`--${option} ${file}: ${missing ? 'there is no such file' : sentence(error)}`);
  }
  const parsed = schema.safeParse(value);
  if (parsed.success) return parsed.data;
  const { path, message } = innermost(parsed.error.issues[0]);
  throw new UsageError(`--${option} ${file}: ${path.join('.') || 'the file'}: ${message}`);
}

/** What is said where something is of none of several kinds. */
const NO_KIND = 'Invalid input';

/** What is wrong where something may be one of several kinds: what the kind that was meant has to say, the one that was read farthest. */
function innermost(issue: z.core.$ZodIssue): { path: PropertyKey[]; message: string } {
  // A sentence of its own says more than those of the kinds.
  if (issue.code !== 'invalid_union' || issue.message !== NO_KIND) return issue;
  const inner = issue.errors.flatMap((issues) => (issues.length > 0 ? [innermost(issues[0])] : []));
  const own = ({ message }: { message: string }) => Number(!/^(Invalid|Unrecognized|Too) /.test(message));
  const [meant] = inner.sort((a, b) => own(b) - own(a) || b.path.length - a.path.length);
  return meant && (meant.path.length > 0 || own(meant) > 0)
    ? { path: [...issue.path, ...meant.path], message: meant.message }
    : issue;
}

/** How the given files are to be read. @throws UsageError */
export async function readingFrom(values: Values, files: InputFile[]): Promise<ReadingDecisions> {
  const reading =
    typeof values.reading === 'string'
      ? await jsonFile('reading', values.reading, ReadingDecisions)
      : ReadingDecisions.parse({});
  const unit = values.unit === undefined ? null : Number(values.unit);
  const up = values.up === undefined ? null : choice(values, 'up', 'y', ['y', 'z']);
  const normalY = choice(values, 'source-normal-y', 'up', ['up', 'down']);
  if (unit === null && up === null && normalY === 'up' && !values.gloss) return reading;
  const parsed = SourceOptions.safeParse({ unit, up, normalY, gloss: Boolean(values.gloss) });
  if (!parsed.success) throw new UsageError(`--unit: ${parsed.error.issues[0].message}`);
  for (const file of files) reading.sources[file.name] ??= parsed.data;
  return reading;
}

/** Face groups and edits. @throws UsageError */
export async function facesFrom(values: Values): Promise<FaceDecisions> {
  if (typeof values.faces !== 'string') return FaceDecisions.parse({});
  const faces = await jsonFile('faces', values.faces, FaceDecisions);
  const kept = faceTexts(faces).find((text) => faceSetHash(text) !== null);
  if (kept)
    throw new UsageError(
      `--faces ${values.faces}: "${kept.slice(0, 15)}…" is known in a project only; faces are numbers and ranges here`,
    );
  return faces;
}

/** `phone`, `headset`, …, or a JSON file. @throws UsageError */
export async function budgetFrom(values: Values): Promise<Budget> {
  const v = values.budget;
  if (typeof v !== 'string') return Budget.parse({});
  if (Object.hasOwn(BUDGETS, v)) return BUDGETS[v as keyof typeof BUDGETS];
  if (/\.json$/i.test(v)) return jsonFile('budget', v, Budget);
  throw new UsageError(`--budget takes ${Object.keys(BUDGETS).join(', ')} or a JSON file, not "${v}"`);
}
