import type { Draft } from '@/core/song';
import type { Desk } from '../../window/desk/desk';
import { draftGainNow, useListening } from '../../window/sound/listening';
import { useSongStore } from '../../window/song/song-store';

/** The song becomes a draft, in time with the music; the monitor is turned so that it stays as loud as it was. */
export function takeDraft(desk: Desk, draft: Draft): void {
  const { isMatched, trimDb, setTrim, hearDraft } = useListening.of(desk);
  const gainDb = draftGainNow(desk, draft.id);
  useSongStore.of(desk).edit({ kind: 'draft.take', draftId: draft.id }, `Take “${draft.name}”`);
  hearDraft(null);
  if (isMatched) setTrim(Math.round((trimDb + gainDb) * 10) / 10);
}
