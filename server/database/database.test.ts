import { spawn } from 'node:child_process';
import {
  cpSync,
  existsSync,
  mkdirSync,
  mkdtempSync,
  readdirSync,
  readFileSync,
  renameSync,
  rmSync,
  statSync,
  symlinkSync,
  writeFileSync,
} from 'node:fs';
import os from 'node:os';
import path from 'node:path';
import { createClient, type Client } from '@libsql/client';
import { drizzle } from 'drizzle-orm/libsql';
import { migrate } from 'drizzle-orm/libsql/migrator';
import { asOrvidError } from '@/core/errors';
import { emptySong, newTrack } from '@/core/song';
import { singleton } from '../singleton';
import { createEmptySong, listSongs, loadSong, submitEdits } from '../songs/store';
import { ownDataFolder } from '../testing/data-folder';
import { backUp, keepDailyBackup, restore } from './backup';
import { claimFolder } from './claim';
import { closeDatabase, openDatabase } from './client';
import { patiently } from './patience';

const folder = ownDataFolder();
const file = path.join(folder, 'orvid.db');
const MIGRATIONS = 'server/migrations';

/** Another process that has the same file open. */
const other = () => createClient({ url: `file:${file}`, concurrency: 1 });
const forgetSongs = () => singleton('songs', () => new Map()).clear();
const rename = (songId: string, title: string) =>
  submitEdits(songId, 'w', [{ id: `to ${title}`, edit: { kind: 'song.set', changes: { title } } }]);

/** Starts with another database file. */
async function withDatabase(make: () => Promise<void> | void): Promise<void> {
  await closeDatabase();
  forgetSongs();
  for (const log of ['', '-wal', '-shm']) rmSync(file + log, { force: true });
  await make();
}

afterEach(closeDatabase);

test('it is in WAL mode and fully synchronised; after a clean end the file is whole by itself', async () => {
  const { client } = await openDatabase();
  expect((await client.execute('PRAGMA journal_mode')).rows[0].journal_mode).toBe('wal');
  expect((await client.execute('PRAGMA synchronous')).rows[0].synchronous).toBe(2);
  const { id } = await createEmptySong('Whole', 48000);
  await closeDatabase();
  const alone = path.join(folder, 'alone.db');
  cpSync(file, alone);
  const copy = createClient({ url: `file:${alone}` });
  expect((await copy.execute({ sql: 'SELECT title FROM songs WHERE id = ?', args: [id] })).rows[0].title).toBe('Whole');
  copy.close();
});

test('a database or a log that the disk cannot read is told as such and left as it is; with both read again nothing is lost', async () => {
  const { id } = await createEmptySong('Kept', 48000);
  const log = `${file}-wal`;
  for (const harmed of [log, file]) {
    await closeDatabase();
    forgetSongs();
    // A log is there only while somebody has the database open.
    const holder = other();
    await holder.execute({ sql: 'UPDATE songs SET title = ? WHERE id = ?', args: [path.basename(harmed), id] });
    renameSync(harmed, `${harmed}.away`);
    // It opens, and the system reports an error of the device (EIO) when it is read: address 0 of a process is nowhere.
    symlinkSync('/proc/self/mem', harmed);
    expect(asOrvidError(await openDatabase().catch((thrown: unknown) => thrown)).code).toBe('disk-failing');
    renameSync(`${harmed}.away`, harmed);
    expect((await loadSong(id)).revision).toBe(0);
    expect((await listSongs()).find((song) => song.id === id)?.title).toBe(path.basename(harmed));
    holder.close();
  }
  await rename(id, 'Last');
  renameSync(log, `${log}.away`);
  symlinkSync('/proc/self/mem', log);
  expect(asOrvidError(await closeDatabase().catch((thrown: unknown) => thrown)).code).toBe('disk-failing');
  renameSync(`${log}.away`, log);
  await closeDatabase();
  expect((await loadSong(id)).song.title).toBe('Last');
  // Where it stays so, a copy is brought back.
  const copy = path.join(folder, 'readable.db');
  await backUp(copy);
  await closeDatabase();
  forgetSongs();
  rmSync(file);
  symlinkSync('/proc/self/mem', file);
  await restore(copy);
  expect((await loadSong(id)).song.title).toBe('Last');
});

test('while another process holds a lock, edits wait, and the event loop goes on; nothing is felt once it is gone', async () => {
  const { id } = await createEmptySong('Locked', 48000);
  const locker = other();
  const lock = await locker.transaction('write');
  let turns = 0;
  const ticking = setInterval(() => turns++, 10);
  const edits = Promise.all(['A', 'B', 'C'].map((title) => rename(id, title)));
  // However slow the machine is: a thread that waits for the lock itself makes no turn before the test's time is over.
  while (turns < 30) await new Promise((done) => setTimeout(done, 20));
  expect((await loadSong(id)).revision).toBe(0);
  await lock.rollback();
  const freed = Date.now();
  expect((await edits).flat().map((outcome) => 'revision' in outcome && outcome.revision)).toEqual([1, 2, 3]);
  expect(Date.now() - freed).toBeLessThan(1000);
  clearInterval(ticking);
  locker.close();
});

test('patience ends, and is spent on locks only', async () => {
  const busy = () => Promise.reject(new Error('SQLITE_BUSY: database is locked'));
  await expect(patiently(busy, 80)).rejects.toThrow('locked');
  let attempts = 0;
  const broken = () => Promise.reject(new Error(`no such table ${++attempts}`));
  await expect(patiently(broken)).rejects.toThrow('no such table 1');
});

test('a first opening that has failed is tried again', async () => {
  await withDatabase(() => mkdirSync(file));
  await expect(openDatabase()).rejects.toThrow();
  rmSync(file, { recursive: true });
  expect(await listSongs()).toEqual([]);
});

test('a database of a newer application is refused in words, and nothing of it is changed', async () => {
  await createEmptySong('Newer', 48000);
  await closeDatabase();
  const newer = other();
  await newer.execute(`INSERT INTO __drizzle_migrations (hash, created_at) VALUES ('newer', ${Date.now() * 2})`);
  await newer.execute('PRAGMA wal_checkpoint(TRUNCATE)');
  newer.close();
  const before = readFileSync(file);
  await expect(openDatabase()).rejects.toMatchObject({
    code: 'conflict',
    message: expect.stringContaining('newer Orvid'),
  });
  expect(readFileSync(file).equals(before)).toBe(true);
});

test('an emptied or replaced database beside recordings is said, and not begun anew; a copy brings it back', async () => {
  await withDatabase(() => undefined);
  const { client } = await openDatabase();
  await createEmptySong('Before', 48000);
  await client.execute(
    `INSERT INTO audio VALUES ('${'a'.repeat(64)}', 'x', 'Cello.wav', 'WAV 24', 1, 48000, 48000, 9, 0, NULL, 32)`,
  );
  const copy = path.join(folder, 'copy.db');
  await backUp(copy);
  mkdirSync(path.join(folder, 'audio/pages'), { recursive: true });
  writeFileSync(path.join(folder, 'audio/pages', 'a'.repeat(64)), '');
  for (const content of [null, '']) {
    await withDatabase(() => (content === null ? undefined : writeFileSync(file, content)));
    await expect(openDatabase()).rejects.toMatchObject({
      code: 'conflict',
      message: expect.stringContaining('1 recordings'),
    });
  }
  await restore(copy);
  expect((await listSongs()).map(({ title }) => title)).toEqual(['Before']);
  rmSync(path.join(folder, 'audio'), { recursive: true });
});

test('a copy is consistent while edits go on, and is brought back into a database that is in use', async () => {
  await withDatabase(() => undefined);
  const { id } = await createEmptySong('First', 48000);
  const copy = path.join(folder, 'copy.db');
  const [, outcomes] = await Promise.all([backUp(copy), rename(id, 'Meanwhile')]);
  expect(outcomes[0]).toMatchObject({ revision: 1 });
  await rename(id, 'Later');
  await createEmptySong('Another', 48000);
  const before = await restore(copy);
  expect(['First', 'Meanwhile']).toContain((await loadSong(id)).song.title);
  expect(await listSongs()).toHaveLength(1);
  await restore(before);
  expect((await loadSong(id)).song.title).toBe('Later');
  expect(await listSongs()).toHaveLength(2);
  for (const [what, content] of [
    ['text', 'no database'],
    ['nothing', ''],
  ]) {
    writeFileSync(path.join(folder, what), content);
    await expect(restore(path.join(folder, what))).rejects.toMatchObject({
      code: 'invalid-input',
      kept: 'Nothing was changed.',
    });
  }
  expect(await listSongs()).toHaveLength(2);
});

test('a copy is kept of each of the last seven days', async () => {
  for (let day = 1; day <= 9; day++) {
    expect(await keepDailyBackup(new Date(Date.UTC(2026, 0, day)))).not.toBeNull();
    expect(await keepDailyBackup(new Date(Date.UTC(2026, 0, day)))).toBeNull();
  }
  const kept = readdirSync(path.join(folder, 'backups')).filter((name) => name.startsWith('orvid-2026'));
  expect(kept.sort()).toEqual([3, 4, 5, 6, 7, 8, 9].map((day) => `orvid-2026-01-0${day}.db`));
});

test.each([
  ['its beginning', () => 0],
  ['its schema', () => 100],
  ['the songs', (bytes: Buffer) => bytes.indexOf('"format":"orvid.song"') - 200],
])('a database that is damaged at %s is called so, and restored from a copy', async (_, place) => {
  await withDatabase(() => undefined);
  const { id } = await createEmptySong('Dear', 48000);
  for (let i = 0; i < 5; i++) await rename(id, `Dear ${i}`);
  const copy = path.join(folder, 'good.db');
  await backUp(copy);
  await withDatabase(() => {
    const bytes = readFileSync(copy);
    bytes.fill(0xa5, place(bytes), place(bytes) + 700);
    writeFileSync(file, bytes);
  });
  const thrown = await loadSong(id).catch(asOrvidError);
  expect(thrown).toMatchObject({ code: 'database-damaged', kept: expect.stringContaining('restore FILE') });
  // The server that found it has ended.
  await closeDatabase().catch(() => undefined);
  forgetSongs();
  const before = await restore(copy);
  expect(existsSync(before)).toBe(true);
  expect((await loadSong(id)).song.title).toBe('Dear 4');
});

test('one server works on a folder; when it ends, however it does, another one can', async () => {
  await claimFolder(folder);
  await expect(claimFolder(folder)).rejects.toMatchObject({
    code: 'conflict',
    message: expect.stringContaining(folder),
  });
  const elsewhere = mkdtempSync(path.join(folder, 'elsewhere-'));
  const claim = `import('@libsql/client').then(async ({ createClient }) => {
    await createClient({ url: 'file:${elsewhere}/in-use.db', timeout: 0, concurrency: 1 }).transaction('write');
    console.log('claimed');
    setInterval(() => undefined, 1000);
  })`;
  const holder = spawn(process.execPath, ['-e', claim], { stdio: ['ignore', 'pipe', 'inherit'] });
  await new Promise((done) => holder.stdout.once('data', done));
  await expect(claimFolder(elsewhere)).rejects.toMatchObject({ code: 'conflict' });
  const ended = new Promise((done) => holder.once('exit', done));
  holder.kill('SIGKILL');
  await ended;
  await claimFolder(elsewhere);
});

/** A database as a version had it that knew only the first migrations. */
async function databaseOfVersion(migrations: number): Promise<Client> {
  const known = mkdtempSync(path.join(os.tmpdir(), 'orvid-migrations-'));
  cpSync(MIGRATIONS, known, { recursive: true });
  const journal = path.join(known, 'meta/_journal.json');
  const { entries, ...rest } = JSON.parse(readFileSync(journal, 'utf8')) as { entries: object[] };
  writeFileSync(journal, JSON.stringify({ ...rest, entries: entries.slice(0, migrations) }));
  const client = other();
  await migrate(drizzle(client), { migrationsFolder: known });
  rmSync(known, { recursive: true });
  return client;
}

const LANDED = (JSON.parse(readFileSync(path.join(MIGRATIONS, 'meta/_journal.json'), 'utf8')) as { entries: object[] })
  .entries.length;

test.each(Array.from({ length: LANDED }, (_, i) => i + 1))(
  'a database of the version with %i migrations is brought to the newest, with its songs and their journals',
  async (migrations) => {
    const track = newTrack(
      { audioId: 'ab'.repeat(32), channels: 1, lengthFrames: 96000 },
      { id: 'a', name: 'a', ink: 0 },
    );
    const document = JSON.stringify({ ...emptySong('Old'), tracks: [track] });
    const edit = JSON.stringify({ kind: 'song.set', changes: { title: 'Old, edited' } });
    await withDatabase(async () => {
      const client = await databaseOfVersion(migrations);
      await client.execute({
        sql: `INSERT INTO songs (id, title, revision, document, document_revision, created_at, changed_at) VALUES ('old', 'Old, edited', 1, ?, 0, 1, 2)`,
        args: [document],
      });
      await client.execute({
        sql: `INSERT INTO edits (id, song_id, revision, client_id, edit, created_at) VALUES ('e', 'old', 1, 'w', ?, 2)`,
        args: [edit],
      });
      client.close();
    });
    expect(await listSongs()).toMatchObject([{ title: 'Old, edited', tracks: 1, lengthSeconds: 2, problem: null }]);
    expect(await loadSong('old')).toMatchObject({ revision: 1, song: { title: 'Old, edited' } });
    expect(await rename('old', 'New')).toMatchObject([{ revision: 2 }]);
    expect(existsSync(file)).toBe(true);
  },
);

test('what the database held of recordings besides, 1 MB for each, is given back to the disk', async () => {
  const WITH_WAVEFORMS = 5;
  await withDatabase(async () => {
    const client = await databaseOfVersion(WITH_WAVEFORMS);
    await client.execute(
      `INSERT INTO audio (id, original_hash, original_name, format, channels, rate_hz, original_rate_hz, length_frames, created_at)
      VALUES ('r', 'o', 'Cello.wav', 'WAV', 1, 48000, 48000, 48000, 1)`,
    );
    await client.execute({
      sql: `INSERT INTO analyses (audio_id, analysis) VALUES ('r', ?)`,
      args: [JSON.stringify({ peaks: '0.1234,'.repeat(400_000) })],
    });
    client.close();
  });
  const before = statSync(file).size;
  const { client } = await openDatabase();
  expect((await client.execute('SELECT original_name FROM audio')).rows[0].original_name).toBe('Cello.wav');
  await closeDatabase();
  expect(before).toBeGreaterThan(2_800_000);
  expect(statSync(file).size).toBeLessThan(300_000);
});
