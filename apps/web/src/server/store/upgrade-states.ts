import { createHash } from 'node:crypto';
import { readFile } from 'node:fs/promises';
import { join } from 'node:path';
import { canonicalJson } from '@wembrel/core/canonical-json';
import { PLAN_KEYS } from '@wembrel/core/decisions/decisions';
import { type FaceDecisions, facesRead } from '@wembrel/core/decisions/face-decisions';
import fastJsonPatch, { type Operation } from 'fast-json-patch';
import type { Kysely } from 'kysely';
import { type JobKind, MergeDecisions } from '../../contract/project.ts';
import { withFaceReferences } from './face-sets.ts';
import { jobFolder } from './paths.ts';
import { withNewNames, withOldNames } from './renamed-fields.ts';
import { STAGE_OF, stampOf } from './stamps.ts';
import type { ProjectState } from './state.ts';

/*
 * Projects of before. The schema of decisions reads the old forms, and `withNewNames` old names, so that an old state is upgraded by reading it; the
 * steps, which are patches of old states, are made again from the states that they lead to.
 */

const { applyPatch, compare } = fastJsonPatch;

// biome-ignore lint/suspicious/noExplicitAny: a migration sees tables as they were
type OldTables = any;

interface OldState {
  decisions: Record<string, unknown>;
  sources: ProjectState['sources'];
}

interface OldStep {
  number: number;
  forward: string;
  inverse: string;
}

/** The stamp that results of a kind had when they were made from a state, which is also given as it is now. */
type StampThen = (kind: JobKind, old: OldState, now: ProjectState) => string;

/** Projects as they were before routes became lists, locked bays stood under their keys, and long selections of faces were kept apart. */
export async function upgradeLists(database: Kysely<unknown>): Promise<void> {
  await upgradeStates(database as Kysely<OldTables>, (kind, old) => stampOfLists(old, kind));
  await fillFilesStamps(database as Kysely<OldTables>);
}

/** Projects as they were before some fields had the names of today. */
export async function upgradeNames(database: Kysely<unknown>): Promise<void> {
  // Stages read these fields whole: their names count in the text alone. Fields that came later had their defaults then too.
  await upgradeStates(database as Kysely<OldTables>, (kind, _, { sources, decisions }) =>
    stampOf({ sources, decisions: withOldNames(decisions) as MergeDecisions }, kind),
  );
}

/** Upgrades all projects with their steps, and the stamps of results that were made from them. */
async function upgradeStates(db: Kysely<OldTables>, stampThen: StampThen): Promise<void> {
  for (const { id, state, position } of await db.selectFrom('project').select(['id', 'state', 'position']).execute()) {
    const steps = await db.selectFrom('step').selectAll().where('project', '=', id).orderBy('number').execute();
    const upgraded = await upgradeProject(JSON.parse(state), position, steps as OldStep[], stampThen);
    await db
      .updateTable('project')
      .set({ state: JSON.stringify(upgraded.state) })
      .where('id', '=', id)
      .execute();
    // Undo goes as far as the steps could be made again.
    await db.deleteFrom('step').where('project', '=', id).execute();
    for (const { number, forward, inverse } of upgraded.steps) {
      const { label, created } = steps.find((step) => step.number === number) as { label: string; created: string };
      await db.insertInto('step').values({ project: id, number, label, created, forward, inverse }).execute();
    }
    for (const [kind, stamps] of upgraded.stamps)
      for (const [before, after] of stamps)
        await db
          .updateTable('job')
          .set({ made_from: after })
          .where('project', '=', id)
          .where('kind', '=', kind)
          .where('made_from', '=', before)
          .execute();
  }
}

type Stamps = Map<JobKind, Map<string, string>>;

/** A project's present state and the steps that lead to and from it, upgraded. */
async function upgradeProject(
  present: OldState,
  position: number,
  steps: readonly OldStep[],
  stampThen: StampThen,
): Promise<{ state: ProjectState; steps: OldStep[]; stamps: Stamps }> {
  const stamps: Stamps = new Map();
  const upgrade = async (old: OldState): Promise<ProjectState> => {
    const decisions = MergeDecisions.parse(withNewNames(old.decisions));
    const state = {
      sources: old.sources,
      decisions: { ...decisions, faces: await withFaceReferences(decisions.faces) },
    };
    noteStamps(stamps, state, (kind) => stampThen(kind, old, state));
    return state;
  };
  const state = await upgrade(present);
  const out: OldStep[] = [];
  const walk = async (numbers: number[], way: 'forward' | 'inverse') => {
    let [old, now] = [present, state];
    for (const number of numbers) {
      const step = steps.find((step) => step.number === number);
      if (!step) return;
      const next = applyPatch(old, JSON.parse(step[way]) as Operation[], false, false).newDocument;
      const nextNow = await upgrade(next);
      const [from, to] = way === 'forward' ? [now, nextNow] : [nextNow, now];
      out.push({ number, forward: JSON.stringify(compare(from, to)), inverse: JSON.stringify(compare(to, from)) });
      [old, now] = [next, nextNow];
    }
  };
  const last = Math.max(position, ...steps.map((step) => step.number));
  const behind = Array.from({ length: position }, (_, i) => position - i);
  const ahead = Array.from({ length: last - position }, (_, i) => position + 1 + i);
  await walk(behind, 'inverse').catch(() => {});
  await walk(ahead, 'forward').catch(() => {});
  return { state, steps: out, stamps };
}

function noteStamps(stamps: Stamps, state: ProjectState, before: (kind: JobKind) => string): void {
  for (const kind of Object.keys(STAGE_OF) as JobKind[]) {
    const own = stamps.get(kind) ?? new Map<string, string>();
    own.set(before(kind), stampOf(state, kind));
    stamps.set(kind, own);
  }
}

/** The stamp before routes were lists. */
function stampOfLists({ decisions, sources }: OldState, kind: JobKind): string {
  const hash = createHash('sha256');
  for (const path of Object.keys(sources).sort()) hash.update(`${path}\0${sources[path].hash}\n`);
  hash.update(canonicalJson(oldRead(decisions, kind)));
  return hash.digest('hex').slice(0, 24);
}

const pick = (d: Record<string, unknown>, keys: readonly string[]) => Object.fromEntries(keys.map((k) => [k, d[k]]));

/** What a kind of job read then. */
function oldRead(d: Record<string, unknown>, kind: JobKind): unknown {
  const common = { reading: d.reading, faces: facesRead(d.faces as FaceDecisions) };
  switch (STAGE_OF[kind]) {
    case 'survey':
      return common;
    case 'rays':
      return { ...common, rays: d.rays };
    case 'light':
      return { ...common, light: d.light };
    case 'layout': {
      const sheets = (d.sheets as Record<string, unknown>[]).map((sheet) =>
        pick(sheet, ['id', 'kind', 'size', 'height']),
      );
      const plan = ['routes', 'rules', 'weights', 'bakeRepeats', 'cutRepeats', 'keepTurn', 'vertexColours'];
      return { ...common, ...pick(d, ['repairs', ...plan, 'maxRepeats', 'keepAll']), sheets };
    }
    default:
      return {
        ...pick(d, PLAN_KEYS),
        ...common,
        ...pick(d, ['repairs', 'requiredNames', 'requiredTextures', 'compareAt']),
      };
  }
}

/** Surveys say which files they read; it stood in their folders alone. */
async function fillFilesStamps(db: Kysely<OldTables>): Promise<void> {
  const surveys = await db
    .selectFrom('job')
    .select('id')
    .where('kind', '=', 'survey')
    .where('state', '=', 'done')
    .execute();
  for (const { id } of surveys) {
    const text = await readFile(join(jobFolder(id), 'survey.json'), 'utf8').catch(() => null);
    if (text === null) continue;
    const { filesStamp } = JSON.parse(text) as { filesStamp?: string };
    await db
      .updateTable('job')
      .set({ files_stamp: filesStamp ?? null })
      .where('id', '=', id)
      .execute();
  }
}
