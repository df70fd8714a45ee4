import { mkdirSync } from 'node:fs';
import path from 'node:path';
import { createClient } from '@libsql/client';
import { drizzle, type LibSQLDatabase } from 'drizzle-orm/libsql';
import { migrate } from 'drizzle-orm/libsql/migrator';
import { config } from '../config';
import { singleton } from '../singleton';
import * as schema from './schema';

export type Database = LibSQLDatabase<typeof schema>;

async function open(): Promise<Database> {
  const { databaseUrl, databaseToken, dataDir } = config();
  mkdirSync(dataDir, { recursive: true });
  const client = createClient({ url: databaseUrl, authToken: databaseToken });
  if (databaseUrl.startsWith('file:')) await client.execute('PRAGMA journal_mode = WAL');
  const database = drizzle(client, { schema });
  await migrate(database, { migrationsFolder: path.join(process.cwd(), 'server/migrations') });
  return database;
}

/**
 * The database of this process, opened and brought to the newest schema on first use. SQLite keeps its default of full
 * synchronisation: a transaction that has been acknowledged survives a crash.
 */
export function database(): Promise<Database> {
  return singleton('database', open);
}
