import { SqliteDialect } from 'kysely';
import Database from 'libsql';

/**
 * SQLite under Kysely. A bare Uint8Array or boolean parameter would end the whole process inside the native driver, so
 * every parameter passes this guard first.
 */
export function guardParameter(value: unknown): unknown {
  if (value === undefined) return null;
  if (typeof value === 'boolean') return value ? 1 : 0;
  if (value instanceof Date) return value.toISOString();
  if (value instanceof Uint8Array) return Buffer.from(value.buffer, value.byteOffset, value.byteLength);
  if (value === null || typeof value === 'string' || typeof value === 'bigint') return value;
  if (typeof value === 'number') {
    if (!Number.isFinite(value)) throw new TypeError('a number for the database must be finite');
    return value;
  }
  throw new TypeError(`a ${typeof value} cannot be stored in the database`);
}

interface Statement {
  reader: boolean;
  all(parameters: readonly unknown[]): unknown[];
  run(parameters: readonly unknown[]): { changes: number | bigint; lastInsertRowid: number | bigint };
  iterate(parameters: readonly unknown[]): IterableIterator<unknown>;
}

export function sqliteDialect(file: string): { dialect: SqliteDialect; close: () => void } {
  const db = new Database(file);
  db.exec('PRAGMA journal_mode = WAL');
  db.exec('PRAGMA foreign_keys = ON');
  db.exec('PRAGMA busy_timeout = 5000');
  db.exec('PRAGMA synchronous = FULL');
  const guarded = {
    close: () => db.close(),
    prepare(sql: string): Statement {
      const statement = db.prepare(sql) as unknown as Statement;
      const safe = (p: readonly unknown[]) => p.map(guardParameter);
      return {
        reader: statement.reader,
        all: (p) => statement.all(safe(p)),
        run: (p) => statement.run(safe(p)),
        iterate: (p) => statement.iterate(safe(p)),
      };
    },
  };
  return { dialect: new SqliteDialect({ database: guarded as never }), close: () => db.close() };
}
