import { index, integer, sqliteTable, text, uniqueIndex } from 'drizzle-orm/sqlite-core';
import type { Edit, Song } from '@/core/song';

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
});

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
    createdAt: integer('created_at', { mode: 'timestamp_ms' }).notNull(),
  },
  (table) => [index('audio_by_original').on(table.originalHash)],
);

/** What was measured of a recording when it came in. */
export const analyses = sqliteTable('analyses', {
  audioId: text('audio_id')
    .primaryKey()
    .references(() => audio.id),
  analysis: text('analysis', { mode: 'json' }).$type<import('@/core/measure').RecordingAnalysis>().notNull(),
});

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

/** Finished renders that can be downloaded. */
export const renders = sqliteTable('renders', {
  id: text('id').primaryKey(),
  songId: text('song_id')
    .notNull()
    .references(() => songs.id),
  revision: integer('revision').notNull(),
  fileName: text('file_name').notNull(),
  format: text('format').notNull(),
  createdAt: integer('created_at', { mode: 'timestamp_ms' }).notNull(),
});
