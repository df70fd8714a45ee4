import { index, integer, primaryKey, real, sqliteTable, text, uniqueIndex } from 'drizzle-orm/sqlite-core';
import type { SampleBits } from '@/core/engine';
import type { AboutFile } from '@/core/renders';
import type { Edit, Song } from '@/core/song';
import type { Job, JobTask } from '../jobs/job';

/** A song: its revision counts the edits of its journal; the document is a snapshot at `documentRevision`. */
export const songs = sqliteTable('songs', {
  id: text('id').primaryKey(),
  title: text('title').notNull(),
  revision: integer('revision').notNull(),
  document: text('document', { mode: 'json' }).$type<Song>().notNull(),
  documentRevision: integer('document_revision').notNull(),
  createdAt: integer('created_at', { mode: 'timestamp_ms' }).notNull(),
  changedAt: integer('changed_at', { mode: 'timestamp_ms' }).notNull(),
  deletedAt: integer('deleted_at', { mode: 'timestamp_ms' }),
  /** For the list, so that it need not read documents; null in songs of older versions until they are listed once. */
  tracks: integer('tracks'),
  lengthSeconds: real('length_seconds'),
  /** Why it cannot be opened; null for a song that can. */
  problem: text('problem'),
});

/** Earlier documents of a song, a few of the latest: what one goes back to when the song is damaged. */
export const snapshots = sqliteTable(
  'snapshots',
  {
    songId: text('song_id')
      .notNull()
      .references(() => songs.id),
    revision: integer('revision').notNull(),
    document: text('document', { mode: 'json' }).$type<Song>().notNull(),
    createdAt: integer('created_at', { mode: 'timestamp_ms' }).notNull(),
  },
  (table) => [primaryKey({ columns: [table.songId, table.revision] })],
);

/** The journal. After a crash it is the truth. */
export const edits = sqliteTable(
  'edits',
  {
    id: text('id').notNull(),
    songId: text('song_id')
      .notNull()
      .references(() => songs.id),
    revision: integer('revision').notNull(),
    clientId: text('client_id').notNull(),
    edit: text('edit', { mode: 'json' }).$type<Edit>().notNull(),
    /** Of the kinds of edits: what a newer application has written an older one does not read. */
    version: integer('version').notNull().default(1),
    createdAt: integer('created_at', { mode: 'timestamp_ms' }).notNull(),
  },
  (table) => [
    uniqueIndex('edits_by_revision').on(table.songId, table.revision),
    uniqueIndex('edits_by_id').on(table.songId, table.id),
  ],
);

/** A recording in the audio store. */
export const audio = sqliteTable(
  'audio',
  {
    id: text('id').primaryKey(),
    originalHash: text('original_hash').notNull(),
    originalName: text('original_name').notNull(),
    format: text('format').notNull(),
    channels: integer('channels').notNull(),
    rateHz: integer('rate_hz').notNull(),
    originalRateHz: integer('original_rate_hz').notNull(),
    lengthFrames: integer('length_frames').notNull(),
    /** CRC-32 of each page, eight hexadecimal digits a page; null in recordings of older versions until they are checked. */
    pageChecksums: text('page_checksums'),
    /** How the samples of its pages are written: whole numbers of so many bits, or floats of 32. */
    sampleBits: integer('sample_bits').$type<SampleBits>().notNull().default(32),
    createdAt: integer('created_at', { mode: 'timestamp_ms' }).notNull(),
  },
  (table) => [index('audio_by_original').on(table.originalHash)],
);

/** Imports and renders, so that each is answered for after a crash. */
export const jobs = sqliteTable(
  'jobs',
  {
    id: text('id').primaryKey(),
    songId: text('song_id').notNull(),
    /** As the page sees it. */
    job: text('job', { mode: 'json' }).$type<Job>().notNull(),
    /** What takes it up again after a crash. */
    task: text('task', { mode: 'json' }).$type<JobTask>().notNull(),
    isRunning: integer('is_running', { mode: 'boolean' }).notNull(),
    changedAt: integer('changed_at', { mode: 'timestamp_ms' }).notNull(),
  },
  (table) => [index('jobs_by_song').on(table.songId)],
);

/** Equalizers that were saved under a name, for every song: the text is an equalizer file. */
export const presets = sqliteTable('presets', {
  id: text('id').primaryKey(),
  name: text('name').notNull(),
  /** What it was made for, in the engineer's words. */
  part: text('part').notNull(),
  equalizer: text('equalizer').notNull(),
  createdAt: integer('created_at', { mode: 'timestamp_ms' }).notNull(),
  deletedAt: integer('deleted_at', { mode: 'timestamp_ms' }),
});

/** Finished files that can be downloaded: renders, and whatever else was made of a song to hand on. */
export const renders = sqliteTable('renders', {
  id: text('id').primaryKey(),
  songId: text('song_id')
    .notNull()
    .references(() => songs.id),
  revision: integer('revision').notNull(),
  fileName: text('file_name').notNull(),
  format: text('format').notNull(),
  /** What is told of it; null for those of older versions. */
  about: text('about', { mode: 'json' }).$type<AboutFile>(),
  createdAt: integer('created_at', { mode: 'timestamp_ms' }).notNull(),
});

/** Moments of a song's journal that were given a name. */
export const moments = sqliteTable(
  'moments',
  {
    songId: text('song_id')
      .notNull()
      .references(() => songs.id),
    revision: integer('revision').notNull(),
    name: text('name').notNull(),
    createdAt: integer('created_at', { mode: 'timestamp_ms' }).notNull(),
  },
  (table) => [primaryKey({ columns: [table.songId, table.revision] })],
);
