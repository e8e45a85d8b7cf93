import { existsSync, mkdtempSync } from 'node:fs';
import { mkdir, readdir, utimes, writeFile } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { dirname, join } from 'node:path';
import { Readable } from 'node:stream';
import { sign } from '@wembrel/demo/broken';
import { beforeAll, describe, expect, test } from 'vitest';

const data = mkdtempSync(join(tmpdir(), 'wembrel-disk-'));
process.env.WEMBREL_DATA = data;

let projects: typeof import('../src/server/store/projects.ts');
let sources: typeof import('../src/server/store/sources.ts');
let disk: typeof import('../src/server/jobs/disk.ts');
let leftovers: typeof import('../src/server/store/leftovers.ts');
let blobs: typeof import('../src/server/store/blobs.ts');
let database: typeof import('../src/server/store/database.ts').database;
beforeAll(async () => {
  projects = await import('../src/server/store/projects.ts');
  sources = await import('../src/server/store/sources.ts');
  disk = await import('../src/server/jobs/disk.ts');
  leftovers = await import('../src/server/store/leftovers.ts');
  blobs = await import('../src/server/store/blobs.ts');
  ({ database } = await import('../src/server/store/database.ts'));
});

let count = 0;
/** A final of so many bytes that was last used so many hours ago. */
async function addResult(project: string, bytes: number, hours: number): Promise<string> {
  const id = `00000000-0000-4000-8000-${String(++count).padStart(12, '0')}`;
  const db = await database();
  const row = { kind: 'final', state: 'done', made_from: 'of another time' } as const;
  const empty = {
    sheet: null,
    share: 1,
    doing: 'done',
    message: null,
    files_stamp: null,
    started: null,
    finished: null,
  };
  await db
    .insertInto('job')
    .values({ id, project, created: '', ...row, ...empty })
    .execute();
  const folder = join(data, 'jobs', id, 'delivery');
  await mkdir(folder, { recursive: true });
  await writeFile(join(folder, 'a.png'), new Uint8Array(bytes));
  const used = new Date(Date.now() - hours * 3_600_000);
  await utimes(dirname(folder), used, used);
  return id;
}

describe('results on the disk', () => {
  test('beyond the bound those that nobody looked at for longest go, with their rows; the newest stays', async () => {
    const project = await projects.createProject('Disk');
    const [old, looked, middle, newest] = [
      await addResult(project, 4e7, 9),
      await addResult(project, 4e7, 99),
      await addResult(project, 4e7, 5),
      await addResult(project, 4e7, 50),
    ];
    expect(await disk.diskView()).toMatchObject({ results: 16e7, bound: 20e9 });
    await disk.markUsed(looked);
    await disk.setResultBound(1e8);
    expect(await disk.diskView()).toMatchObject({ results: 8e7, bound: 1e8 });
    const there = [old, looked, middle, newest].map((id) => existsSync(join(data, 'jobs', id)));
    expect(there).toEqual([false, true, false, true]);
    const db = await database();
    const rows = await db.selectFrom('job').select('id').execute();
    expect(rows.map(({ id }) => id).sort()).toEqual([looked, newest]);
  });
});

describe('leftovers', () => {
  const day = 24 * 3_600_000;
  const names = async (folder: string) =>
    (await readdir(join(data, folder), { recursive: true, withFileTypes: true })).filter((dirent) => dirent.isFile())
      .length;

  test('uploads that broke off and contents that no project names go after a day; sources stay, also those that undo brings back', async () => {
    const project = await projects.createProject('Leftovers');
    const glb = sign().glb();
    const stored = await sources.storeUpload('sign.glb', Readable.from([glb]));
    const db = await database();
    const named = JSON.stringify({ hash: stored[0].hash });
    await db
      .insertInto('step')
      .values({ project, number: 1, label: 'Take out', forward: '[]', inverse: named, created: '' })
      .execute();
    await blobs.storeBlob(Readable.from([new Uint8Array(9)]));
    await mkdir(join(data, 'incoming'), { recursive: true });
    await writeFile(join(data, 'incoming', 'broken'), 'half of a file');
    expect(await leftovers.clearLeftovers()).toBe(0);
    expect(await leftovers.clearLeftovers(Date.now() + 2 * day)).toBe(2);
    expect([await names('incoming'), await names('blobs')]).toEqual([0, 1]);
  });
});
