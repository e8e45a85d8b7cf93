import { mkdtemp, rm, writeFile } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { afterAll, beforeAll, expect, test } from 'vitest';
import type { JobMessage, JobOrder } from '../src/server/jobs/job-message.ts';
import { JobThread, WarmThread } from '../src/server/jobs/job-threads.ts';

/** A thread that says how many jobs it has had, and fails as its order's folder says. */
const THREAD = `
import { parentPort, threadId } from 'node:worker_threads';
let jobs = 0;
parentPort.on('message', ({ folder }) => {
  jobs++;
  if (folder === 'throw') throw new Error('broken');
  if (folder === 'exit') process.exit(3);
  parentPort.postMessage({ type: 'progress', share: 0.5, doing: threadId + ' ' + jobs });
  parentPort.postMessage(folder === 'fail' ? { type: 'failed', message: 'no' } : { type: 'done' });
});
`;

let folder: string;
let file: string;

beforeAll(async () => {
  folder = await mkdtemp(join(tmpdir(), 'wembrel-threads-'));
  file = join(folder, 'thread.mjs');
  await writeFile(file, THREAD);
});
afterAll(() => rm(folder, { recursive: true, force: true }));

async function run(thread: JobThread, what: string) {
  const heard: JobMessage[] = [];
  const end = await thread.run({ folder: what } as JobOrder, (otherMessage) => heard.push(otherMessage));
  return {
    end,
    doing: heard.map((jobMessage) => (jobMessage.type === 'progress' ? jobMessage.doing : jobMessage.type)),
  };
}

test('the thread that has done a job does the next one; after another end there is a new one', async () => {
  const warm = new WarmThread(file);
  const first = warm.take();
  const one = await run(first, 'a');
  expect(one.end).toEqual({ type: 'done' });
  warm.keep(first);
  const second = warm.take();
  expect(second).toBe(first);
  const two = await run(second, 'fail');
  expect(two.end).toEqual({ type: 'failed', message: 'no' });
  const [id] = one.doing[0].split(' ');
  expect([one.doing, two.doing]).toEqual([[`${id} 1`], [`${id} 2`]]);
  second.end();
  const third = warm.take();
  expect(third).not.toBe(first);
  expect((await run(third, 'a')).doing[0]).toMatch(/ 1$/);
  third.end();
});

test('a thread that breaks says so once, and is not taken again', async () => {
  const thread = new JobThread(file);
  const { end } = await run(thread, 'throw');
  expect(end).toMatchObject({ type: 'ended', error: { message: 'broken' } });
  const other = new JobThread(file);
  expect((await run(other, 'exit')).end).toEqual({ type: 'ended', error: null });
  expect([thread.alive, other.alive]).toEqual([false, false]);
  const warm = new WarmThread(file);
  warm.keep(other);
  const next = warm.take();
  expect(next).not.toBe(other);
  next.end();
});

test('of two threads that would wait one is ended', async () => {
  const warm = new WarmThread(file);
  const [jobThread, b] = [new JobThread(file), new JobThread(file)];
  await run(jobThread, 'a');
  await run(b, 'a');
  warm.keep(jobThread);
  warm.keep(b);
  await expect.poll(() => [jobThread.alive, b.alive]).toEqual([true, false]);
  warm.take().end();
});
