import { and, desc, eq, isNotNull, isNull } from 'drizzle-orm';
import { OrvidError } from '@/core/errors';
import { fileFormat, parseChainFile, parseEqualizerFile } from '@/core/formats';
import { newId } from '@/core/song';
import { database } from '../database/client';
import { presets } from '../database/schema';

/** An equalizer, or a whole chain, that was saved under a name. */
export interface Preset {
  id: string;
  name: string;
  part: string;
  /** An equalizer file, or a chain's. */
  equalizer: string;
}

const shown = { id: presets.id, name: presets.name, part: presets.part, equalizer: presets.equalizer };

const gone = (presetId: string) =>
  new OrvidError('not-found', `There is no saved equalizer “${presetId}”. It may have been deleted.`);

/** All saved equalizers, the newest first. */
export async function listPresets(): Promise<Preset[]> {
  const db = await database();
  return db.select(shown).from(presets).where(isNull(presets.deletedAt)).orderBy(desc(presets.createdAt));
}

/** Saves an equalizer or a chain. @throws OrvidError `invalid-input` when the text is the file of neither */
export async function savePreset(preset: Omit<Preset, 'id'>): Promise<Preset> {
  const parse = fileFormat(preset.equalizer) === 'orvid.chain' ? parseChainFile : parseEqualizerFile;
  parse(preset.equalizer, preset.name);
  const db = await database();
  const saved = { id: newId(12), ...preset };
  await db.insert(presets).values({ ...saved, createdAt: new Date() });
  return saved;
}

/** Takes a saved equalizer off the list; {@link restorePreset} puts it back. @throws OrvidError `not-found` */
export async function deletePreset(presetId: string): Promise<void> {
  const db = await database();
  const { rowsAffected } = await db
    .update(presets)
    .set({ deletedAt: new Date() })
    .where(and(eq(presets.id, presetId), isNull(presets.deletedAt)));
  if (rowsAffected === 0) throw gone(presetId);
}

/** @throws OrvidError `not-found` when no such equalizer was deleted */
export async function restorePreset(presetId: string): Promise<void> {
  const db = await database();
  const { rowsAffected } = await db
    .update(presets)
    .set({ deletedAt: null })
    .where(and(eq(presets.id, presetId), isNotNull(presets.deletedAt)));
  if (rowsAffected === 0) throw gone(presetId);
}
