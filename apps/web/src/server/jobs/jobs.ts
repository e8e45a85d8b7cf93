import { randomUUID } from 'node:crypto';
import { mkdir, rm } from 'node:fs/promises';
import { type CancelFlag, newFlag, pause, paused, stop } from '@wembrel/runner/pool/cancel-flag';
import { MODEL } from '@wembrel/runner/read/endings';
import type { Kysely } from 'kysely';
import type { JobKind, JobState, ReadFileView, Region } from '../../contract/project.ts';
import { database, type Tables } from '../store/database.ts';
import { events } from '../store/events.ts';
import { log } from '../store/log.ts';
import { dataFolder, JOB_THREAD, jobFolder, POOL_WORKER } from '../store/paths.ts';
import { Problem } from '../store/problem.ts';
import { requireProject } from '../store/projects.ts';
import { filesStamp, stampOf, stampOver } from '../store/stamps.ts';
import { takeDefaultPlan } from './default-plan.ts';
import { markUsed, tidy } from './disk.ts';
import type { JobOrder } from './job-message.ts';
import { type JobNews, type JobThread, WarmThread } from './job-threads.ts';
import { projectFiles } from './project-files.ts';
import { type ActiveJob, nextJob, waitingFor } from './queue.ts';

interface Running {
  cancel: CancelFlag;
  project: string;
  /** ms; moved on by what it spent waiting. */
  started: number;
  pausedAt: number | null;
  left: number | null;
  /** Its result is there, and it only goes on comparing. */
  delivered: boolean;
  /** What it turned out to be, where it said so. */
  became: JobKind | null;
  /** What a survey has read so far. */
  read: ReadFileView[];
  /** The thread that does it, once it has one. */
  thread: JobThread | null;
  /** Ends the thread if it does not stop by itself; null while nobody cancelled. */
  deadline: NodeJS.Timeout | null;
}

/** ms after which the thread of a cancelled job is ended, whatever it does. */
const PATIENCE = 2500;

const holder = globalThis as {
  wembrelJobs?: { running: Map<string, Running>; picking: Promise<void>; warm: WarmThread };
};
holder.wembrelJobs ??= { running: new Map(), picking: Promise.resolve(), warm: new WarmThread(JOB_THREAD) };
const state = holder.wembrelJobs;

/** Jobs that others wait for: a comparison holds up nobody. */
const runningJobs = (): ActiveJob[] =>
  [...state.running.values()]
    .filter((job) => !job.delivered)
    .map(({ project, cancel }) => ({ project, paused: paused(cancel) }));

/** Why a queued job of a project does not begin yet, in words. */
export const whyWaiting = (project: string): string => waitingFor(project, runningJobs());

/** Queues a job. The same kind that is already under way is stopped first, since its answer is no longer wanted. */
export async function startJob(
  projectId: string,
  kind: JobKind,
  sheet: string | null = null,
  region: Region = null,
): Promise<string> {
  const project = await requireProject(projectId);
  const db = await database();
  if (!Object.keys(project.state.sources).some(isModel))
    throw new Problem(400, 'the project holds no model yet; drop some first');
  const open = await db
    .selectFrom('job')
    .select(['id', 'sheet'])
    .where('project', '=', project.id)
    .where('kind', '=', kind)
    .where('state', 'in', ['queued', 'running'])
    .execute();
  // Stand-ins of several models may wait for each other.
  const replaced = ofOneModel(kind) ? open.filter((one) => one.sheet === sheet) : open;
  for (const j of replaced) await cancelJob(j.id);
  stopComparing(project.id);
  const id = randomUUID();
  await db
    .insertInto('job')
    .values({
      id,
      project: project.id,
      kind,
      sheet,
      region: region && JSON.stringify(region),
      state: 'queued',
      share: 0,
      doing: 'waiting',
      message: null,
      made_from: stampOf(project.state, kind),
      files_stamp: null,
      created: new Date().toISOString(),
      started: null,
      finished: null,
    })
    .execute();
  events.emit(project.id, { type: 'changed' });
  void pump();
  return id;
}

/** Jobs that are about the one model, or recipe, that they name. */
const ofOneModel = (kind: JobKind): boolean => kind.startsWith('stand-in') || kind.startsWith('recipe');

/** Has the files read again where the figures are not those of the present sources. */
export async function ensureSurvey(projectId: string | undefined): Promise<void> {
  const project = await requireProject(projectId);
  if (!Object.keys(project.state.sources).some(isModel)) return;
  const stamp = stampOf(project.state, 'survey');
  const db = await database();
  const known = await db
    .selectFrom('job')
    .select('id')
    .where('project', '=', project.id)
    .where('kind', '=', 'survey')
    .where('made_from', '=', stamp)
    .where('state', 'in', ['queued', 'running', 'done'])
    .executeTakeFirst();
  if (!known) await startJob(project.id, 'survey');
}

/** @returns whether the job runs */
function cancelRunning(id: string): boolean {
  const running = state.running.get(id);
  if (!running) return false;
  stop(running.cancel);
  running.deadline ??= setTimeout(() => running.thread?.end(), PATIENCE);
  return true;
}

/** Ends comparisons of a project, whose deliveries stay: what is asked for now needs the time more. */
function stopComparing(project: string): void {
  for (const [id, running] of state.running) if (running.project === project && running.delivered) cancelRunning(id);
}

/** Whether a job has delivered and is still comparing. */
export const isComparing = (id: string): boolean => state.running.get(id)?.delivered === true;

/** Cancels a job: one that does not stop by itself ends with its thread. */
export async function cancelJob(id: string): Promise<void> {
  if (cancelRunning(id)) return;
  const db = await database();
  const row = await db.selectFrom('job').selectAll().where('id', '=', id).executeTakeFirst();
  if (!row) throw new Problem(404, 'there is no such job');
  // It may have begun meanwhile.
  if (!cancelRunning(id) && row.state === 'queued') await finish(id, row.project, 'cancelled', null);
}

export const isPaused = (id: string): boolean => {
  const running = state.running.get(id);
  return running !== undefined && paused(running.cancel);
};

/** Seconds that a running job will still take; null while unknown. */
export const secondsLeft = (id: string): number | null => state.running.get(id)?.left ?? null;

/** What a running survey has read so far; empty where it is none. */
export const readSoFar = (id: string): ReadFileView[] => state.running.get(id)?.read ?? [];

/** Lets a running job wait, or go on. @throws Problem when it is not running */
export function pauseJob(id: string, on: boolean): void {
  const running = state.running.get(id);
  if (!running) throw new Problem(409, 'the job is not running');
  if (on) running.pausedAt ??= Date.now();
  else if (running.pausedAt !== null) {
    running.started += Date.now() - running.pausedAt;
    running.pausedAt = null;
  }
  pause(running.cancel, on);
  events.emit(running.project, { type: 'changed' });
  if (on) void pump();
}

/** Cancels all jobs of a project. */
export async function endJobs(project: string): Promise<void> {
  const db = await database();
  const open = await db
    .selectFrom('job')
    .select('id')
    .where('project', '=', project)
    .where('state', 'in', ['queued', 'running'])
    .execute();
  for (const job of open) await cancelJob(job.id);
}

/** Folder of a finished job. @throws Problem */
export async function finishedJob(
  id: string | undefined,
): Promise<{ id: string; project: string; folder: string; region: Region }> {
  const db = await database();
  const row = await db
    .selectFrom('job')
    .selectAll()
    .where('id', '=', id ?? '')
    .executeTakeFirst();
  if (!row) throw new Problem(404, 'there is no such job');
  if (row.state !== 'done') throw new Problem(409, 'the job is not finished');
  const region = row.region ? (JSON.parse(row.region) as Region) : null;
  await markUsed(row.id);
  return { id: row.id, project: row.project, folder: jobFolder(row.id), region };
}

function isModel(path: string): boolean {
  return MODEL.test(path);
}

async function finish(
  id: string,
  project: string,
  to: JobState,
  message: string | null,
  became: JobKind | null = null,
): Promise<void> {
  const db = await database();
  await db
    .updateTable('job')
    .set({
      state: to,
      message,
      finished: new Date().toISOString(),
      ...(to === 'done' ? { share: 1, doing: 'done' } : {}),
      ...(to === 'done' && became ? { kind: became } : {}),
    })
    .where('id', '=', id)
    .execute();
  events.emit(project, { type: 'job', id, state: to });
  if (to === 'done') tidy();
}

/** Begins all jobs that may begin now; one look after the other. */
function pump(): Promise<void> {
  state.picking = state.picking.then(beginJobs, beginJobs);
  return state.picking;
}

async function beginJobs(): Promise<void> {
  const db = await database();
  const queued = await db.selectFrom('job').selectAll().where('state', '=', 'queued').orderBy('sequence').execute();
  const left = queued.filter((job) => !state.running.has(job.id));
  for (let next = nextJob(left, runningJobs()); next; next = nextJob(left, runningJobs())) {
    left.splice(left.indexOf(next), 1);
    const region = next.region ? (JSON.parse(next.region) as Region) : null;
    void begin(next.id, next.project, { kind: next.kind, sheet: next.sheet, region });
  }
}

/** Runs a job from its beginning to its end, then looks for others. */
async function begin(id: string, project: string, request: JobRequest): Promise<void> {
  const running: Running = {
    cancel: newFlag(),
    project,
    started: Date.now(),
    pausedAt: null,
    left: null,
    delivered: false,
    became: null,
    read: [],
    thread: null,
    deadline: null,
  };
  state.running.set(id, running);
  try {
    await runJob(id, running, request);
  } catch (error) {
    log.error(error, 'job failed to start');
    await finish(id, project, 'failed', 'the job could not be started; the log says more');
  } finally {
    if (running.deadline) clearTimeout(running.deadline);
    state.running.delete(id);
    void pump();
  }
}

/** Folders of the last finished jobs of a kind, from which parts may be taken over. */
async function earlierFolders(projectId: string, kind: JobKind): Promise<string[]> {
  const db = await database();
  const rows = await db
    .selectFrom('job')
    .select('id')
    .where('project', '=', projectId)
    .where('kind', '=', kind)
    .where('state', '=', 'done')
    .orderBy('sequence', 'desc')
    .limit(12)
    .execute();
  return rows.map((row) => jobFolder(row.id));
}

type JobRequest = Pick<JobOrder, 'kind' | 'sheet' | 'region'>;
type ProjectRow = Awaited<ReturnType<typeof requireProject>>;

/** What the thread of a job is given: the project as it stands now, not as it was when the job was asked for. */
async function orderOf(id: string, project: ProjectRow, request: JobRequest, cancel: CancelFlag): Promise<JobOrder> {
  const { decisions } = project.state;
  const { models, textures, faces } = await projectFiles(project.state);
  return {
    ...request,
    folder: jobFolder(id),
    worker: POOL_WORKER,
    cache: dataFolder('cache'),
    files: models,
    textures,
    decisions: { ...decisions, faces },
    earlier: await earlierFolders(project.id, request.kind === 'ray-all' ? 'ray-final' : request.kind),
    filesStamp: filesStamp(project.state),
    sourcesStamp: stampOver(project.state.sources),
    cancel,
  };
}

async function runJob(id: string, running: Running, request: JobRequest): Promise<void> {
  const projectId = running.project;
  const db = await database();
  const project = await requireProject(projectId);
  const order = await orderOf(id, project, request, running.cancel);
  await mkdir(order.folder, { recursive: true });
  await db
    .updateTable('job')
    .set({
      state: 'running',
      doing: 'starting',
      started: new Date().toISOString(),
      // What it really reads: the project may have changed while the job was waiting.
      made_from: stampOf(project.state, request.kind),
      files_stamp: order.filesStamp,
    })
    .where('id', '=', id)
    .execute();
  events.emit(projectId, { type: 'changed' });
  running.started = Date.now();
  const thread = state.warm.take();
  running.thread = thread;
  const end = await thread.run(order, jobListener(id, running, db));
  running.thread = null;
  if (end.type === 'done') state.warm.keep(thread);
  else thread.end();
  if (running.delivered) {
    // However the comparison ended, the delivery is there.
    if (end.type === 'ended' && end.error) log.error(end.error, 'comparison ended unexpectedly');
    state.running.delete(id);
    events.emit(projectId, { type: 'job', id, state: 'done' });
    return;
  }
  if (end.type !== 'done') await rm(order.folder, { recursive: true, force: true });
  if (end.type === 'done' && request.kind === 'survey') await takeDefaultPlan(projectId, order.folder);
  if (end.type === 'ended' && running.deadline) await finish(id, projectId, 'cancelled', null);
  else if (end.type === 'ended') {
    if (end.error) log.error(end.error, 'job thread failed');
    await finish(id, projectId, 'failed', `the work ended unexpectedly${end.error ? '; the log says more' : ''}`);
  } else await finish(id, projectId, end.type, end.type === 'failed' ? end.message : null, running.became);
}

/** Passes on what a job reports, and stores its progress about once a second. */
function jobListener(id: string, running: Running, db: Kysely<Tables>): (message: JobNews) => void {
  let storedAt = 0;
  return (message) => {
    if (message.type === 'delivered') {
      running.delivered = true;
      void finish(id, running.project, 'done', null).then(() => pump());
      return;
    }
    if (message.type === 'became') {
      running.became = message.kind;
      return;
    }
    if (message.type === 'read') {
      running.read.push(message.file);
      events.emit(running.project, { type: 'read', id, file: message.file });
      return;
    }
    if (message.type === 'preview') {
      events.emit(running.project, { ...message, id });
      return;
    }
    const { share, doing } = message;
    const elapsed = (Date.now() - running.started) / 1000;
    running.left = share > 0.08 ? Math.round((elapsed / share) * (1 - share)) : null;
    events.emit(running.project, { type: 'progress', id, share, doing, left: running.left });
    if (running.delivered || Date.now() - storedAt < 1000) return;
    storedAt = Date.now();
    void db.updateTable('job').set({ share, doing }).where('id', '=', id).execute();
  };
}
