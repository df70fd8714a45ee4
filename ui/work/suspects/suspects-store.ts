import { useEffect } from 'react';
import { type Desk, deskStore, useDesk } from '../../window/desk/desk';
import { bandsForSuspect, type Suspect } from '@/core/suspects';
import { useListening } from '../../window/sound/listening';
import { useSession } from '../../window/sound/session-store';
import { addBands, chooseNewest } from '../../window/song/equalizer-edits';
import { request } from '../../window/server/request';
import { useSongStore } from '../../window/song/song-store';
import { suspectsUrl } from '../../window/server/measured-urls';

/** What may be wrong with the recordings, as far as it has been asked for, and what of it is heard now. */
interface SuspectsStore {
  byAudio: Readonly<Record<string, readonly Suspect[]>>;
  failed: Readonly<Record<string, string>>;
  heard: { stripId: string; suspect: Suspect } | null;
}

export const useSuspectsStore = deskStore<SuspectsStore>(() => () => ({ byAudio: {}, failed: {}, heard: null }));
/** Recordings that were asked for. */
const makeAsked = () => new Set<string>();

/** The suspects of a recording; looked for on the server when it is asked for the first time. */
export function useSuspects(audioId: string): {
  suspects: readonly Suspect[] | undefined;
  problem: string | undefined;
} {
  const desk = useDesk();
  const suspects = useSuspectsStore((store) => store.byAudio[audioId]);
  const problem = useSuspectsStore((store) => store.failed[audioId]);
  useEffect(() => {
    const asked = desk.part(makeAsked);
    if (asked.has(audioId)) return;
    asked.add(audioId);
    useSuspectsStore.api(desk).setState(({ failed: { [audioId]: _, ...failed } }) => ({ failed }));
    request<Suspect[]>('GET', suspectsUrl(audioId)).then(
      (found) => useSuspectsStore.api(desk).setState(({ byAudio }) => ({ byAudio: { ...byAudio, [audioId]: found } })),
      (error: Error) => {
        asked.delete(audioId);
        useSuspectsStore.api(desk).setState(({ failed }) => ({ failed: { ...failed, [audioId]: error.message } }));
      },
    );
  }, [desk, audioId]);
  return { suspects, problem };
}

/** Only the suspect's range of the track is heard, half an octave wide at least. */
export function hearSuspect(desk: Desk, stripId: string, suspect: Suspect): void {
  const half = Math.max(2 ** 0.25, Math.sqrt(suspect.highHz / suspect.lowHz));
  const middle = Math.sqrt(suspect.lowHz * suspect.highHz);
  useListening.of(desk).setEarshot({
    stripId,
    lowHz: Math.max(20, middle / half),
    highHz: Math.min(20000, middle * half),
  });
  useSuspectsStore.api(desk).setState({ heard: { stripId, suspect } });
  const { isPlaying, togglePlay } = useSession.of(desk);
  if (!isPlaying) togglePlay();
}

export function endSuspect(desk: Desk): void {
  if (!useSuspectsStore.of(desk).heard) return;
  useListening.of(desk).setEarshot(null);
  useSuspectsStore.api(desk).setState({ heard: null });
}

/** Takes a suspect as bands that fit it; they are ordinary bands from then on. */
export function takeSuspect(desk: Desk, stripId: string, suspect: Suspect, note: string): void {
  endSuspect(desk);
  const bands = bandsForSuspect(suspect).map((band) => ({ ...band, note }));
  useSongStore.of(desk).edit(addBands(desk, [stripId], bands), 'Take a suspect');
  chooseNewest(desk);
}
