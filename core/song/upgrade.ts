import { SONG_VERSION } from './model';

const isRecord = (value: unknown): value is Record<string, unknown> =>
  typeof value === 'object' && value !== null && !Array.isArray(value);

/** What stands in a chain has had a name since version 2, a band may give way, a strip has levels of its middle and its sides, a track a delay, and a group claims. */
function withNames(value: unknown): unknown {
  if (Array.isArray(value)) return value.map(withNames);
  if (!isRecord(value)) return value;
  const entries = Object.entries(value).map(([field, part]) => [field, withNames(part)]);
  return {
    ...(value.kind === 'equalizer' && { name: '' }),
    ...('chain' in value && 'outputId' in value && { midDb: 0, sideDb: 0 }),
    ...('outputId' in value && 'chain' in value && !('audioId' in value) && { claims: [] }),
    ...('audioId' in value && 'chain' in value && { delayMs: 0 }),
    ...('letter' in value && 'family' in value && { givesWay: null }),
    ...Object.fromEntries(entries),
  };
}

/** A song of an earlier version as one of this version, its drafts too; anything else is left to the schema. */
export function upgradeSong(document: unknown): unknown {
  if (!isRecord(document) || document.version !== 1) return document;
  return { ...(withNames(document) as object), version: SONG_VERSION };
}

/** An edit of an earlier version, as the journal and browsers keep them, as one of this version. */
export const upgradeEdit = withNames as <T>(edit: T) => T;
