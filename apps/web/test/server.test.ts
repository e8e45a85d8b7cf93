import { mkdtempSync } from 'node:fs';
import { mkdir, readdir, writeFile } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { Readable } from 'node:stream';
import { routesFrom } from '@wembrel/core/decisions/routes';
import { sign } from '@wembrel/demo/broken';
import fc from 'fast-check';
import { beforeAll, describe, expect, test } from 'vitest';
import { runs } from '../../../packages/core/test/sampling.ts';
import type { MergeDecisions } from '../src/contract/project.ts';
import { refuse } from '../src/server/http/guard.ts';
import { guardParameter, sqliteDialect } from '../src/server/store/dialect.ts';

/** The server keeps its data where the environment says, so that is set before anything of it is loaded. */
const data = mkdtempSync(join(tmpdir(), 'wembrel-server-'));
process.env.WEMBREL_DATA = data;

describe('parameters for the database', () => {
  test('what would end the process is turned into what is safe, or refused', () => {
    expect(guardParameter(true)).toBe(1);
    expect(guardParameter(undefined)).toBe(null);
    expect(guardParameter(new Date(0))).toBe('1970-01-01T00:00:00.000Z');
    expect(Buffer.isBuffer(guardParameter(Uint8Array.of(1, 2)))).toBe(true);
    for (const bad of [Number.NaN, Number.POSITIVE_INFINITY, {}, [], () => 1, Symbol('x')])
      expect(() => guardParameter(bad)).toThrow(TypeError);
  });

  test('they go in and come out through the real driver', async () => {
    const { Kysely } = await import('kysely');
    const { dialect } = sqliteDialect(join(data, 'guard.db'));
    const db = new Kysely<{ t: { a: unknown; b: unknown } }>({ dialect });
    await db.schema.createTable('t').addColumn('a', 'integer').addColumn('b', 'blob').execute();
    await db
      .insertInto('t')
      .values({ a: true, b: Uint8Array.of(7, 8) })
      .execute();
    const [row] = await db.selectFrom('t').selectAll().execute();
    expect(row.a).toBe(1);
    expect([...new Uint8Array(row.b as ArrayBuffer)]).toEqual([7, 8]);
    await db.destroy();
  });
});

describe('who may talk to the server', () => {
  const ask = (method: string, headers: Record<string, string>) =>
    refuse({ method, headers: new Headers({ host: '127.0.0.1:4680', ...headers }) }, []);
  test('its own pages and plain reads', () => {
    expect(ask('GET', {})).toBe(null);
    expect(ask('POST', { origin: 'http://127.0.0.1:4680', 'sec-fetch-site': 'same-origin' })).toBe(null);
    expect(ask('PUT', {})).toBe(null);
  });
  test('not other pages, other ports or other names', () => {
    expect(ask('POST', { origin: 'http://127.0.0.1:9999' })).not.toBe(null);
    expect(ask('POST', { origin: 'null' })).not.toBe(null);
    expect(ask('POST', { 'sec-fetch-site': 'cross-site' })).not.toBe(null);
    expect(ask('GET', { host: 'wembrel.example' })).not.toBe(null);
  });
});

describe('projects', () => {
  let projects: typeof import('../src/server/store/projects.ts');
  let sources: typeof import('../src/server/store/sources.ts');
  let steps: typeof import('../src/server/store/steps.ts');
  let stamps: typeof import('../src/server/store/stamps.ts');
  beforeAll(async () => {
    projects = await import('../src/server/store/projects.ts');
    sources = await import('../src/server/store/sources.ts');
    steps = await import('../src/server/store/steps.ts');
    stamps = await import('../src/server/store/stamps.ts');
  });

  const change =
    (part: Partial<MergeDecisions>) => (projectState: import('../src/server/store/state.ts').ProjectState) => ({
      ...projectState,
      decisions: { ...projectState.decisions, ...part },
    });

  test('a change on an older version is refused with 409 and changes nothing', async () => {
    const id = await projects.createProject('stale');
    const version = await steps.changeProject(id, 1, 'one', change({ effort: 1 }));
    expect(version).toBe(2);
    await expect(steps.changeProject(id, 1, 'two', change({ effort: 2 }))).rejects.toMatchObject({ status: 409 });
    expect((await projects.requireProject(id)).state.decisions.effort).toBe(1);
  });

  test('of two changes on one version just one wins', async () => {
    const id = await projects.createProject('race');
    const both = await Promise.allSettled(
      [3, 4].map((effort) => steps.changeProject(id, 1, String(effort), change({ effort }))),
    );
    expect(both.filter((r) => r.status === 'fulfilled')).toHaveLength(1);
    expect((await projects.requireProject(id)).version).toBe(2);
  });

  test('any walk of changes, undos and redos ends where a simple list of states says', async () => {
    await fc.assert(
      fc.asyncProperty(
        fc.array(fc.oneof(fc.integer({ min: 0, max: 64 }), fc.constantFrom('undo' as const, 'redo' as const)), {
          maxLength: 14,
        }),
        async (walk) => {
          const id = await projects.createProject('walk');
          const states = [(await projects.requireProject(id)).state.decisions.effort];
          let at = 0;
          for (const act of walk) {
            const { version } = await projects.requireProject(id);
            if (typeof act === 'number') {
              await steps.changeProject(id, version, String(act), change({ effort: act }));
              if (act === states[at]) continue;
              states.length = at + 1;
              states.push(act);
              at++;
            } else {
              const next = at + (act === 'undo' ? -1 : 1);
              const work = steps.stepProject(id, version, act);
              if (next < 0 || next >= states.length) await expect(work).rejects.toMatchObject({ status: 409 });
              else {
                await work;
                at = next;
              }
            }
            expect((await projects.requireProject(id)).state.decisions.effort).toBe(states[at]);
          }
        },
      ),
      { numRuns: runs(25) },
    );
  });

  test('a result is fresh again after an undo, whatever order keys come in', async () => {
    const id = await projects.createProject('stamp');
    await steps.changeProject(id, null, 'a', change({ routes: routesFrom({ a: 'apart', b: 'apart' }) }));
    const before = stamps.stampOf((await projects.requireProject(id)).state, 'final');
    await steps.changeProject(id, null, 'b', change({ routes: routesFrom({ b: 'apart' }) }));
    const { version, state } = await projects.requireProject(id);
    expect(stamps.stampOf(state, 'final')).not.toBe(before);
    await steps.stepProject(id, version, 'undo');
    expect(stamps.stampOf((await projects.requireProject(id)).state, 'final')).toBe(before);
    await steps.changeProject(id, null, 'c', change({ routes: routesFrom({ b: 'apart', a: 'apart' }) }));
    expect(stamps.stampOf((await projects.requireProject(id)).state, 'final')).toBe(before);
  });

  test('how far away a thing is seen does not outdate a bake, a margin does not outdate the islands', async () => {
    const id = await projects.createProject('reads');
    const { state } = await projects.requireProject(id);
    const stamp = (part: Partial<MergeDecisions>, kind: 'final' | 'layout') =>
      stamps.stampOf({ ...state, decisions: { ...state.decisions, ...part } }, kind);
    expect(stamp({ viewDistance: 3 }, 'final')).toBe(stamp({}, 'final'));
    const thinner = state.decisions.sheets.map((sheet) => ({ ...sheet, margin: 2 }));
    expect(stamp({ sheets: thinner }, 'layout')).toBe(stamp({}, 'layout'));
    expect(stamp({ sheets: thinner }, 'final')).not.toBe(stamp({}, 'final'));
  });

  test('files are stored once by their contents, join in one step and leave with undo', async () => {
    const id = await projects.createProject('files');
    const glb = sign().glb();
    const stored = [
      ...(await sources.storeUpload('a.glb', Readable.from([glb]))),
      ...(await sources.storeUpload('folder/b.glb', Readable.from([glb.slice(0, 100), glb.slice(100)]))),
    ];
    expect(stored[0].hash).toBe(stored[1].hash);
    await sources.changeSources(id, stored, []);
    const { state, version } = await projects.requireProject(id);
    expect(Object.keys(state.sources).sort()).toEqual(['a.glb', 'folder/b.glb']);
    await steps.stepProject(id, version, 'undo');
    expect((await projects.requireProject(id)).state.sources).toEqual({});
    await expect(sources.changeSources(id, [{ path: 'x.glb', hash: 'f'.repeat(64) }], [])).rejects.toThrow(
      /not arrived/,
    );
    await expect(sources.changeSources(id, [{ path: '../x.glb', hash: stored[0].hash }], [])).rejects.toThrow(/usable/);
  });

  test('an upload that breaks off leaves nothing', async () => {
    const broken = new Readable({
      read() {
        this.push(Buffer.alloc(1000));
        this.destroy(new Error('connection lost'));
      },
    });
    await expect(sources.storeUpload('lost.glb', broken)).rejects.toThrow();
    expect(await readdir(join(data, 'incoming'))).toEqual([]);
  });

  test('deleted projects come back until the next start, then they and their folders are gone', async () => {
    const { openDatabase, clearDeleted } = await import('../src/server/store/database.ts');
    const { database } = await import('../src/server/store/database.ts');
    const keep = await projects.createProject('keep');
    const lose = await projects.createProject('lose');
    await projects.deleteProject(keep);
    await projects.restoreProject(keep);
    await projects.deleteProject(lose);
    await expect(projects.requireProject(lose)).rejects.toMatchObject({ status: 404 });
    const db = await database();
    const job = '00000000-0000-4000-8000-000000000001';
    await db
      .insertInto('job')
      .values({
        id: job,
        project: lose,
        kind: 'final',
        sheet: null,
        state: 'done',
        share: 1,
        doing: '',
        message: null,
        made_from: '',
        files_stamp: null,
        created: '',
        started: null,
        finished: null,
      })
      .execute();
    await mkdir(join(data, 'jobs', job), { recursive: true });
    await writeFile(join(data, 'jobs', job, 'result.json'), '{}');
    const again = await openDatabase(join(data, 'wembrel.db'));
    await clearDeleted(again.db);
    await again.close();
    await expect(projects.restoreProject(lose)).rejects.toMatchObject({ status: 404 });
    expect((await projects.requireProject(keep)).name).toBe('keep');
    expect(await readdir(join(data, 'jobs'))).not.toContain(job);
  });
});
