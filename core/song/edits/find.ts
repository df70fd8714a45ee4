import { equalizersOf, findStrip, type Strip } from '../model';
import type { ChainProcessor, Draft, Equalizer, Passage, Song } from '../schema';
import { gone } from './refusals';

/** What edits name, in a song. Each of these throws an OrvidError, `not-found`, where it is gone. */

export function need<T>(value: T | undefined, what: string): T {
  if (value === undefined) throw gone(what);
  return value;
}

export function needStrip(song: Song, stripId: string): Strip {
  return need(findStrip(song, stripId), 'track or bus');
}

export function needEqualizer(song: Song, stripId: string, equalizerId: string): Equalizer {
  return need(
    equalizersOf(needStrip(song, stripId).chain).find(({ id }) => id === equalizerId),
    'equalizer',
  );
}

export function needProcessor(
  song: Song,
  { stripId, processorId }: { stripId: string; processorId: string },
): ChainProcessor {
  return need(
    needStrip(song, stripId).chain.find(({ id }) => id === processorId),
    'processor',
  );
}

export function needBand(song: Song, edit: { stripId: string; equalizerId: string; bandId: string }) {
  const { bands } = needEqualizer(song, edit.stripId, edit.equalizerId);
  return need(
    bands.find((band) => band.id === edit.bandId),
    'band',
  );
}

export function needDraft(song: Song, draftId: string): Draft {
  return need(
    song.drafts.find((draft) => draft.id === draftId),
    'draft',
  );
}

export function needPassage(song: Song, passageId: string): Passage {
  return need(
    song.passages.find(({ id }) => id === passageId),
    'passage',
  );
}
