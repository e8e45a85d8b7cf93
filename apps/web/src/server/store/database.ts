import { rm } from 'node:fs/promises';
import { join } from 'node:path';
import { type Generated, Kysely, type Migration, Migrator } from 'kysely';
import type { JobKind, JobState } from '../../contract/project.ts';
import { sqliteDialect } from './dialect.ts';
import { dataFolder, jobFolder } from './paths.ts';
import { upgradeLists, upgradeNames } from './upgrade-states.ts';

export interface Tables {
  /** What holds for all projects, by name, as text. */
  setting: { key: string; value: string };
  project: {
    id: string;
    name: string;
    created: string;
    changed: string;
    /** Grows with every change, undo and redo too. */
    version: number;
    /** How many of its steps are applied. */
    position: number;
    /** JSON of decisions and sources. */
    state: string;
    deleted: string | null;
    /** Name of the folder that it follows. */
    watch: string | null;
  };
  /** One change, as JSON patches (RFC 6902) forward and back. */
  step: { project: string; number: number; label: string; forward: string; inverse: string; created: string };
  job: {
    id: string;
    project: string;
    kind: JobKind;
    sheet: string | null;
    /** JSON of `Region`. */
    region: string | null;
    state: JobState;
    share: number;
    doing: string;
    message: string | null;
    made_from: string;
    /** Of the files that it read; see `filesStamp`. */
    files_stamp: string | null;
    created: string;
    started: string | null;
    finished: string | null;
    sequence: Generated<number>;
  };
}

const MIGRATIONS = {
  '0001_start': {
    async up(db: Kysely<unknown>) {
      await db.schema
        .createTable('project')
        .addColumn('id', 'text', (column) => column.primaryKey())
        .addColumn('name', 'text', (column) => column.notNull())
        .addColumn('created', 'text', (column) => column.notNull())
        .addColumn('changed', 'text', (column) => column.notNull())
        .addColumn('version', 'integer', (column) => column.notNull())
        .addColumn('position', 'integer', (column) => column.notNull())
        .addColumn('state', 'text', (column) => column.notNull())
        .addColumn('deleted', 'text')
        .execute();
      await db.schema
        .createTable('step')
        .addColumn('project', 'text', (column) => column.notNull().references('project.id').onDelete('cascade'))
        .addColumn('number', 'integer', (column) => column.notNull())
        .addColumn('label', 'text', (column) => column.notNull())
        .addColumn('forward', 'text', (column) => column.notNull())
        .addColumn('inverse', 'text', (column) => column.notNull())
        .addColumn('created', 'text', (column) => column.notNull())
        .addPrimaryKeyConstraint('step_key', ['project', 'number'])
        .execute();
      await db.schema
        .createTable('job')
        .addColumn('sequence', 'integer', (column) => column.primaryKey().autoIncrement())
        .addColumn('id', 'text', (column) => column.notNull().unique())
        .addColumn('project', 'text', (column) => column.notNull().references('project.id').onDelete('cascade'))
        .addColumn('kind', 'text', (column) => column.notNull())
        .addColumn('sheet', 'text')
        .addColumn('state', 'text', (column) => column.notNull())
        .addColumn('share', 'real', (column) => column.notNull())
        .addColumn('doing', 'text', (column) => column.notNull())
        .addColumn('message', 'text')
        .addColumn('made_from', 'text', (column) => column.notNull())
        .addColumn('result', 'text')
        .addColumn('created', 'text', (column) => column.notNull())
        .addColumn('started', 'text')
        .addColumn('finished', 'text')
        .execute();
    },
  },
  '0002_watch': {
    async up(db: Kysely<unknown>) {
      await db.schema.alterTable('project').addColumn('watch', 'text').execute();
    },
  },
  '0003_region': {
    async up(db: Kysely<unknown>) {
      await db.schema.alterTable('job').addColumn('region', 'text').execute();
    },
  },
  '0004_lists': {
    async up(db: Kysely<unknown>) {
      await db.schema.alterTable('job').renameColumn('result', 'files_stamp').execute();
      await upgradeLists(db);
    },
  },
  '0005_settings': {
    async up(db: Kysely<unknown>) {
      await db.schema
        .createTable('setting')
        .addColumn('key', 'text', (column) => column.primaryKey())
        .addColumn('value', 'text', (column) => column.notNull())
        .execute();
    },
  },
  '0006_names': { up: upgradeNames },
} satisfies Record<string, Migration>;

/** Opens a database file and brings it up to date. @param upTo the last migration to run, for tests of the next one */
export async function openDatabase(
  file: string,
  upTo?: keyof typeof MIGRATIONS,
): Promise<{ db: Kysely<Tables>; close: () => Promise<void> }> {
  const { dialect } = sqliteDialect(file);
  const db = new Kysely<Tables>({ dialect });
  const migrator = new Migrator({ db, provider: { getMigrations: async () => MIGRATIONS } });
  const { error } = await (upTo === undefined ? migrator.migrateToLatest() : migrator.migrateTo(upTo));
  if (error) throw error;
  return { db, close: () => db.destroy() };
}

const holder = globalThis as { wembrelDatabase?: Promise<Kysely<Tables>> };

/** The server's database. Jobs that a killed server left behind are marked interrupted at the first use. */
export function database(): Promise<Kysely<Tables>> {
  holder.wembrelDatabase ??= (async () => {
    const { db } = await openDatabase(join(dataFolder(), 'wembrel.db'));
    await markInterrupted(db);
    await clearDeleted(db);
    return db;
  })();
  return holder.wembrelDatabase;
}

/** Also clears away what such jobs had written. */
async function markInterrupted(db: Kysely<Tables>): Promise<void> {
  const open = await db.selectFrom('job').select('id').where('state', 'in', ['queued', 'running']).execute();
  for (const { id } of open) await rm(jobFolder(id), { recursive: true, force: true });
  await db
    .updateTable('job')
    .set({
      state: 'interrupted',
      message: 'the server stopped while it was running; run it again',
      finished: new Date().toISOString(),
    })
    .where('state', 'in', ['queued', 'running'])
    .execute();
}

/** Projects that were deleted before this start are gone for good, with the folders of their jobs. */
export async function clearDeleted(db: Kysely<Tables>): Promise<void> {
  const jobs = await db
    .selectFrom('job')
    .innerJoin('project', 'project.id', 'job.project')
    .select('job.id')
    .where('project.deleted', 'is not', null)
    .execute();
  for (const { id } of jobs) await rm(jobFolder(id), { recursive: true, force: true });
  await db.deleteFrom('project').where('deleted', 'is not', null).execute();
}
