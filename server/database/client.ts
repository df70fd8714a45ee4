import { createReadStream, existsSync, mkdirSync, readdirSync, readFileSync } from 'node:fs';
import path from 'node:path';
import { finished } from 'node:stream/promises';
import { fileURLToPath } from 'node:url';
import { createClient, type Client } from '@libsql/client';
import { drizzle, type LibSQLDatabase } from 'drizzle-orm/libsql';
import { migrate } from 'drizzle-orm/libsql/migrator';
import { OrvidError } from '@/core/errors';
import { config } from '../config';
import { singleton } from '../singleton';
import { patientClient } from './patience';
import * as schema from './schema';

export type Database = LibSQLDatabase<typeof schema>;
export interface OpenDatabase {
  client: Client;
  database: Database;
}

/** Pages of a database that are not worth the work. */
const LEAST_GIVEN_BACK = 256;

export const MIGRATIONS = path.join(process.cwd(), 'server/migrations');

/** When the newest migration that this application knows was made. */
function newestKnown(): number {
  const journal = JSON.parse(readFileSync(path.join(MIGRATIONS, 'meta/_journal.json'), 'utf8')) as {
    entries: { when: number }[];
  };
  return Math.max(...journal.entries.map(({ when }) => when));
}

const hasTable = async (client: Client, table: string) =>
  (await client.execute({ sql: `SELECT 1 FROM sqlite_master WHERE type = 'table' AND name = ?`, args: [table] })).rows
    .length > 0;

/** @throws OrvidError `conflict` for a database that a newer application has written: nothing of it is changed */
export async function refuseNewer(client: Client, what: string): Promise<void> {
  if (!(await hasTable(client, '__drizzle_migrations'))) return;
  const { rows } = await client.execute('SELECT MAX(created_at) AS newest FROM __drizzle_migrations');
  if (Number(rows[0].newest ?? 0) <= newestKnown()) return;
  throw new OrvidError(
    'conflict',
    `${what} was written by a newer Orvid than this one.`,
    'Nothing of it was changed. Start the newer one, or go back to a copy that this one has made.',
  );
}

/** @throws OrvidError `conflict` where recordings lie in the folder that the database knows nothing of: it was emptied or replaced */
async function refuseForeign(client: Client, dataDir: string): Promise<void> {
  const pages = path.join(dataDir, 'audio', 'pages');
  const recordings = existsSync(pages) ? readdirSync(pages).length : 0;
  if (recordings === 0) return;
  if ((await hasTable(client, 'audio')) && (await client.execute('SELECT 1 FROM audio LIMIT 1')).rows.length > 0)
    return;
  throw new OrvidError(
    'conflict',
    `The database is empty, but ${path.join(dataDir, 'audio')} holds ${recordings} recordings: it was lost or replaced.`,
    `Nothing was changed. Bring back a copy (npm run orvid -- restore FILE; daily ones lie in ${path.join(dataDir, 'backups')}), or move the folder audio away to begin anew.`,
  );
}

/** A client for a database file. SQLite does not wait for locks in it, since that would stop the event loop: it waits by itself. */
export const fileClient = (url: string): Client =>
  patientClient(() => createClient({ url, timeout: 0, concurrency: 1 }));

/** Where the database lies that is a file. */
export const databaseFile = () => fileURLToPath(config().databaseUrl.replace(/^file:(?!\/\/)/, 'file://'));
const logOf = (file: string) => `${file}-wal`;

/**
 * Reads a file to its end. What the disk cannot read of a database or its log the library takes for empty, without a word; the log, which holds the
 * last changes, would be deleted with the last connection.
 * @throws what the system says of the disk
 */
async function requireReadable(file: string): Promise<void> {
  if (!existsSync(file)) return;
  const stream = createReadStream(file);
  stream.resume();
  await finished(stream);
}

const number = async (client: Client, pragma: string) =>
  Number(Object.values((await client.execute(`PRAGMA ${pragma}`)).rows[0])[0]);

/** Gives back to the disk what a migration has freed, where that is more than what is left: the database held all waveforms once. */
async function giveBack(client: Client): Promise<void> {
  const pages = await number(client, 'page_count');
  if ((await number(client, 'freelist_count')) > Math.max(pages / 2, LEAST_GIVEN_BACK)) await client.execute('VACUUM');
}

async function open(): Promise<OpenDatabase> {
  const { databaseUrl, databaseToken, dataDir } = config();
  mkdirSync(dataDir, { recursive: true });
  const isFile = databaseUrl.startsWith('file:');
  if (isFile) for (const file of [databaseFile(), logOf(databaseFile())]) await requireReadable(file);
  const client = isFile ? fileClient(databaseUrl) : createClient({ url: databaseUrl, authToken: databaseToken });
  try {
    await refuseNewer(client, 'The database');
    if (isFile) {
      await refuseForeign(client, dataDir);
      await client.execute('PRAGMA journal_mode = WAL');
    }
    const database = drizzle(client, { schema });
    await migrate(database, { migrationsFolder: MIGRATIONS });
    // It is as good without; the next opening tries again.
    if (isFile) await giveBack(client).catch(() => undefined);
    return { client, database };
  } catch (thrown) {
    client.close();
    throw thrown;
  }
}

const opened = () => singleton('database', () => ({ opening: null as Promise<OpenDatabase> | null }));

/** The database and its connection. An opening that has failed is tried again the next time. */
export function openDatabase(): Promise<OpenDatabase> {
  const state = opened();
  state.opening ??= open().catch((thrown: unknown) => {
    state.opening = null;
    throw thrown;
  });
  return state.opening;
}

/**
 * The database of this process, opened and brought to the newest schema on first use. It is in WAL mode with SQLite's default of full
 * synchronisation: a transaction that has been acknowledged survives a crash, of the machine too.
 */
export async function database(): Promise<Database> {
  return (await openDatabase()).database;
}

/** Ends the connection; the file is whole by itself then, without its log. Where the disk cannot read the log, both are left as they are. */
export async function closeDatabase(): Promise<void> {
  const state = opened();
  if (!state.opening) return;
  const { client } = await state.opening;
  const isFile = config().databaseUrl.startsWith('file:');
  if (isFile) await requireReadable(logOf(databaseFile()));
  state.opening = null;
  try {
    if (isFile) await client.execute('PRAGMA wal_checkpoint(TRUNCATE)');
  } finally {
    client.close();
  }
}
