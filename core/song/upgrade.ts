import { SONG_VERSION } from './model';

const isRecord = (value: unknown): value is Record<string, unknown> =>
  typeof value === 'object' && value !== null && !Array.isArray(value);

/** What stands in a chain has had a name since version 2, a band may give way, a strip has levels of its middle and its sides, a track a delay, and a group claims. */
function withFields(value: unknown): unknown {
  if (Array.isArray(value)) return value.map(withFields);
  if (!isRecord(value)) return value;
  const entries = Object.entries(value).map(([field, part]) => [field, withFields(part)]);
  return withPassage({
    ...(value.kind === 'equalizer' && { name: '' }),
    ...('chain' in value && 'outputId' in value && { midDb: 0, sideDb: 0 }),
    ...('outputId' in value && 'chain' in value && !('audioId' in value) && { claims: [] }),
    ...('audioId' in value && 'chain' in value && { delayMs: 0 }),
    ...('letter' in value && 'family' in value && { givesWay: null }),
    ...('tap' in value && 'busId' in value && { enabled: true }),
    ...Object.fromEntries(entries),
  });
}

/** Since version 3 a passage has fades and a switch, and names each figure that it sets; it knew bands alone before. */
function withPassage(value: Record<string, unknown>): Record<string, unknown> {
  const { changes } = value;
  if (!('endSeconds' in value) || !Array.isArray(changes)) return value;
  const figures = changes.flatMap((change: Record<string, unknown>) =>
    isRecord(change.settings)
      ? Object.entries(change.settings).map(([field, setting]) => ({
          figure: { stripId: change.stripId, of: 'band', partId: change.bandId, field },
          value: setting,
          points: [],
        }))
      : [change],
  );
  return { fadeInSeconds: 0, fadeOutSeconds: 0, enabled: true, ...value, changes: figures };
}

/** A song of an earlier version as one of this version, its drafts too; anything else is left to the schema. */
export function upgradeSong(document: unknown): unknown {
  if (!isRecord(document) || !(document.version === 1 || document.version === 2)) return document;
  return { ...(withFields(document) as object), version: SONG_VERSION };
}

/** An edit of an earlier version, as the journal and browsers keep them, as one of this version. */
export const upgradeEdit = withFields as <T>(edit: T) => T;
