import { existsSync } from 'node:fs';
import { copyFile, mkdir, mkdtemp, readdir, rename, rm } from 'node:fs/promises';
import path from 'node:path';
import { createClient, type Client } from '@libsql/client';
import { drizzle } from 'drizzle-orm/libsql';
import { migrate } from 'drizzle-orm/libsql/migrator';
import { asOrvidError, OrvidError } from '@/core/errors';
import { config } from '../config';
import { log } from '../log';
import { claimFolder } from './claim';
import { closeDatabase, databaseFile, fileClient, MIGRATIONS, openDatabase, refuseNewer } from './client';
import { PATIENCE_MS } from './patience';

/** Copies of the database: made and brought back while the server runs. Recordings never change and are copied as files. */
const DAILY_KEPT = 7;
const HOUR_MS = 3_600_000;

export const backupFolder = (): string => path.join(config().dataDir, 'backups');

/** Writes a consistent copy under a temporary name and gives it its name when it is whole. */
export async function backUp(file: string): Promise<void> {
  const { client } = await openDatabase();
  const temporary = `${file}.${process.pid}.tmp`;
  await rm(temporary, { force: true });
  try {
    await client.execute({ sql: 'VACUUM INTO ?', args: [temporary] });
    await rename(temporary, file);
  } finally {
    await rm(temporary, { force: true });
  }
}

/** A copy a day, the last seven of them. @returns the one of today where it was made just now */
export async function keepDailyBackup(today = new Date()): Promise<string | null> {
  const folder = backupFolder();
  await mkdir(folder, { recursive: true });
  const file = path.join(folder, `orvid-${today.toISOString().slice(0, 10)}.db`);
  if (existsSync(file)) return null;
  await backUp(file);
  const daily = (await readdir(folder)).filter((name) => /^orvid-\d{4}-\d\d-\d\d\.db$/.test(name)).sort();
  for (const name of daily.slice(0, -DAILY_KEPT)) await rm(path.join(folder, name));
  return file;
}

/** Looks every hour whether the day's copy is there. */
export function keepDailyBackups(): void {
  if (!config().databaseUrl.startsWith('file:')) return;
  const look = () => keepDailyBackup().catch((error: unknown) => log.error({ error }, 'the daily backup failed'));
  void look();
  setInterval(() => void look(), HOUR_MS).unref();
}

const columnsOf = async (client: Client, table: string) =>
  (await client.execute(`SELECT name FROM pragma_table_info('${table}')`)).rows.map(({ name }) => `"${String(name)}"`);

/** A copy that is checked and brought to this application's schema, beside the one that was given. */
async function prepared(file: string, folder: string): Promise<string> {
  const copy = path.join(folder, 'restored.db');
  await copyFile(file, copy);
  const refuse = (problem: string) =>
    new OrvidError('invalid-input', `${path.basename(file)} ${problem}.`, 'Nothing was changed.');
  const client = fileClient(`file:${copy}`);
  try {
    const { rows } = await client.execute('PRAGMA integrity_check').catch(() => {
      throw refuse('is not a database');
    });
    if (Object.values(rows[0])[0] !== 'ok') throw refuse('is damaged');
    if ((await columnsOf(client, 'songs')).length === 0) throw refuse('holds no songs of Orvid');
    await refuseNewer(client, path.basename(file));
    await migrate(drizzle(client), { migrationsFolder: MIGRATIONS });
  } finally {
    client.close();
  }
  return copy;
}

/** Copies what there is. @returns false where that cannot be done, since it is empty, foreign, damaged, of a newer version, or cannot be read */
async function keepBefore(before: string): Promise<boolean> {
  try {
    await backUp(before);
    return true;
  } catch (thrown) {
    if (['conflict', 'database-damaged', 'disk-failing'].includes(asOrvidError(thrown).code)) return false;
    throw thrown;
  }
}

/** Moves what there is away, and puts a copy in its place. @throws OrvidError `conflict` while a server works on the folder */
async function replace(before: string, copy: string): Promise<void> {
  const release = await claimFolder(config().dataDir);
  try {
    await closeDatabase().catch(() => undefined);
    for (const log of ['', '-wal', '-shm'])
      if (existsSync(databaseFile() + log)) await rename(databaseFile() + log, before + log);
    await copyFile(copy, databaseFile());
  } finally {
    release();
  }
}

/**
 * Puts the database back to a copy, in one transaction: a server that runs goes on with it. What there was is kept as another copy.
 * @returns the file of what there was
 * @throws OrvidError `invalid-input` for what is no copy, `conflict` for one of a newer application
 */
export async function restore(file: string): Promise<string> {
  const folder = backupFolder();
  await mkdir(folder, { recursive: true });
  const temporary = await mkdtemp(path.join(folder, 'restore-'));
  try {
    const copy = await prepared(file, temporary);
    const before = path.join(folder, `before-restore-${new Date().toISOString().replace(/[:.]/g, '-')}.db`);
    if (!(await keepBefore(before))) {
      await replace(before, copy);
      return before;
    }
    // One connection that is never thrown away: the copy is attached to it.
    const client = createClient({ url: config().databaseUrl, timeout: PATIENCE_MS, concurrency: 1 });
    try {
      await client.execute({ sql: 'ATTACH ? AS restored', args: [copy] });
      const { rows } = await client.execute(
        `SELECT name FROM sqlite_master WHERE type = 'table' AND name NOT LIKE 'sqlite_%' AND name NOT LIKE 'libsql_%'`,
      );
      const tables = rows.map(({ name }) => String(name));
      const columns = await Promise.all(tables.map(async (table) => (await columnsOf(client, table)).join(', ')));
      await client.batch(
        [
          'PRAGMA defer_foreign_keys = ON',
          ...tables.map((table) => `DELETE FROM main."${table}"`),
          ...tables.map(
            (table, i) => `INSERT INTO main."${table}" (${columns[i]}) SELECT ${columns[i]} FROM restored."${table}"`,
          ),
        ],
        'write',
      );
    } finally {
      client.close();
    }
    return before;
  } finally {
    await rm(temporary, { recursive: true, force: true });
  }
}
