import { mkdtempSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import fc from 'fast-check';
import { describe, expect, test, vi } from 'vitest';
import { nextJob, waitingFor } from '../src/server/jobs/queue.ts';

const data = vi.hoisted(() => ({ folder: '', thread: '' }));
vi.mock('../src/server/store/paths.ts', async (original) => ({
  ...(await original<object>()),
  get JOB_THREAD() {
    return data.thread;
  },
}));

/** A thread that is done at once, or with `final` never again looks at anything. */
const THREAD = `import { parentPort } from 'node:worker_threads';
parentPort.on('message', (order) => {
  parentPort.postMessage({ type: 'progress', share: 0.5, doing: 'working' });
  if (order.kind === 'final') for (;;);
  if (order.kind === 'proof') {
    while (Atomics.load(order.cancel, 0) === 0) Atomics.wait(order.cancel, 0, 0, 20);
    parentPort.postMessage({ type: 'cancelled' });
  } else parentPort.postMessage({ type: 'done' });
});`;

describe('which job begins next', () => {
  const job = fc.record({ project: fc.constantFrom('a', 'b', 'c', 'd'), paused: fc.boolean() });
  const queued = fc.array(fc.record({ project: fc.constantFrom('a', 'b', 'c', 'd') }), { maxLength: 6 });

  test('one a project and two in all; the oldest that may; a paused one holds up nobody', () => {
    fc.assert(
      fc.property(queued, fc.array(job, { maxLength: 5 }), (waiting, running) => {
        const busy = running.filter((one) => !one.paused);
        const next = nextJob(waiting, running);
        const mayBegin = (project: string) => busy.length < 2 && !busy.some((one) => one.project === project);
        expect(next).toBe(waiting.find((one) => mayBegin(one.project)) ?? null);
        for (const { project } of waiting) expect(waitingFor(project, running) === 'waiting').toBe(mayBegin(project));
      }),
    );
  });
});

describe('jobs in threads', async () => {
  data.folder = mkdtempSync(join(tmpdir(), 'wembrel-queue-'));
  process.env.WEMBREL_DATA = data.folder;
  data.thread = join(data.folder, 'thread.mjs');
  writeFileSync(data.thread, THREAD);
  const projects = await import('../src/server/store/projects.ts');
  const steps = await import('../src/server/store/steps.ts');
  const jobs = await import('../src/server/jobs/jobs.ts');
  const { listJobs } = await import('../src/server/jobs/list-jobs.ts');

  const projectWithModel = async (name: string) => {
    const id = await projects.createProject(name);
    await steps.changeProject(id, null, 'add', (state) => ({
      ...state,
      sources: { 'a.glb': { hash: 'a'.repeat(64), bytes: 1 } },
    }));
    return id;
  };
  const jobOf = async (project: string, id: string) => (await listJobs(project, [])).find((job) => job.id === id);
  const becomes = (project: string, id: string, expected: object) =>
    vi.waitFor(async () => expect(await jobOf(project, id)).toMatchObject(expected), { timeout: 15_000, interval: 50 });

  test('of two projects run side by side; a third says why it waits, and begins when one is paused', async () => {
    const [a, b, c] = await Promise.all(['a', 'b', 'c'].map(projectWithModel));
    const [first, second] = [await jobs.startJob(a, 'proof'), await jobs.startJob(b, 'proof')];
    await becomes(a, first, { state: 'running' });
    await becomes(b, second, { state: 'running' });
    const third = await jobs.startJob(c, 'survey');
    const same = await jobs.startJob(a, 'survey');
    await becomes(c, third, { state: 'queued', doing: 'waiting for jobs of other projects' });
    await becomes(a, same, { state: 'queued', doing: 'waiting for another job of this project' });
    jobs.pauseJob(first, true);
    await becomes(c, third, { state: 'done' });
    await becomes(a, same, { state: 'done' });
    expect(await jobOf(a, first)).toMatchObject({ state: 'running', paused: true });
    await jobs.endJobs(a);
    await jobs.endJobs(b);
    await becomes(a, first, { state: 'cancelled' });
    await becomes(b, second, { state: 'cancelled' });
  });

  test('one that never looks up is cancelled with its thread, and the next one runs', async () => {
    const project = await projectWithModel('stubborn');
    const stubborn = await jobs.startJob(project, 'final');
    await becomes(project, stubborn, { state: 'running', doing: 'working' });
    await jobs.cancelJob(stubborn);
    await becomes(project, stubborn, { state: 'cancelled', message: null });
    const next = await jobs.startJob(project, 'survey');
    await becomes(project, next, { state: 'done' });
  });
});
