import type { Draft } from '@/core/song';
import { draftGainNow, useListening } from '../session';
import { useSongStore } from '../song';

/** The song becomes a draft, in time with the music; the monitor is turned so that it stays as loud as it was. */
export function takeDraft(draft: Draft): void {
  const { isMatched, trimDb, setTrim, hearDraft } = useListening.getState();
  const gainDb = draftGainNow(draft.id);
  useSongStore.getState().edit({ kind: 'draft.take', draftId: draft.id }, `Take “${draft.name}”`);
  hearDraft(null);
  if (isMatched) setTrim(Math.round((trimDb + gainDb) * 10) / 10);
}
